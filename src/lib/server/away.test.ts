// A PostgreSQL server that stops and comes back under load: the process lives on, says that nothing was saved, loses nothing that it
// acknowledged, and lets no second Isotaxis in.
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { openDatabase, type Database } from './db/database';
import { migrate } from './db/migrate';
import { DatabaseAway } from './failures';
import { smallDesk } from '../../../tests/oracle/anyCommand';
import { createSessions } from './sessions';
import { startPostgres } from '../../../scripts/postgres.mjs';
import { freePort, started } from '../../../scripts/started.mjs';

let port: number;
let site: string;
let postgres: Awaited<ReturnType<typeof startPostgres>>;
let directory: string;
let server: ChildProcess;

const isotaxis = (port: number) => {
  const child = started('node', ['server.mjs'], {
    env: {
      ...process.env,
      DATABASE_URL: postgres.url,
      ISOTAXIS_DATA: path.join(directory, String(port)),
      PORT: String(port),
      LOG_LEVEL: 'silent'
    }
  });
  let said = '';
  const heard = new Promise<string>((resolve) => {
    const hear = (text: Buffer) => {
      said += text.toString();
      if (said.includes('Isotaxis is at')) resolve(said);
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('exit', () => resolve(said));
  });
  return { child, heard };
};

describe.skipIf(process.env.DATABASE_URL)('a database server', () => {
  beforeAll(async () => {
    directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-away-'));
    port = await freePort();
    site = `http://127.0.0.1:${port}`;
    postgres = await startPostgres();
    const database = await openDatabase('', postgres.url);
    await migrate(database);
    await database.query("insert into library (kind, name, value) values ('demo', 'made', 'true'::jsonb)");
    await createSessions(database).adopt('desk', smallDesk());
    await database.close();
    const first = isotaxis(port);
    server = first.child;
    expect(await first.heard).toContain('Isotaxis is at');
  });
  afterAll(async () => {
    server.kill('SIGKILL');
    await postgres.stop();
    postgres.remove();
    rmSync(directory, { recursive: true });
  });

  it('that stops and comes back under load loses nothing, and its lock stays ours', async () => {
    let on = true;
    let count = 0;
    let acknowledged = 0;
    const answers = new Set<string>();
    const post = (level: number) =>
      fetch(`${site}/api/sessions/desk/commands`, {
        method: 'POST',
        body: JSON.stringify({ base: 0, id: `move ${++count}`, commands: [{ do: 'faders.set', levels: [{ id: 'a', level }] }] })
      });
    const load = (async () => {
      while (on) {
        const level = -(count % 50) - 1;
        const reply = await post(level);
        const body = (await reply.json()) as { error?: { code: string } };
        answers.add(`${reply.status} ${body.error?.code ?? 'saved'}`);
        if (reply.ok) acknowledged = level;
      }
    })();
    const stream = await fetch(`${site}/api/sessions/desk/events?since=0`);
    for (let round = 0; round < 2; round++) {
      await new Promise((resolve) => setTimeout(resolve, 300));
      await postgres.stop();
      await new Promise((resolve) => setTimeout(resolve, 300));
      // What needs the database says so; nothing of it ends the process.
      expect((await fetch(`${site}/api/cue/a-token-of-some-length/events`)).status).toBe(503);
      expect((await fetch(`${site}/api/sessions/other/events?since=0`)).status).toBe(503);
      await postgres.start();
      await vi.waitFor(async () => expect((await fetch(`${site}/api/sessions`)).status).toBe(200), { timeout: 120_000, interval: 200 });
      // Ours again: a second one is not let in.
      expect(await isotaxis(await freePort()).heard).toContain('Another Isotaxis is using the database');
    }
    await new Promise((resolve) => setTimeout(resolve, 500));
    on = false;
    await load;
    expect(server.exitCode).toBeNull();
    expect([...answers].sort()).toEqual(['200 saved', '503 unavailable']);
    const { document } = (await (await fetch(`${site}/api/sessions/desk`)).json()) as {
      document: { channel: { id: string; faderDb: number }[] };
    };
    expect(document.channel.find(({ id }) => id === 'a')!.faderDb).toBe(acknowledged);
    await stream.body!.cancel();
  });

  it('that breaks off what takes long, only reads, or ends who is idle, is away for that moment', async () => {
    const told = async (settings: string, ask: (database: Database) => Promise<unknown>) => {
      const database = await openDatabase('', `${postgres.url}?options=${encodeURIComponent(settings)}`);
      try {
        await ask(database);
        return 'answered';
      } catch (error) {
        return error instanceof DatabaseAway ? 'away' : String(error);
      } finally {
        await database.close();
      }
    };
    const second = await startPostgres();
    const first = postgres;
    postgres = second;
    try {
      const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
      const make = (database: Database) => database.query('create table made ()');
      expect(await told('-c statement_timeout=50', (database) => database.query('select pg_sleep(2)'))).toBe('away');
      expect(await told('-c default_transaction_read_only=on', make)).toBe('away');
      const idle = (database: Database) =>
        database.transaction(async (query) => {
          await wait(400);
          return query('select 1');
        });
      expect(await told('-c idle_in_transaction_session_timeout=50', idle)).toBe('away');
      const patient = async (database: Database) => {
        await database.query('select 1');
        await wait(400);
        await database.query('select 1');
        expect(database.regained()).toBe(0);
      };
      expect(await told('-c idle_session_timeout=50', patient)).toBe('answered');
      const locked = async (database: Database) => {
        await make(database);
        await database.transaction(async (query) => {
          await query('lock table made');
          await database.query('select * from made');
        });
      };
      expect(await told('-c lock_timeout=50', locked)).toBe('away');
    } finally {
      postgres = first;
      await second.stop();
      second.remove();
    }
  });

  it('that another one took meanwhile is not written to', async () => {
    const second = await startPostgres();
    try {
      const mine = await openDatabase('', second.url);
      await second.stop();
      await expect(mine.query('select 1')).rejects.toBeInstanceOf(DatabaseAway);
      await second.start();
      // The other one is quicker.
      const other = await vi.waitFor(() => openDatabase('', second.url), { timeout: 5000, interval: 20 }).catch(() => null);
      if (other) {
        await vi.waitFor(() => expect(mine.query('select 1')).rejects.toThrow('has taken the database'), { timeout: 120_000 });
        await other.close();
      }
      await vi.waitFor(() => mine.query('select 1'), { timeout: 120_000, interval: 100 });
      expect(mine.regained()).toBeGreaterThan(0);
      await mine.close();
    } finally {
      await second.stop();
      second.remove();
    }
  });
});

// A PostgreSQL server that stops and comes back under load: the process lives on, says that nothing was saved, loses nothing that it
// acknowledged, and lets no second Isotaxis in.
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { openDatabase } from './db/database';
import { migrate } from './db/migrate';
import { DatabaseAway } from './failures';
import { smallDesk } from '../../../tests/oracle/anyCommand';
import { createSessions } from './sessions';
import { startPostgres } from '../../../scripts/postgres.mjs';

const PORT = 7301;
const SITE = `http://127.0.0.1:${PORT}`;
let postgres: { url: string; start: () => void; stop: () => void; remove: () => void };
let directory: string;
let server: ChildProcess;

const isotaxis = (port: number) => {
  const child = spawn('node', ['server.mjs'], {
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
    postgres = startPostgres(5498);
    const database = await openDatabase('', postgres.url);
    await migrate(database);
    await database.query("insert into library (kind, name, value) values ('demo', 'made', 'true'::jsonb)");
    await createSessions(database).adopt('desk', smallDesk());
    await database.close();
    const started = isotaxis(PORT);
    server = started.child;
    expect(await started.heard).toContain('Isotaxis is at');
  });
  afterAll(() => {
    server.kill('SIGKILL');
    postgres.stop();
    postgres.remove();
    rmSync(directory, { recursive: true });
  });

  it('that stops and comes back under load loses nothing, and its lock stays ours', async () => {
    let on = true;
    let count = 0;
    let acknowledged = 0;
    const answers = new Set<string>();
    const post = (level: number) =>
      fetch(`${SITE}/api/sessions/desk/commands`, {
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
    const stream = await fetch(`${SITE}/api/sessions/desk/events?since=0`);
    for (let round = 0; round < 2; round++) {
      await new Promise((resolve) => setTimeout(resolve, 300));
      postgres.stop();
      await new Promise((resolve) => setTimeout(resolve, 300));
      // What needs the database says so; nothing of it ends the process.
      expect((await fetch(`${SITE}/api/cue/a-token-of-some-length/events`)).status).toBe(503);
      expect((await fetch(`${SITE}/api/sessions/other/events?since=0`)).status).toBe(503);
      postgres.start();
      await vi.waitFor(async () => expect((await fetch(`${SITE}/api/sessions`)).status).toBe(200), { timeout: 20_000, interval: 200 });
      // Ours again: a second one is not let in.
      expect(await isotaxis(PORT + 1).heard).toContain('Another Isotaxis is using the database');
    }
    await new Promise((resolve) => setTimeout(resolve, 500));
    on = false;
    await load;
    expect(server.exitCode).toBeNull();
    expect([...answers].sort()).toEqual(['200 saved', '503 unavailable']);
    const { document } = (await (await fetch(`${SITE}/api/sessions/desk`)).json()) as {
      document: { channel: { id: string; faderDb: number }[] };
    };
    expect(document.channel.find(({ id }) => id === 'a')!.faderDb).toBe(acknowledged);
    await stream.body!.cancel();
  });

  it('that another one took meanwhile is not written to', async () => {
    const second = startPostgres(5497) as typeof postgres;
    try {
      const mine = await openDatabase('', second.url);
      second.stop();
      await expect(mine.query('select 1')).rejects.toBeInstanceOf(DatabaseAway);
      second.start();
      // The other one is quicker.
      const other = await vi.waitFor(() => openDatabase('', second.url), { timeout: 5000, interval: 20 }).catch(() => null);
      if (other) {
        await vi.waitFor(() => expect(mine.query('select 1')).rejects.toThrow('has taken the database'), { timeout: 5000 });
        await other.close();
      }
      await vi.waitFor(() => mine.query('select 1'), { timeout: 10_000, interval: 100 });
      expect(mine.regained()).toBeGreaterThan(0);
      await mine.close();
    } finally {
      second.stop();
      second.remove();
    }
  });
});

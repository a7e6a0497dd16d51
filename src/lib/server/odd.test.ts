// Whatever commands are accepted, the database takes, and it holds what the memory does; listeners and players cannot harm that.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Command } from '$core/commands/index';
import { encodeSession } from '$core/session/tables';
import { anyCommand, bent, oddValue, groupedDesk } from '../../../tests/oracle/anyCommand';
import { migratedDatabase } from '../../../tests/database';
import type { Database } from './db/database';
import { planBatch } from '$core/commands/plan';
import { carryOut } from '../../../tests/oracle/rig';
import { playerMove } from './players';
import { createSessions, type Sessions } from './sessions';

let directory: string;
let database: Database;
let sessions: Sessions;
let count = 0;

beforeAll(async () => {
  directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-odd-'));
  database = await migratedDatabase(path.join(directory, 'database'));
  sessions = createSessions(database);
});
afterAll(async () => {
  await database.close();
  rmSync(directory, { recursive: true });
});

const act = (id: string, ...commands: Command[]) => sessions.carryOut(id, { base: 0, id: `batch-${++count}`, commands });
/** Rows as text, whatever the order of rows and fields. */
const sorted = (document: object) =>
  Object.entries(document).map(([table, rows]) => [table, (rows as object[]).map((row) => JSON.stringify(ordered(row))).sort()]);
const ordered = (value: unknown): unknown =>
  typeof value !== 'object' || value === null || Array.isArray(value)
    ? value
    : Object.entries(value)
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([name, inner]) => [name, ordered(inner)]);

it('odd values of every kind are refused in words or kept as they are', async () => {
  const step = fc.tuple(anyCommand(), oddValue, fc.nat(60), fc.boolean());
  let kept = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 5, maxLength: 12 }), async (steps) => {
      const id = `odd-${++count}`;
      await sessions.adopt(id, groupedDesk());
      for (const [command, odd, pick, bend] of steps) {
        const done = await act(id, bend ? bent(command, odd, pick, null) : command);
        if (done.ok) kept++;
        // The gate is a net below the commands: nothing should have to fall into it.
        else expect(done.error.code, JSON.stringify([command, odd, pick, done.error])).not.toMatch(/invalid|inconsistent|server/);
      }
      const memory = (await sessions.read(id, (state) => state))!;
      const disk = (await createSessions(database).read(id, (state) => state))!;
      expect(sorted(encodeSession(disk.session))).toEqual(sorted(encodeSession(memory.session)));
    }),
    { numRuns: Number(process.env.RUNS ?? 30), seed: 31 }
  );
  expect(kept).toBeGreaterThan(40);
});

it('a listener that breaks is told nothing more, and what was committed is answered as committed', async () => {
  const broken: unknown[] = [];
  const guarded = createSessions(database, { failed: (error) => broken.push(error) });
  await guarded.adopt('heard', groupedDesk());
  const told: number[] = [];
  await guarded.follow('heard', 0, () => {
    throw new Error('gone');
  });
  await guarded.follow('heard', 0, async () => Promise.reject(new Error('gone later')));
  const last = await guarded.follow('heard', 0, ({ revision }) => void told.push(revision));
  for (const level of [-1, -2]) {
    const batch = { base: 0, id: `heard ${level}`, commands: [{ do: 'faders.set' as const, levels: [{ id: 'a', level }] }] };
    expect(await guarded.carryOut('heard', batch)).toMatchObject({ ok: true });
  }
  last.stop();
  expect(told).toEqual([1, 2]);
  expect(broken.map(String)).toEqual(['Error: gone', 'Error: gone later']);
});

it('what is done aside stays out of the undo history; a token opens one cue of one session', async () => {
  await sessions.adopt('one', groupedDesk());
  await sessions.adopt('two', groupedDesk());
  const fader = (level: number): Command => ({ do: 'faders.set', levels: [{ id: 'b', level }] });
  await act('one', fader(-3));
  const player = await sessions.carryOut(
    'one',
    { base: 0, id: 'player', commands: [{ do: 'faders.set', levels: [{ id: 'a', level: -9 }] }] },
    true
  );
  expect(player).toMatchObject({ ok: true, value: { revision: 2, history: { undo: { id: `batch-${count}` } } } });
  const open: Command[] = [
    { do: 'cues.add', id: 'q', name: 'Q' },
    { do: 'cues.share', id: 'q', token: 'a-token-of-some-length' }
  ];
  expect(await act('one', ...open)).toMatchObject({ ok: true });
  expect(await act('two', ...open)).toMatchObject({ ok: false, error: { code: 'exists' } });
});

it('a player moves the cue alone, whatever it is linked with', async () => {
  const session = groupedDesk();
  const setUp: Command[] = [
    { do: 'cues.add', id: 'q', name: 'Q', sources: ['a', 'b'] },
    { do: 'links.members', id: 'link', add: ['q'] }
  ];
  for (const command of setUp) carryOut(session, command);
  const move = playerMove(session, 'q', { level: -6, sends: [{ source: 'a', level: -3 }] });
  const planned = move.ok ? planBatch(session, move.value) : move;
  expect(planned.ok && planned.value.changes.map(({ key }) => key)).toEqual(['q', 'a\nq']);
});

it('a recording is kept as the store has it, or not at all', async () => {
  const info = { rate: 48000, channels: 1, frames: 100, encoding: 'f32' as const };
  const guarded = createSessions(database, { recording: (sha) => Promise.resolve(sha.startsWith('0') ? info : null) });
  await guarded.create('store', { name: 'Store' });
  const add = (id: string, media: object) => {
    const whole = { id: `m-${id}`, name: `${id}.wav`, sha256: '0'.repeat(64), ...info, peakDb: 0, origin: null, ...media };
    const commands = [{ do: 'tracks.add', tracks: [{ id, name: id, media: whole }] }] as unknown as Command[];
    return guarded.carryOut('store', { base: 0, id, commands });
  };
  expect(await add('a', {})).toMatchObject({ ok: true });
  expect(await add('b', { frames: 1e9 })).toMatchObject({ ok: false, error: { code: 'inconsistent' } });
  expect(await add('c', { sha256: 'f'.repeat(64) })).toMatchObject({ ok: false, error: { code: 'missing' } });
  expect(await add('d', { channels: 2 })).toMatchObject({ ok: false, error: { code: 'inconsistent' } });
});

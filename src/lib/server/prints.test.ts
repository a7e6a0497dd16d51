// Print jobs: done, failed with words, cancelled, interrupted; and nothing half-written is ever listed.
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { encode } from '$core/formats/pcm';
import { readWavHeader, wavHeader } from '$core/formats/wav';
import { noise } from '../../../tests/oracle/rig';
import { freshDatabase } from '../../../tests/database';
import type { Database } from './db/database';
import { migrate } from './db/migrate';
import { openMediaStore, type MediaStore } from './media';
import { openPrints, type Prints } from './prints';
import { createSessions, type Sessions } from './sessions';

let directory: string;
let database: Database;
let sessions: Sessions;
let media: MediaStore;
let prints: Prints;

beforeAll(async () => {
  directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-prints-'));
  database = await freshDatabase(path.join(directory, 'database'));
  await migrate(database);
  sessions = createSessions(database);
  media = await openMediaStore(directory);
  prints = await openPrints(directory, database, media);
  await session('short', 48000, 1);
  await session('hot', 48000, 8);
  await session('long', 48000 * 120, 1);
});
afterAll(async () => {
  await prints.close();
  await media.close();
  await database.close();
  rmSync(directory, { recursive: true });
});

/** A session with one stereo recording of noise, `gain` times ±0.25. */
async function session(id: string, frames: number, gain: number) {
  const second = [noise(48000, 1), noise(48000, 2)].map((side) => side.map((x) => x * gain));
  const sides = second.map((side) => Float32Array.from({ length: frames }, (_, i) => side[i % 48000]));
  const file = new Blob([wavHeader({ rate: 48000, channels: 2, encoding: 'f32', frames }), encode(sides, 'f32').bytes]);
  const added = await media.add(`${id}.wav`, file.stream(), 48000, false);
  if (!added.ok) throw new Error(added.error.message);
  await sessions.create(id, { name: id });
  const done = await sessions.carryOut(id, {
    base: 0,
    id: `${id}-import`,
    commands: [{ do: 'tracks.add', tracks: [{ id: 'a', name: 'A', colour: 0, media: added.value.media }] }]
  });
  if (!done.ok) throw new Error(done.error.message);
}
const start = async (id: string, format = 'wav24') => {
  const started = await prints.start((await sessions.open(id))!, { format });
  if (!started.ok) throw new Error(started.error.message);
  return started.value;
};
const ended = (id: string, print: string) =>
  vi.waitFor(
    async () => {
      const found = (await prints.list(id)).find((each) => each.id === print)!;
      expect(found.status).not.toBe('running');
      return found;
    },
    { timeout: 20000, interval: 50 }
  );
const files = () => readdirSync(path.join(directory, 'prints'));

describe('prints', () => {
  it('end once the database knows of it, however long that is away; of many asked for at once one begins', async () => {
    let away = false;
    const failures: string[] = [];
    const shaky: Database = {
      ...database,
      query: (sql, params) => (away && sql.includes('update print_job') ? Promise.reject(new Error('away')) : database.query(sql, params))
    };
    const own = await openPrints(directory, shaky, media, (error) => failures.push(String(error)));
    const state = (await sessions.open('short'))!;
    const asked = await Promise.all(Array.from({ length: 6 }, () => own.start(state, { format: 'wav32f' })));
    expect(asked.filter(({ ok }) => ok)).toHaveLength(1);
    const id = asked.flatMap((each) => (each.ok ? [each.value] : []))[0];
    away = true;
    await vi.waitFor(() => expect(failures).toContain('Error: away'), { timeout: 10_000 });
    expect((await own.list('short')).find((each) => each.id === id)!.status).toBe('running');
    away = false;
    await vi.waitFor(async () => expect((await own.list('short')).find((each) => each.id === id)!.status).toBe('done'), {
      timeout: 10_000
    });
    expect(await own.remove(id)).toMatchObject({ ok: true });
    expect(await own.remove(id)).toMatchObject({ ok: false, error: { code: 'not-found' } });
    expect(await own.cancel('..')).toMatchObject({ ok: false, error: { code: 'not-found' } });
    await own.close();
  });

  it('render the revision they were ordered at, whatever is done meanwhile, to a file with a true header', async () => {
    const id = await start('short');
    const { revision } = (await sessions.open('short'))!;
    await sessions.carryOut('short', { base: 0, id: 'mute', commands: [{ do: 'mutes.set', ids: ['a'], on: true }] });
    const print = await ended('short', id);
    expect(print).toMatchObject({ status: 'done', revision, rate: 48000, share: 1 });
    const [own] = print.files;
    expect(own).toMatchObject({ kind: 'mix', name: 'short - mix.wav', format: 'wav24', frames: print.frames });
    expect(own.peakDb).toBeCloseTo(20 * Math.log10(0.25), 1);
    const { file } = (await prints.file(id, own.id))!;
    const bytes = readFileSync(file);
    // One second of sound and one of silence after it, in whole periods.
    expect(readWavHeader((at, length) => bytes.subarray(at, at + length), bytes.length)).toMatchObject({
      ok: true,
      value: { frames: print.frames, encoding: 's24' }
    });
    expect(print.frames).toBe(96000);
    await prints.remove(id);
    expect(files()).toEqual([]);
    expect(await prints.file(id, own.id)).toBeNull();
  });

  it('stop with words where integers would clip, and go through as float', async () => {
    const clipped = await ended('hot', await start('hot'));
    expect(clipped).toMatchObject({
      status: 'failed',
      message: 'The mix goes over full scale at 0.0 s. Lower it, or print as 32-bit float.'
    });
    expect(files()).toEqual([]);
    const float = await ended('hot', await start('hot', 'wav32f'));
    expect(float.status).toBe('done');
    expect(float.files[0].peakDb).toBeGreaterThan(5);
    await prints.remove(float.id);
  });

  it('can be cancelled; one runs at a time; what a crash left is called interrupted and cleared', async () => {
    const id = await start('long');
    expect(await prints.start((await sessions.open('short'))!, {})).toMatchObject({ ok: false, error: { code: 'busy' } });
    await prints.cancel(id);
    expect(await ended('long', id)).toMatchObject({ status: 'cancelled' });
    expect(files()).toEqual([]);

    await database.query("update print_job set status = 'running' where id = $1", [id]);
    mkdirSync(path.join(directory, 'prints', id));
    writeFileSync(path.join(directory, 'prints', id, 'half.wav'), 'half');
    const again = await openPrints(directory, database, media);
    expect((await again.list('long'))[0]).toMatchObject({
      status: 'interrupted',
      message: 'Isotaxis was stopped during this print. Print again.'
    });
    expect(files()).toEqual([]);
  });

  it('say what is missing', async () => {
    await sessions.create('empty', { name: 'empty' });
    expect(await prints.start((await sessions.open('empty'))!, {})).toMatchObject({ ok: false, error: { code: 'empty' } });
    const { session } = (await sessions.open('long'))!;
    const [row] = session.media.values();
    const hidden = {
      ...(await sessions.open('long'))!,
      session: { ...session, media: new Map([[row.id, { ...row, sha256: 'f'.repeat(64) }]]) }
    };
    expect(await prints.start(hidden, {})).toMatchObject({ ok: false, error: { code: 'missing' } });
  });
});

// Print jobs: waiting their turn, done, failed with words, delivered, opened again, cancelled, interrupted; and nothing half-written is ever listed.
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createWriteStream, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Ajv } from 'ajv';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { encode } from '$core/formats/pcm';
import { readWavHeader, wavHeader } from '$core/formats/wav';
import { noise } from '../../../tests/oracle/rig';
import { migratedDatabase } from '../../../tests/database';
import type { Database } from './db/database';
import { openMediaStore, type MediaStore } from './media';
import { openReader } from '$files/prints/read';
import { deliveryOf, deliveryStream, sheetOf } from './deliveries';
import type { Print } from './printRows';
import { openPrints, type Prints } from './prints';
import { createSessions, type Sessions } from './sessions';
import { openStems, takeBack } from './taking';

let directory: string;
let database: Database;
let sessions: Sessions;
let media: MediaStore;
let prints: Prints;

beforeAll(async () => {
  directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-prints-'));
  database = await migratedDatabase(path.join(directory, 'database'));
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
  const started = await prints.start((await sessions.read(id, (state) => state))!, { format });
  if (!started.ok) throw new Error(started.error.message);
  return started.value;
};
const ended = (id: string, print: string) =>
  vi.waitFor(
    async () => {
      const found = (await prints.list(id)).find((each) => each.id === print)!;
      expect(['running', 'queued']).not.toContain(found.status);
      return found;
    },
    { timeout: 120_000, interval: 50 }
  );
const files = () => readdirSync(path.join(directory, 'prints'));

describe('prints', () => {
  it('end once the database knows of it, however long that is away; of many asked for at once one begins, and the others wait', async () => {
    let away = false;
    const failures: string[] = [];
    const shaky: Database = {
      ...database,
      query: (sql, params) => (away && sql.includes('update print_job') ? Promise.reject(new Error('away')) : database.query(sql, params))
    };
    const own = await openPrints(directory, shaky, media, { failed: (error) => failures.push(String(error)) });
    const state = (await sessions.read('short', (state) => state))!;
    const asked = await Promise.all(Array.from({ length: 6 }, () => own.start(state, { format: 'wav32f' })));
    const all = asked.flatMap((each) => (each.ok ? [each.value] : []));
    expect(all).toHaveLength(6);
    const stand = new Map((await own.list('short')).map((each) => [each.id, [each.status, each.before]]));
    const id = all.find((each) => stand.get(each)![0] === 'running')!;
    const rest = all.filter((each) => each !== id);
    expect(rest.map((each) => stand.get(each)).sort()).toEqual([1, 2, 3, 4, 5].map((before) => ['queued', before]));
    for (const each of rest) expect(await own.cancel(each)).toMatchObject({ ok: true });
    for (const each of rest) expect(await own.get(each)).toMatchObject({ status: 'cancelled', before: 0 });
    away = true;
    await vi.waitFor(() => expect(failures).toContain('Error: away'), { timeout: 120_000 });
    expect((await own.list('short')).find((each) => each.id === id)!.status).toBe('running');
    away = false;
    await vi.waitFor(async () => expect((await own.list('short')).find((each) => each.id === id)!.status).toBe('done'), {
      timeout: 120_000
    });
    expect(await own.remove(id)).toMatchObject({ ok: true });
    expect(await own.remove(id)).toMatchObject({ ok: false, error: { code: 'not-found' } });
    expect(await own.cancel('..')).toMatchObject({ ok: false, error: { code: 'not-found' } });
    await own.close();
  });

  it('are done, and keep their files, where they are cancelled at the moment they end', async () => {
    const slow: Database = {
      ...database,
      query: async (sql, params) => {
        const rows = await database.query(sql, params);
        // What the database knows already is not known here yet.
        if (params?.[1] === 'done') await new Promise((resolve) => setTimeout(resolve, 400));
        return rows;
      }
    };
    const own = await openPrints(directory, slow, media);
    const asked = await own.start((await sessions.read('short', (state) => state))!, { format: 'wav32f' });
    if (!asked.ok) throw new Error(asked.error.message);
    const known = () => database.query('select status from print_job where id = $1', [asked.value]);
    await vi.waitFor(async () => expect(await known()).toEqual([{ status: 'done' }]), { timeout: 120_000, interval: 20 });
    expect(await own.cancel(asked.value)).toMatchObject({ ok: true });
    const print = (await own.get(asked.value))!;
    expect(print.status).toBe('done');
    expect(existsSync((await own.file(print.id, print.files[0].id))!.file)).toBe(true);
    await own.remove(print.id);
    await own.close();
  });

  it('render the revision they were ordered at, whatever is done meanwhile, to a file with a true header', async () => {
    const id = await start('short');
    const { revision } = (await sessions.read('short', (state) => state))!;
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

  it('wait their turn with the session as it was when they were asked for; can be cancelled; what a crash left is called interrupted', async () => {
    const id = await start('long');
    await sessions.carryOut('short', { base: 0, id: 'loud', commands: [{ do: 'mutes.set', ids: ['a'], on: false }] });
    const next = await start('short');
    await sessions.carryOut('short', { base: 0, id: 'soft', commands: [{ do: 'mutes.set', ids: ['a'], on: true }] });
    expect(await prints.get(next)).toMatchObject({ status: 'queued', before: 1, share: 0, secondsLeft: null });
    await prints.cancel(id);
    expect(await ended('long', id)).toMatchObject({ status: 'cancelled', message: 'Cancelled.' });
    const print = await ended('short', next);
    expect(print.status).toBe('done');
    expect(print.files[0].peakDb).toBeCloseTo(20 * Math.log10(0.25), 1);
    // Deleted while it is read: its row is gone, its files stay until nobody reads them.
    const release = prints.hold(next);
    await prints.remove(next);
    expect(await prints.get(next)).toBeNull();
    expect(files()).toEqual([next]);
    release();
    release();
    await vi.waitFor(() => expect(files()).toEqual([]), { timeout: 120_000 });

    await database.query("update print_job set status = 'running' where id = $1", [id]);
    mkdirSync(path.join(directory, 'prints', id));
    writeFileSync(path.join(directory, 'prints', id, 'half.wav'), 'half');
    const again = await openPrints(directory, database, media);
    expect((await again.list('long'))[0]).toMatchObject({
      status: 'interrupted',
      message: 'Isotaxis was stopped before this print was done. Print again.'
    });
    expect(files()).toEqual([]);
  });

  it('are delivered with what they are, and their stems opened as a session that prints the same mix', async () => {
    await sessions.carryOut('hot', {
      base: 0,
      id: 'stems',
      commands: [
        { do: 'buses.add', id: 'b', name: 'STEM/<b>', members: ['a'] },
        { do: 'stems.set', ids: ['b'], on: true },
        { do: 'faders.set', levels: [{ id: 'a', level: -20 }] },
        { do: 'inserts.add', id: 'lim', channelId: 'mix', type: 'limiter' },
        { do: 'versions.add', id: 'none', name: 'Nothing', stems: { b: '-inf' } }
      ]
    });
    const kinds = ['stem', 'mix', 'version', 'chained'].map((kind) => ({ kind }));
    const asked = await prints.start((await sessions.read('hot', (state) => state))!, { files: kinds, format: 'wav32f' });
    if (!asked.ok) throw new Error(asked.error.message);
    const print = await ended('hot', asked.value);
    expect(print.notes).toContain('The version Nothing has nothing in: its file is silent.');
    const delivery = deliveryOf(print);
    if (!delivery.ok) throw new Error(delivery.error.message);
    const valid = new Ajv({ strict: false }).compile(JSON.parse(readFileSync('docs/delivery.schema.json', 'utf8')) as object);
    expect(valid(JSON.parse(JSON.stringify(delivery.value))), JSON.stringify(valid.errors)).toBe(true);
    expect(delivery.value.files.map(({ kind, additive }) => [kind, additive])).toEqual([
      ['stem', true],
      ['mix', false],
      ['version', false],
      ['chained', false]
    ]);
    expect(delivery.value.files[3].name).toMatch(/not additive/);
    const sheet = sheetOf(delivery.value);
    expect(sheet).toContain('STEM/&lt;b>');
    expect(sheet).toContain('nothing is left, to the bit');
    expect(sheet).toContain('Chained stems are not additive');
    // What is in the ZIP is what was printed, whoever opens it.
    const zip = path.join(directory, 'delivery.zip');
    await pipeline(await deliveryStream(prints, print, delivery.value), createWriteStream(zip));
    expect(execFileSync('unzip', ['-tq', zip], { encoding: 'utf8' })).toMatch(/No errors/);
    const listed = execFileSync('unzip', ['-Z1', zip], { encoding: 'utf8' }).trim().split('\n');
    expect(listed).toEqual(['delivery.json', 'delivery.html', ...print.files.map(({ name }) => name)]);
    const stem = execFileSync('unzip', ['-p', zip, print.files[0].name.replace(/[[*?]/g, '\\$&')], { maxBuffer: 2 ** 26 });
    expect(createHash('sha256').update(stem).digest('hex')).toBe(print.files[0].sha256);

    const opened = await openStems({ sessions, media, prints }, print.id);
    if (!opened.ok) throw new Error(opened.error.message);
    const state = (await sessions.read(opened.value.id, (state) => state))!;
    expect(state.session.channel.get('b')).toMatchObject({ stem: true, faderDb: 0 });
    const onward = await prints.start(state, { files: [{ kind: 'mix' }], format: 'wav32f' });
    if (!onward.ok) throw new Error(onward.error.message);
    const again = await ended(opened.value.id, onward.value);
    const samples = async (of: Print, at: number) => {
      const reader = await openReader((await prints.file(of.id, of.files[at].id))!.file);
      const sides = await reader.take(again.frames);
      reader.close();
      return sides;
    };
    const [here, there] = [await samples(print, 1), await samples(again, 0)];
    const length = Math.min(here[0].length, there[0].length);
    for (const side of [0, 1]) expect(there[side].subarray(0, length)).toEqual(here[side].subarray(0, length));
    const shape = (await prints.shape(print.id, print.files[0].id))!;
    expect(20 * Math.log10(Math.max(...shape.peaks))).toBeCloseTo(print.files[0].peakDb!, 2);
    expect(await openStems({ sessions, media, prints }, again.id)).toMatchObject({ ok: false, error: { code: 'missing' } });
    expect(await openStems({ sessions, media, prints }, 'none')).toMatchObject({ ok: false, error: { code: 'not-found' } });
    for (const { id } of [print, again]) await prints.remove(id);
  });

  it('come back as tracks where that was asked for, in one step that can be undone', async () => {
    const taking = await openPrints(directory, database, media, { take: (...what) => takeBack({ sessions, media }, ...what) });
    const state = (await sessions.read('hot', (state) => state))!;
    const refused = await taking.start(state, { files: [{ kind: 'mix' }], take: 'beside' });
    expect(refused).toMatchObject({ ok: false, error: { code: 'bad-arguments' } });
    const asked = await taking.start(state, { files: [{ kind: 'bus', id: 'b' }], format: 'wav32f', take: 'resting' });
    if (!asked.ok) throw new Error(asked.error.message);
    await vi.waitFor(async () => expect(await taking.get(asked.value)).toMatchObject({ status: 'done' }), { timeout: 120_000 });
    expect((await taking.get(asked.value))!.notes.at(-1)).toBe(
      'STEM/<b> is in the session again as a track, muted, and rests itself. Undo takes it back out.'
    );
    const now = (await sessions.read('hot', (state) => state))!;
    const track = [...now.session.channel.values()].find(({ name }) => name === 'STEM/<b> (print)')!;
    expect(track).toMatchObject({ kind: 'track', mute: true, faderDb: 0, outputId: 'mix' });
    expect(now.session.channel.get('b')!.resting).toBe(true);
    const { entries } = now;
    expect(entries.at(-1)!.label).toBe('Take STEM/<b> as a track');
    await sessions.carryOut('hot', { base: now.revision, id: 'back', undo: entries.at(-1)!.id });
    expect((await sessions.read('hot', (state) => state))!.session.channel.get('b')!.resting).toBe(false);
    await taking.remove(asked.value);
    await taking.close();
  });

  it('say what is missing', async () => {
    await sessions.create('empty', { name: 'empty' });
    expect(await prints.start((await sessions.read('empty', (state) => state))!, {})).toMatchObject({
      ok: false,
      error: { code: 'empty' }
    });
    const { session } = (await sessions.read('long', (state) => state))!;
    const [row] = session.media.values();
    const hidden = {
      ...(await sessions.read('long', (state) => state))!,
      session: { ...session, media: new Map([[row.id, { ...row, sha256: 'f'.repeat(64) }]]) }
    };
    expect(await prints.start(hidden, {})).toMatchObject({ ok: false, error: { code: 'missing' } });
  });
});

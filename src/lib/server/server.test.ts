// The server's parts on a real data directory: lock, database, batches, undo, store.
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Command } from '$core/commands/index';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import { encodeSession } from '$core/session/tables';
import { noise, trackCommand } from '../../../tests/oracle/rig';
import { migratedDatabase } from '../../../tests/database';
import type { Database } from './db/database';
import { DirectoryInUse, lockDirectory } from './lock';
import { openMediaStore, type MediaStore } from './media';
import { defaultRules } from '$core/organise/defaultRules';
import { sessionFrom } from '$core/organise/template';
import { createLibrary } from './library';
import { createSessions, type Sessions } from './sessions';

let directory: string;
let database: Database;
let sessions: Sessions;
let media: MediaStore;

beforeAll(async () => {
  directory = mkdtempSync(path.join(tmpdir(), 'isotaxis-server-'));
  database = await migratedDatabase(path.join(directory, 'database'));
  sessions = createSessions(database);
  media = await openMediaStore(directory);
});
afterAll(async () => {
  await media.close();
  await database.close();
  rmSync(directory, { recursive: true });
});

/** A session with tracks a, b and c. */
async function fresh(id: string) {
  await sessions.create(id, { name: id });
  await act(id, trackCommand([{ id: 'a' }, { id: 'b', width: 2 }, { id: 'c' }]));
}
let batches = 0;
const act = (id: string, ...commands: Command[]) => sessions.carryOut(id, { base: 0, id: `batch-${++batches}`, commands });
const drag = (id: string, gesture: string, ...levels: number[]) =>
  Promise.all(
    levels.map((level) =>
      sessions.carryOut(id, { base: 0, id: `batch-${++batches}`, gesture, commands: [{ do: 'faders.set', levels: [{ id: 'a', level }] }] })
    )
  );
/** What a server that has just started would read. */
const onDisk = async (id: string) => encodeSession((await createSessions(database).read(id, (state) => state))!.session);
const sorted = (document: object) =>
  Object.entries(document).map(([table, rows]) => [
    table,
    (rows as object[]).map((row) => JSON.stringify(Object.entries(row).sort())).sort()
  ]);

/** The database, with transactions that break at their end for as long as they are told to. */
function breakable() {
  let fails = false;
  const failing: Database = {
    ...database,
    transaction: (work) =>
      database.transaction(async (query) => {
        const result = await work(query);
        if (fails) throw new Error('the connection broke');
        return result;
      })
  };
  return { failing, fail: (on: boolean) => (fails = on) };
}

describe('the library', () => {
  it('keeps rules and templates for the installation; what ships is there and stays', async () => {
    const library = createLibrary(database);
    const { book, own } = await library.rules();
    expect([own, book.rules.length]).toEqual([false, defaultRules.rules.length]);
    const mine = { ...book, rules: [{ ...book.rules[0], words: 'zither' }] };
    expect(await library.keepRules(mine)).toMatchObject({ ok: true });
    expect(await createLibrary(database).rules()).toEqual({ book: mine, own: true, aside: [] });
    expect(await library.keepRules({ ...mine, rules: [{ ...mine.rules[0], words: '/(/' }] })).toMatchObject({
      ok: false,
      error: { code: 'bad-pattern' }
    });
    expect((await library.rules()).book).toEqual(mine);
    await library.keepRules(null);
    expect((await library.rules()).own).toBe(false);

    await fresh('model');
    await act('model', { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a'] });
    const { session } = (await sessions.read('model', (state) => state))!;
    expect(await library.keepTemplate({ name: 'Mine', session, rules: null })).toMatchObject({ ok: true });
    const names = (await library.templates()).map(({ name, shipped, tracks }) => [name, shipped, tracks]);
    expect(names).toEqual([
      ['Mine', false, 3],
      ['Evening band with choir', true, 24],
      ['Stems for a small group', true, 14]
    ]);
    const template = await library.template('Mine');
    if (!template.ok) throw new Error(template.error.message);
    await sessions.adopt('from-mine', sessionFrom(template.value, { name: 'From mine', rate: 44100 }));
    const made = (await createSessions(database).read('from-mine', (state) => state))!.session;
    expect([made.channel.get('a')!.outputId, made.clip.size, made.settings.get('settings')!.rate]).toEqual(['bus', 0, 44100]);
    expect(await library.removeTemplate('Evening band with choir')).toMatchObject({ ok: false, error: { code: 'shipped' } });
    expect(await library.removeTemplate('Mine')).toMatchObject({ ok: true });
    expect(await library.template('Mine')).toMatchObject({ ok: false, error: { code: 'not-found' } });
  });
});

describe('sessions', () => {
  it('keeps dividers, sets, marks of the hand and loudness on disk', async () => {
    await fresh('stock');
    await act(
      'stock',
      { do: 'dividers.set', id: 'd', caption: 'Low', before: 'b' },
      { do: 'showings.save', id: 's', number: 3, name: 'Two', ids: ['a', 'b'] },
      { do: 'channels.colour', ids: ['a'], colour: 3.25 },
      { do: 'rests.set', ids: ['c'], on: true },
      { do: 'tracks.split', id: 'b', right: 'r' }
    );
    const state = (await sessions.read('stock', (state) => state))!;
    expect(state.session.channel.get('a')).toMatchObject({ colour: 3.25, byHand: 'colour' });
    expect(sorted(await onDisk('stock'))).toEqual(sorted(encodeSession(state.session)));
  });

  it('keeps on disk what it has in memory: −∞, parameters, removals and all', async () => {
    await fresh('one');
    await act(
      'one',
      { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
      { do: 'returns.add', id: 'ret', name: 'Room', sources: ['a', 'c'] }
    );
    await act(
      'one',
      { do: 'inserts.set', id: 'ret:reverb', values: { decay: 2.25 } },
      { do: 'faders.set', levels: [{ id: 'c', level: -Infinity }] }
    );
    await act('one', { do: 'channels.remove', ids: ['bus', 'b'] });
    const state = (await sessions.read('one', (state) => state))!;
    expect(state.session.send.get('a\nret')!.levelDb).toBe(-Infinity);
    expect(sorted(await onDisk('one'))).toEqual(sorted(encodeSession(state.session)));
  });

  it('joins a drag into one undo entry; undo and redo survive a restart and are refused when overtaken', async () => {
    await fresh('two');
    await drag('two', 'g1', -1, -2, -3.5);
    const after = createSessions(database);
    const state = (await after.read('two', (state) => state))!;
    expect(state.entries.map(({ label }) => label)).toEqual(['Import 3 tracks', 'Fader of Track a to −3.5 dB']);
    const [, entry] = state.entries;
    const undone = await after.carryOut('two', { base: 0, id: 'u', undo: entry.id });
    expect(undone).toMatchObject({ ok: true, value: { history: { redo: { id: entry.id } } } });
    expect(state.session.channel.get('a')!.faderDb).toBe(0);
    expect(await after.carryOut('two', { base: 0, id: 'v', undo: entry.id })).toMatchObject({ ok: false, error: { code: 'overtaken' } });
    expect(await after.carryOut('two', { base: 0, id: 'w', redo: entry.id })).toMatchObject({ ok: true });
    expect(state.session.channel.get('a')!.faderDb).toBe(-3.5);
  });

  it('carries a repeated batch out once, and tells a page what it missed', async () => {
    await fresh('three');
    const base = (await sessions.read('three', (state) => state))!.revision;
    const toggle = { base, id: 'same', commands: [{ do: 'channels.move', ids: ['a'], before: null }] as Command[] };
    const [first, second] = [await sessions.carryOut('three', toggle), await sessions.carryOut('three', toggle)];
    expect(first).toMatchObject({ ok: true, value: { revision: base + 1, missed: [] } });
    expect(second).toMatchObject({
      ok: true,
      value: { revision: base + 1, changes: [], missed: [{ id: 'same', changes: [{ key: 'a' }] }] }
    });
  });

  it('leaves memory and disk as they were when a batch is refused or the database fails', async () => {
    await fresh('four');
    const before = sorted(await onDisk('four'));
    const refusedBatch = await act('four', { do: 'mutes.set', ids: ['a'], on: true }, { do: 'channels.route', ids: ['a'], to: 'b' });
    expect(refusedBatch).toMatchObject({ ok: false, error: { code: 'not-a-bus' } });
    const { failing, fail } = breakable();
    const broken = createSessions(failing);
    // The memory that is looked at is that of the server whose transaction fails, and what a player's stream shows of it.
    const held = (await broken.read('four', (state) => state))!.session;
    fail(true);
    const told: number[] = [];
    const { stop } = await broken.follow('four', 0, ({ revision }) => void told.push(revision));
    await expect(broken.carryOut('four', { base: 0, id: 'x', commands: [{ do: 'mutes.set', ids: ['a'], on: true }] })).rejects.toThrow(
      'the connection broke'
    );
    fail(false);
    expect(sorted(encodeSession(held))).toEqual(before);
    expect(sorted(encodeSession((await broken.read('four', (state) => state))!.session))).toEqual(before);
    expect(sorted(await onDisk('four'))).toEqual(before);
    expect(told).toEqual([]);
    stop();
  });

  it('go on after a batch that failed: who follows is told of the next one, and sees it', async () => {
    await fresh('player');
    const { failing, fail } = breakable();
    const shaky = createSessions(failing);
    const seen: boolean[] = [];
    await shaky.follow(
      'player',
      0,
      async () => void seen.push((await shaky.read('player', (state) => state))!.session.channel.get('a')!.mute)
    );
    const mute = (id: string) => shaky.carryOut('player', { base: 0, id, commands: [{ do: 'mutes.set', ids: ['a'], on: true }] });
    await shaky.read('player', () => null);
    fail(true);
    await expect(mute('first')).rejects.toThrow('the connection broke');
    fail(false);
    expect(await mute('second')).toMatchObject({ ok: true });
    await vi.waitFor(() => expect(seen).toEqual([true]), { timeout: 120_000 });
  });
});

describe('lock', () => {
  it('is refused while its owner lives, and taken over from the dead, even with the number given away', async () => {
    const home = mkdtempSync(path.join(tmpdir(), 'isotaxis-lock-'));
    const note = path.join(home, 'owner.json');
    const unlock = await lockDirectory(home);
    const mine = JSON.parse(readFileSync(note, 'utf8')) as { pid: number; started: string; space: string };
    const parent = { pid: process.ppid, started: startOfParent(), space: mine.space };
    // As its parent would hold it: it lives, so it holds.
    writeFileSync(note, JSON.stringify(parent));
    await expect(lockDirectory(home)).rejects.toThrow(DirectoryInUse);
    // As somebody in another container would: nothing can be seen of him, but his heart beats.
    writeFileSync(note, JSON.stringify({ pid: 1, started: '1', space: 'elsewhere' }));
    await expect(lockDirectory(home)).rejects.toThrow(DirectoryInUse);
    await unlock();
    expect(readdirSync(home)).toEqual([]);

    for (const dead of [
      { ...parent, started: '1' },
      { ...mine, pid: 2 ** 22 - 1 }
    ]) {
      mkdirSync(path.join(home, 'owner.held'));
      writeFileSync(note, JSON.stringify(dead));
      await (
        await lockDirectory(home)
      )();
    }
    // A crash while it was written: only the heartbeat can tell, and it is old.
    mkdirSync(path.join(home, 'owner.held'));
    utimesSync(path.join(home, 'owner.held'), 1e9, 1e9);
    writeFileSync(note, '{"pid":');
    await (
      await lockDirectory(home)
    )();
    // A version from before the heartbeat.
    const boot = mine.space.split(' ')[0];
    writeFileSync(path.join(home, 'owner.lock'), JSON.stringify({ pid: process.ppid, started: `${boot} ${parent.started}` }));
    await expect(lockDirectory(home)).rejects.toThrow('older Isotaxis');
    rmSync(home, { recursive: true });
  });

  it('is lost when the directory goes, and says so', async () => {
    const home = mkdtempSync(path.join(tmpdir(), 'isotaxis-lock-'));
    const lost: string[] = [];
    await lockDirectory(home, (why) => lost.push(why));
    rmSync(home, { recursive: true });
    await vi.waitFor(() => expect(lost[0]).toContain('was removed'), { timeout: 120_000 });
  });
});

function startOfParent(): string {
  const stat = readFileSync(`/proc/${process.ppid}/stat`, 'utf8');
  return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19];
}

describe('media store', () => {
  const wav = (sides: Float32Array[], encoding: 's24' | 'f32' = 's24', rate = 48000) =>
    new Blob([wavHeader({ rate, channels: sides.length, encoding, frames: sides[0].length }), encode(sides, encoding).bytes]);

  it('flows while the database is busy', async () => {
    const added = await media.add('flow.wav', wav([noise(9000, 3)], 'f32').stream(), 48000, false);
    if (!added.ok) throw new Error(added.error.message);
    const done: string[] = [];
    const busy = database.query('select pg_sleep(1.5)').then(() => done.push('database'));
    for (let i = 0; i < 20; i++) await media.pcm([added.value.media.sha256], i * 100, 1000).then(() => done.push('audio'));
    await busy;
    expect(done).toEqual([...Array<string>(20).fill('audio'), 'database']);
  });

  it('takes a file under its hash, and gives its samples back planar, spans past the end cut off', async () => {
    const sides = [noise(5000, 1), noise(5000, 2)];
    const added = await media.add('two.wav', wav(sides, 'f32').stream(), 48000, false);
    if (!added.ok) throw new Error(added.error.message);
    expect(added.value.media).toMatchObject({ channels: 2, frames: 5000, encoding: 'f32', name: 'two.wav' });
    expect(added.value.media.peakDb).toBeCloseTo(20 * Math.log10(Math.max(...sides.flatMap((side) => [...side.map(Math.abs)]))), 6);
    const { parts, chunks } = (await media.pcm([added.value.media.sha256], 4000, 5000))!;
    expect(parts).toEqual([{ sha256: added.value.media.sha256, channels: 2, encoding: 'f32', bytes: 4000 }]);
    expect(new Float32Array(chunks[1].slice().buffer)).toEqual(sides[1].subarray(4000));
    expect((await media.pcm([added.value.media.sha256], 9000, 10))!.parts).toEqual([]);
  });

  it('keeps nothing of a file it refuses', async () => {
    const count = () =>
      readdirSync(directory, { recursive: true, withFileTypes: true }).filter(
        (entry) => entry.isFile() && !entry.parentPath.includes('database')
      ).length;
    const before = count();
    const bad = Float32Array.of(...noise(700, 3), NaN, 0);
    const code = async (body: Blob) => {
      const result = await media.add('bad.wav', body.stream(), 48000, false);
      return result.ok ? 'taken' : `${result.error.code}: ${result.error.message}`;
    };
    expect(await code(wav([bad], 'f32'))).toBe(
      'not-a-number: A sample at 0.015 s is not a number (NaN or infinite). Export the file again.'
    );
    expect(await code(wav([noise(700, 4)], 's24', 44100))).toMatch(/^rate: The file has 44100 Hz, this session 48000 Hz/);
    expect(await code(new Blob(['words']))).toMatch(/^not-audio/);
    expect(await code(new Blob([]))).toMatch(/^empty/);
    expect(await code(wav([noise(700, 5)]).slice(0, 900))).toMatch(/^truncated/);
    expect(count()).toBe(before);
  });
});

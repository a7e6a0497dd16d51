// Sessions as things, over HTTP: copies, the bin, what is on disk and what of it nothing needs, backups that come back and those that cannot.
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import yazl from 'yazl';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import type { SessionDocument } from '$core/session/tables';
import type { SessionBrief } from './shelf';
import type { StorageReport } from './storage';
import { backupStream } from './backup/write';
import { openDatabase } from './db/database';
import { migrate, migrationNames } from './db/migrate';
import { openInProcess, type Asked } from '../../../tests/oracle/inProcess';
import { noise } from '../../../tests/oracle/rig';

type Server = Awaited<ReturnType<typeof openInProcess>>;
let server: Server;
let serial = 0;
beforeAll(async () => {
  server = await openInProcess();
});
afterAll(() => server.close());
afterEach(() => expect(server.faults).toEqual([]));

const json = (method: string, body: unknown): Asked => ({ method, body: JSON.stringify(body) });
async function told<T = Record<string, unknown>>(status: number, address: string, asked?: Asked): Promise<T> {
  const response = await server.ask(address, asked);
  const text = await response.text();
  expect(response.status, `${asked?.method ?? 'GET'} ${address}: ${text.slice(0, 300)}`).toBe(status);
  return (text ? JSON.parse(text) : null) as T;
}
const wav = (seed: number) =>
  new Blob([wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 24_000 }), encode([noise(24_000, seed)], 's24').bytes]);
const act = (id: string, ...commands: object[]) =>
  told(200, `/api/sessions/${id}/commands`, json('POST', { base: 0, id: `s${++serial}`, commands }));
const upload = (id: string, seed: number) =>
  told<{ sha256: string }>(201, `/api/sessions/${id}/media?name=Surdo.wav`, { method: 'PUT', body: wav(seed) });
/** A session with one track, of a recording of its own. */
async function session(name: string, seed: number): Promise<{ id: string; sha256: string }> {
  const { id } = await told<{ id: string }>(201, '/api/sessions', json('POST', { name }));
  const media = await upload(id, seed);
  await act(id, { do: 'tracks.add', tracks: [{ id: 't', name: 'Surdo', media }] });
  return { id, sha256: media.sha256 };
}
const list = async (bin = false) => (await told<{ sessions: SessionBrief[] }>(200, `/api/sessions${bin ? '?bin=1' : ''}`)).sessions;
const document = async (id: string) => (await told<{ document: SessionDocument }>(200, `/api/sessions/${id}`)).document;
const storage = () => told<StorageReport>(200, '/api/storage');
const unused = async () => (await storage()).unused.recordings.map(({ sha256 }) => sha256);
const clear = () => told<{ recordings: number; prints: number; bytes: number }>(200, '/api/storage/unused', { method: 'DELETE' });

describe('a session as a thing', () => {
  it('is listed with what there is of it, copied under a name, binned, brought back, and removed for good', async () => {
    const { id } = await session('Ferry', 1);
    const [brief] = await list();
    // 24,000 frames of 3 bytes, a header, and peaks.
    expect(brief).toMatchObject({ id, name: 'Ferry', channels: 1, rate: 48000, seconds: 0.5, removedAt: null, printBytes: 0 });
    expect(brief.bytes).toBeGreaterThan(72_000);
    expect(Math.abs(Date.parse(brief.changedAt) - Date.now())).toBeLessThan(60_000);

    const { id: copy } = await told<{ id: string }>(201, `/api/sessions/${id}/duplicate`, json('POST', { name: ' Ferry, second try ' }));
    const [one, two] = [await document(id), await document(copy)];
    expect(two.settings[0].name).toBe('Ferry, second try');
    expect({ ...two, settings: [] }).toEqual({ ...one, settings: [] });
    await act(copy, { do: 'faders.set', levels: [{ id: 't', level: -6 }] });
    expect((await document(id)).channel.find((row) => row.id === 't')).toMatchObject({ faderDb: 0 });

    const heard: string[] = [];
    await server.app.sessions.follow(
      id,
      1,
      () => {},
      (why) => heard.push(why)
    );
    await told(204, `/api/sessions/${id}`, { method: 'DELETE' });
    expect(heard).toEqual(['bin']);
    expect((await list()).map((each) => each.id)).toEqual([copy]);
    const [binned] = await list(true);
    expect([binned.id, Date.parse(binned.goesAt!) - Date.parse(binned.removedAt!)]).toEqual([id, 30 * 86_400_000]);
    for (const address of [`/api/sessions/${id}`, `/api/sessions/${id}/events?since=0`, `/api/sessions/${id}/package`])
      expect(await told(404, address)).toMatchObject({ error: { code: 'no-session', message: /bin/ } });
    await told(204, `/api/sessions/${id}/restore`, { method: 'POST' });
    expect(await document(id)).toEqual(one);

    for (const each of [id, copy]) await told(204, `/api/sessions/${each}?final=1`, { method: 'DELETE' });
    expect([await list(), await list(true)]).toEqual([[], []]);
    for (const [method, where] of [
      ['DELETE', ''],
      ['DELETE', '?final=1'],
      ['POST', '/restore']
    ] as const)
      expect(await told(404, `/api/sessions/${id}${where}`, { method })).toMatchObject({ error: { code: 'no-session' } });
    expect(await told(404, `/api/sessions/${id}/duplicate`, json('POST', { name: 'x' }))).toMatchObject({ error: { code: 'no-session' } });
    expect(await told(422, `/api/sessions/${id}/duplicate`, json('POST', {}))).toMatchObject({ error: { code: 'bad-arguments' } });
  });

  it('goes for good after 30 days in the bin, and not before', async () => {
    const { id } = await session('Old', 2);
    const { id: newer } = await session('Newer', 2);
    for (const each of [id, newer]) await told(204, `/api/sessions/${each}`, { method: 'DELETE' });
    const age = (each: string, days: number) =>
      server.app.database.query(`update session set removed_at = now() - interval '${days} days' where id = $1`, [each]);
    await age(id, 30.1);
    await age(newer, 29.9);
    expect(await server.app.shelf.empty()).toBe(1);
    expect((await list(true)).map((each) => each.id)).toEqual([newer]);
    await told(204, `/api/sessions/${newer}?final=1`, { method: 'DELETE' });
  });
});

describe('what is on disk', () => {
  it('is used by sessions, the bin, undo and open pages; the rest is found and goes, with its size', async () => {
    await clear();
    const { id, sha256 } = await session('Kept', 3);
    const other = await session('Other', 4);
    const loose = await upload(id, 5);
    const before = await storage();
    expect([before.recordings.count, before.unused.recordings.map((each) => each.sha256)]).toEqual([3, [loose.sha256]]);
    expect(before.bytes).toBeGreaterThan(before.recordings.bytes + before.database.bytes - 1);
    expect(before.freeBytes).toBeGreaterThan(0);
    // As long as a page has the session open, what came in for it may become a track.
    const { stop } = await server.app.sessions.follow(id, 1, () => {});
    expect(await unused()).toEqual([]);
    stop();
    // A removal can be undone: it is kept for that.
    await act(id, { do: 'channels.remove', ids: ['t'] });
    await told(204, `/api/sessions/${other.id}`, { method: 'DELETE' });
    const binned = await storage();
    expect(binned).toMatchObject({ bin: { count: 1 }, unused: { recordings: [{ sha256: loose.sha256 }] } });
    const cleared = await clear();
    expect(cleared).toMatchObject({ recordings: 1, prints: 0, bytes: before.unused.bytes });
    expect(existsSync(path.join(server.directory, 'media', loose.sha256.slice(0, 2), `${loose.sha256}.wav`))).toBe(false);
    expect([(await storage()).recordings.count, await clear()]).toEqual([2, { recordings: 0, prints: 0, bytes: 0 }]);
    const { history } = await told<{ history: { undo: { id: string } } }>(200, `/api/sessions/${id}`);
    await told(200, `/api/sessions/${id}/commands`, json('POST', { base: 0, id: `u${++serial}`, undo: history.undo.id }));
    expect(await server.app.media.stored(sha256)).not.toBeNull();
    // What is gone is not to be named by a new track, and comes in anew like any other.
    const track = { do: 'tracks.add', tracks: [{ id: 'n', name: 'New', media: loose }] };
    expect(await told(422, `/api/sessions/${id}/commands`, json('POST', { base: 0, id: 'n', commands: [track] }))).toMatchObject({
      error: { code: 'missing' }
    });
    await upload(id, 5);
    await act(id, track);
    for (const each of [id, other.id]) await told(204, `/api/sessions/${each}?final=1`, { method: 'DELETE' });
    expect((await unused()).length).toBe(3);
    expect(await clear()).toMatchObject({ recordings: 3 });
  });

  it('is not taken from under a track that is made while it goes', async () => {
    const { id } = await told<{ id: string }>(201, '/api/sessions', json('POST', { name: 'Race' }));
    for (let round = 0; round < 8; round++) {
      const media = await upload(id, 10 + round);
      const making = server.ask(
        `/api/sessions/${id}/commands`,
        json('POST', { base: 0, id: `race${round}`, commands: [{ do: 'tracks.add', tracks: [{ id: `t${round}`, name: 'T', media }] }] })
      );
      const [made] = await Promise.all([making, clear()]);
      // Either there is a track and its recording, or neither.
      expect([made.status, (await server.app.media.stored(media.sha256)) !== null]).toEqual(
        made.status === 200 ? [200, true] : [422, false]
      );
    }
    await told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' });
    await clear();
  });

  it('holds prints of sessions that are gone until they are cleared away, and stops those under way', async () => {
    const { id } = await session('Printed', 6);
    const print = () => told<{ id: string }>(201, `/api/sessions/${id}/prints`, json('POST', { files: [{ kind: 'mix' }] }));
    const first = await print();
    await vi.waitFor(async () => expect(await told(200, `/api/prints/${first.id}`)).toMatchObject({ status: 'done' }), 10_000);
    const [{ bytes, printBytes }] = await list();
    expect(bytes).toBeGreaterThan(printBytes);
    expect(printBytes).toBeGreaterThan(72_000);
    await print();
    await told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' });
    const { unused: found } = await storage();
    expect(found.prints).toContainEqual({ id: first.id, bytes: expect.any(Number) as number });
    expect(await clear()).toMatchObject({ recordings: 1, bytes: found.bytes });
    expect(existsSync(path.join(server.directory, 'prints', first.id))).toBe(false);
  });
});

describe('a backup', () => {
  const taken = async () => Buffer.from(await (await server.ask('/api/backup')).arrayBuffer());
  const restore = (status: number, file: Buffer | Blob) => told(status, '/api/backup', { method: 'POST', body: new Blob([file as never]) });
  const state = async () => {
    const sessions = await list();
    return Promise.all(sessions.map(async ({ id, name }) => ({ id, name, ...(await told(200, `/api/sessions/${id}`)) })));
  };

  it('brings sessions, histories, recordings, prints and templates back; what was here otherwise lies in the bin', async () => {
    const one = await session('One', 7);
    const two = await session('Two', 8);
    await act(one.id, { do: 'faders.set', levels: [{ id: 't', level: '-inf' }] });
    const print = await told<{ id: string }>(201, `/api/sessions/${one.id}/prints`, json('POST', { files: [{ kind: 'mix' }] }));
    await vi.waitFor(async () => expect(await told(200, `/api/prints/${print.id}`)).toMatchObject({ status: 'done' }), 10_000);
    await told(201, '/api/templates', json('POST', { name: 'Mine', session: one.id }));
    const printed = async () => {
      const { files } = await told<{ files: { id: string; sha256: string }[] }>(200, `/api/prints/${print.id}`);
      const bytes = Buffer.from(await (await server.ask(`/api/prints/${print.id}/${files[0].id}`)).arrayBuffer());
      return createHash('sha256').update(bytes).digest('hex') === files[0].sha256;
    };
    const then = await state();
    const backup = await taken();

    // Since then one was changed, one is gone for good with its recording, one is new.
    await act(one.id, { do: 'channels.rename', names: [{ id: 't', name: 'Changed since' }] });
    await told(204, `/api/prints/${print.id}`, { method: 'DELETE' });
    await told(204, `/api/sessions/${two.id}?final=1`, { method: 'DELETE' });
    const three = await session('Three', 9);
    await clear();
    expect(await server.app.media.stored(two.sha256)).toBeNull();
    const heard: string[] = [];
    await server.app.sessions.follow(
      one.id,
      0,
      () => {},
      (why) => heard.push(why)
    );

    expect(await restore(200, backup)).toMatchObject({ sessions: 2, recordings: 2, prints: 1, binned: 2 });
    expect(heard).toEqual(['replaced']);
    expect(await state()).toEqual(then);
    expect([await printed(), (await server.app.media.stored(two.sha256)) !== null]).toEqual([true, true]);
    const binned = await list(true);
    expect(binned.map(({ name }) => name).sort()).toEqual(['One', 'Three']);
    const aside = binned.find(({ name }) => name === 'One')!;
    await told(204, `/api/sessions/${aside.id}/restore`, { method: 'POST' });
    expect((await document(aside.id)).channel.find((row) => row.id === 't')).toMatchObject({ name: 'Changed since' });
    // Its history came with it, and new entries find room after it.
    const { history } = await told<{ history: { undo: { id: string } } }>(200, `/api/sessions/${aside.id}`);
    await told(200, `/api/sessions/${aside.id}/commands`, json('POST', { base: 0, id: `u${++serial}`, undo: history.undo.id }));
    await act(one.id, { do: 'faders.set', levels: [{ id: 't', level: -3 }] });
    // Twice the same changes nothing further but what was done since.
    await restore(200, backup);
    expect(await state()).toEqual(then);
    await restore(200, backup);
    expect([await state(), (await list(true)).length]).toEqual([then, 3]);
    expect(three.id).toBe(binned.find(({ name }) => name === 'Three')!.id);
  });

  it('that is cut short, changed, of a newer Isotaxis or none is refused in words, and nothing is changed', async () => {
    const before = await state();
    const backup = await taken();
    expect(await restore(422, backup.subarray(0, backup.length - 500))).toMatchObject({ error: { code: 'damaged', message: /cut short/ } });
    const bent = Buffer.from(backup);
    bent[bent.indexOf('fmt ') + 400] ^= 1;
    expect(await restore(422, bent)).toMatchObject({ error: { code: 'damaged', message: /media\/.*not what it was/ } });
    const zipped = (files: Record<string, string>): Promise<Buffer> => {
      const zip = new yazl.ZipFile();
      for (const [name, text] of Object.entries(files)) zip.addBuffer(Buffer.from(text), name);
      zip.end();
      return new Response(zip.outputStream as never).arrayBuffer().then((bytes) => Buffer.from(bytes));
    };
    const manifest = (more: object) =>
      JSON.stringify({ format: 'isotaxis-backup', version: 1, made: 'now', migrations: [], tables: {}, files: {}, missing: [], ...more });
    const cases: [files: Record<string, string>, code: string][] = [
      [{ 'session.json': '{}' }, 'not-a-backup'],
      [{ 'backup.json': 'no' }, 'not-a-backup'],
      [{ 'backup.json': manifest({ format: 'x' }) }, 'not-a-backup'],
      [{ 'backup.json': manifest({}), 'tables/session.jsonl': '' }, 'not-a-backup'],
      [{ 'backup.json': manifest({ version: 2 }) }, 'newer'],
      [{ 'backup.json': manifest({ migrations: ['./migrations/999-later.sql'] }) }, 'newer'],
      [{ 'backup.json': manifest({ files: { 'tables/session.jsonl': { bytes: 1, sha256: '' } } }) }, 'damaged']
    ];
    for (const [files, code] of cases) expect(await restore(422, await zipped(files))).toMatchObject({ error: { code } });
    expect(await restore(422, Buffer.from('no ZIP'))).toMatchObject({ error: { code: 'damaged' } });
    expect(await state()).toEqual(before);
  });

  // The scratch database is embedded, whatever the other one is.
  it.skipIf(process.env.DATABASE_URL)(
    'of an older Isotaxis goes through a database of that age, and comes out as one of today',
    async () => {
      const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-older-'));
      const database = await openDatabase(path.join(folder, 'database'), '');
      try {
        // Before there was a bin.
        const then = migrationNames.filter((name) => name < './migrations/012');
        await migrate(database, then);
        await database.query("insert into session (id, name, revision) values ('old', 'Old', 0)");
        await database.query(
          `insert into settings (session_id, id, name, rate, bpm, beats_per_bar, pan_law, mute_closes_pre)
         values ('old', 'settings', 'Old', 44100, 96, 4, -4.5, false)`
        );
        const hold = () => () => undefined;
        const stream = await backupStream({ directory: folder, database, recording: () => Promise.resolve(null), hold });
        const backup = Buffer.from(await new Response(Readable.toWeb(stream) as never).arrayBuffer());
        expect(await restore(200, backup)).toMatchObject({ sessions: 1, recordings: 0 });
        expect((await list()).map(({ id, removedAt }) => [id, removedAt])).toEqual([['old', null]]);
        expect((await document('old')).settings[0]).toMatchObject({ rate: 44100, name: 'Old' });
      } finally {
        await database.close();
        rmSync(folder, { recursive: true });
      }
    }
  );
});

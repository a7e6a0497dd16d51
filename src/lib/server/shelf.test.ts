// Sessions as things, over HTTP: copies, the bin, what is on disk and what of it nothing needs.
import { existsSync } from 'node:fs';
import path from 'node:path';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { json, openAsking, type Asking } from '../../../tests/oracle/asking';

let server: Asking;
let told: Asking['told'], act: Asking['act'], upload: Asking['upload'], session: Asking['session'];
let list: Asking['list'], document: Asking['document'], storage: Asking['storage'], unused: Asking['unused'], clear: Asking['clear'];
let serial = 0;
beforeAll(async () => {
  server = await openAsking();
  ({ told, act, upload, session, list, document, storage, unused, clear } = server);
});
afterAll(() => server.close());
afterEach(() => expect(server.faults).toEqual([]));

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
    await vi.waitFor(async () => expect(await told(200, `/api/prints/${first.id}`)).toMatchObject({ status: 'done' }), {
      timeout: 120_000
    });
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

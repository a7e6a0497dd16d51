// Backups over HTTP: those that come back, those that cannot, those that somebody else wrote; what is damaged, and what happens meanwhile.
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { buffer } from 'node:stream/consumers';
import { afterAll, afterEach, beforeAll, expect, it, vi } from 'vitest';
import { entriesOf, openZip, streamOf, zipOf } from '$files/zip';
import { openDatabase } from '../db/database';
import { migrate, migrationNames } from '../db/migrate';
import { json, openAsking, type Asking } from '../../../../tests/oracle/asking';
import { backupStream, type Manifest } from './write';

let server: Asking;
let told: Asking['told'], act: Asking['act'], session: Asking['session'];
let list: Asking['list'], document: Asking['document'], clear: Asking['clear'];
let serial = 0;
beforeAll(async () => {
  server = await openAsking();
  ({ told, act, session, list, document, clear } = server);
});
afterAll(() => server.close());
afterEach(() => expect(server.faults).toEqual([]));

const taken = async () => Buffer.from(await (await server.ask('/api/backup')).arrayBuffer());
const restore = (status: number, file: Buffer | Blob) => told(status, '/api/backup', { method: 'POST', body: new Blob([file as never]) });
const state = async () => {
  const sessions = await list();
  return Promise.all(sessions.map(async ({ id, name }) => ({ id, name, ...(await told(200, `/api/sessions/${id}`)) })));
};

const zipped = (files: Readonly<Record<string, string | Buffer>>): Promise<Buffer> =>
  buffer(
    zipOf(
      (async function* () {
        for (const [name, from] of Object.entries(files))
          yield { name, from: typeof from === 'string' ? from : Readable.from([from]), mtime: new Date(0) };
      })()
    )
  );
/** A backup's entries, the manifest last. */
async function entriesIn(backup: Buffer): Promise<Record<string, Buffer>> {
  const file = path.join(server.directory, 'incoming', 'bent.zip');
  writeFileSync(file, backup);
  const zip = await openZip(file);
  try {
    const files: Record<string, Buffer> = {};
    for (const entry of await entriesOf(zip)) files[entry.fileName] = await buffer(await streamOf(zip, entry));
    return files;
  } finally {
    zip.close();
    rmSync(file);
  }
}
const sha = (bytes: Buffer | string) => createHash('sha256').update(bytes).digest('hex');
/** A backup with entries changed as a stranger would: hashes and sizes agree again. */
async function forged(files: Record<string, Buffer>, change: (text: string, name: string) => string, name: string): Promise<Buffer> {
  const text = change(files[name].toString(), name);
  const manifest = JSON.parse(files['backup.json'].toString()) as Manifest;
  const own = { ...manifest.files, [name]: { bytes: Buffer.byteLength(text), sha256: sha(text) } };
  const tables = { ...manifest.tables };
  if (name.startsWith('tables/')) tables[path.basename(name, '.jsonl')] = text.split('\n').filter(Boolean).length;
  const { 'backup.json': _, ...others } = files;
  return zipped({ ...others, [name]: text, 'backup.json': JSON.stringify({ ...manifest, tables, files: own }) });
}

it('brings sessions, histories, recordings, prints and templates back; what was here otherwise lies in the bin', async () => {
  const one = await session('One', 7);
  const two = await session('Two', 8);
  await act(one.id, { do: 'faders.set', levels: [{ id: 't', level: '-inf' }] });
  const print = await told<{ id: string }>(201, `/api/sessions/${one.id}/prints`, json('POST', { files: [{ kind: 'mix' }] }));
  await vi.waitFor(async () => expect(await told(200, `/api/prints/${print.id}`)).toMatchObject({ status: 'done' }), { timeout: 120_000 });
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
  const manifest = (more: object) =>
    JSON.stringify({
      format: 'isotaxis-backup',
      version: 1,
      made: '2026-12-02T12:00:00Z',
      migrations: [],
      tables: {},
      files: {},
      missing: [],
      ...more
    });
  const through = { migrations: [...migrationNames] };
  const cases: [files: Record<string, string>, code: string][] = [
    [{ 'session.json': '{}' }, 'not-a-backup'],
    [{ 'backup.json': 'no' }, 'not-a-backup'],
    [{ 'backup.json': manifest({ format: 'x' }) }, 'not-a-backup'],
    [{ 'backup.json': manifest(through), 'tables/session.jsonl': '' }, 'not-a-backup'],
    [{ 'backup.json': manifest({ made: 'some day' }) }, 'not-a-backup'],
    [{ 'backup.json': manifest({ version: 2 }) }, 'newer'],
    [{ 'backup.json': manifest({ migrations: [migrationNames[0], migrationNames[2]] }) }, 'damaged'],
    [{ 'backup.json': manifest(through) }, 'damaged'],
    [{ 'backup.json': manifest({ migrations: ['./migrations/999-later.sql'] }) }, 'newer'],
    [{ 'backup.json': manifest({ ...through, files: { 'tables/session.jsonl': { bytes: 1, sha256: '' } } }) }, 'damaged']
  ];
  for (const [files, code] of cases) expect(await restore(422, await zipped(files))).toMatchObject({ error: { code } });
  expect(await restore(422, Buffer.from('no ZIP'))).toMatchObject({ error: { code: 'damaged' } });
  expect(await state()).toEqual(before);
});

// The scratch database is embedded, whatever the other one is.
it.skipIf(process.env.DATABASE_URL)('of an older Isotaxis goes through a database of that age, and comes out as one of today', async () => {
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
    await database.query(
      `insert into channel (session_id, id, kind, name, colour, position, born, width, output_pair, fader_db, pan, mute, solo, solo_safe)
         values ('old', 'mix', 'mix', 'MIX', 7, 0, 0, 2, 0, 0, 0, false, false, false)`
    );
    const hold = () => () => undefined;
    const stream = await backupStream({ directory: folder, database, recordingFile: () => '/nowhere', hold });
    const backup = Buffer.from(await new Response(Readable.toWeb(stream) as never).arrayBuffer());
    expect(await restore(200, backup)).toMatchObject({ sessions: 1, recordings: 0 });
    expect((await list()).map(({ id, removedAt }) => [id, removedAt])).toEqual([['old', null]]);
    expect((await document('old')).settings[0]).toMatchObject({ rate: 44100, name: 'Old' });
  } finally {
    await database.close();
    rmSync(folder, { recursive: true });
  }
});

/** A finished print of a session's mix. */
async function printOf(id: string): Promise<string> {
  const print = await told<{ id: string }>(201, `/api/sessions/${id}/prints`, json('POST', { files: [{ kind: 'mix' }] }));
  await vi.waitFor(async () => expect(await told(200, `/api/prints/${print.id}`)).toMatchObject({ status: 'done' }), {
    timeout: 300_000,
    interval: 50
  });
  return print.id;
}
/** Nothing on the shelf, and nothing in the bin. */
async function emptied(): Promise<void> {
  for (const { id } of [...(await list()), ...(await list(true))]) await told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' });
}
/** Everything that can be seen of sessions, the bin and templates. */
const everything = async () => ({
  shelf: await state(),
  bin: (await list(true)).map(({ id, name }) => [id, name]),
  templates: await told(200, '/api/templates')
});
const rows = (text: string) =>
  text
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as Record<string, unknown>);
const lines = (list: readonly object[]) => list.map((row) => `${JSON.stringify(row)}\n`).join('');
const mediaFile = (sha256: string) => path.join(server.directory, 'media', sha256.slice(0, 2), `${sha256}.wav`);

it('whose rows a stranger wrote is refused with the entry’s name, whatever is in them, and nothing is changed', async () => {
  const { id } = await session('Forged', 21);
  await act(id, { do: 'returns.add', id: 'r', name: 'Plate' }, { do: 'sends.set', sends: [{ source: 't', target: 'r' }] });
  await printOf(id);
  await told(201, '/api/templates', json('POST', { name: 'Theirs', session: id }));
  const files = await entriesIn(await taken());
  const before = await everything();
  const one = (change: (row: Record<string, unknown>) => void) => (text: string) => {
    const all = rows(text);
    change(all[0]);
    return lines(all);
  };
  const set = (fields: object) => one((row) => void Object.assign(row, fields));
  const cases: [table: string, change: (text: string) => string][] = [
    ...[{ '"; drop table session; --': 1 }, { kind: 'drum' }, { fader_db: 'loud' }, { name: 'x'.repeat(121) }, { id: '../../x' }].map(
      (fields): [string, (text: string) => string] => ['channel', set(fields)]
    ),
    ...[{ name: '../../../etc/passwd' }, { name: 'a/b' }, { name: '..' }, { name: 'Я'.repeat(200) }, { kind: 'x' }, { bytes: -1 }].map(
      (fields): [string, (text: string) => string] => ['print_file', set(fields)]
    ),
    ...[
      { asked: { files: 'all' } },
      { proof: { nulls: [{ residual: '/etc/passwd' }] } },
      { proof: 1 },
      { status: 'happy' },
      { id: '..' },
      { session_id: 'nobody' }
    ].map((fields): [string, (text: string) => string] => ['print_job', set(fields)]),
    ...[{ changes: [{ table: 'secret', key: 'x', before: null, after: {} }] }, { changes: 'none' }, { session_id: 'nobody' }].map(
      (fields): [string, (text: string) => string] => ['history', set(fields)]
    ),
    ['history', set({ label: 'a\0b' })],
    ['library', (text) => lines(rows(text).map((row) => (row.kind === 'template' ? { ...row, value: {} } : row)))],
    ['session', set({ changed_at: 'yesterday' })],
    ['session', (text) => text + text],
    ['session', one((row) => delete row.revision)],
    ['send', one((row) => delete row.tap)],
    ['send', set({ target_id: 't' })],
    ['settings', () => ''],
    ['channel', (text) => `${text}{"half":`],
    ['channel', (text) => `${text}${'['.repeat(100_000)}${']'.repeat(100_000)}\n`],
    ['channel', (text) => `${text}7\n`],
    ['channel', (text) => lines(rows(text).map((row) => ({ ...row, output_id: row.id === 'r' ? 't' : row.output_id })))]
  ];
  for (const [table, change] of cases) {
    const refused = await restore(422, await forged(files, change, `tables/${table}.jsonl`));
    expect(refused, change.toString()).toMatchObject({ error: { code: 'damaged' } });
    expect(JSON.stringify(refused)).toContain(`tables`);
    if (!['send', 'settings', 'channel'].includes(table)) expect(JSON.stringify(refused)).toContain(`tables/${table}.jsonl`);
  }
  const { 'tables/channel.jsonl': _, ...without } = files;
  expect(await restore(422, await zipped(without))).toMatchObject({
    error: { code: 'damaged', message: /tables\/channel\.jsonl is not in it/ }
  });
  expect(await everything()).toEqual(before);
  expect(readdirSync(path.join(server.directory, 'incoming'))).toEqual([]);
});

it('is made although a recording is missing and another damaged, names them, restores the rest, and heals what is there', async () => {
  const [whole, short, lost] = [await session('Whole', 31), await session('Short', 32), await session('Lost', 33)];
  const print = await printOf(whole.id);
  const { files: printed } = await told<{ files: { id: string; name: string; sha256: string }[] }>(200, `/api/prints/${print}`);
  const good = await taken();
  truncateSync(mediaFile(short.sha256), 1000);
  renameSync(mediaFile(lost.sha256), `${mediaFile(lost.sha256)}.away`);
  const [missing, damaged] = [`media/${lost.sha256}.wav`, `media/${short.sha256}.wav`];
  const partial = await taken();
  expect(await told(200, '/api/storage')).toMatchObject({
    backup: { missing: [missing], damaged: [damaged], names: { [missing]: 'Surdo.wav', [damaged]: 'Surdo.wav' } }
  });
  // They are away for everybody, without a fault.
  for (const { id } of [short, lost]) {
    expect((await server.ask(`/api/sessions/${id}/package`)).status).toBe(422);
    expect((await server.ask(`/api/sessions/${id}/prints`, json('POST', {}))).status).toBe(422);
  }
  expect((await server.ask(`/api/pcm?media=${short.sha256},${lost.sha256}&from=0&frames=100`)).status).toBe(200);
  expect(await restore(200, partial)).toMatchObject({
    ...{ missing: [missing], damaged: [damaged], names: { [missing]: 'Surdo.wav', [damaged]: 'Surdo.wav' } }
  });
  // A bit of another recording fell over in the backup itself: it is here, so that nothing is lacking.
  const files = await entriesIn(good);
  files[`media/${whole.sha256}.wav`][400] ^= 1;
  expect(await restore(200, await zipped(files))).toMatchObject({ missing: [], damaged: [] });
  // What was damaged here came back with it.
  for (const { sha256 } of [short, lost]) expect(await server.app.media.isWhole(sha256)).toBe(true);
  // Prints too: one file short, one gone with its folder; peaks that are gone are made anew.
  const file = path.join(server.directory, 'prints', print, printed[0].name);
  for (const harm of [() => truncateSync(file, 10), () => rmSync(path.dirname(file), { recursive: true })]) {
    harm();
    await restore(200, good);
    expect(sha(readFileSync(file))).toBe(printed[0].sha256);
  }
  rmSync(path.join(server.directory, 'peaks', `${whole.sha256}.peaks`));
  const peaks = await server.ask(`/api/peaks/${whole.sha256}`);
  expect([peaks.status, (await peaks.arrayBuffer()).byteLength > 100]).toEqual([200, true]);
});

it('loses no session: what is on the shelf stays there, what comes back into the bin has its days from now', async () => {
  await emptied();
  const names = ['Taken out', 'Changed', 'Stays binned', 'Gone'];
  const ids = new Map<string, string>();
  for (const [i, name] of names.entries()) ids.set(name, (await session(name, 40 + i)).id);
  for (const id of ids.values()) await told(204, `/api/sessions/${id}`, { method: 'DELETE' });
  await server.app.database.query("update session set removed_at = now() - interval '29.9 days'");
  const backup = await taken();
  for (const name of ['Taken out', 'Changed']) await told(204, `/api/sessions/${ids.get(name)}/restore`, { method: 'POST' });
  await act(ids.get('Changed')!, { do: 'settings.set', name: 'Changed since' });
  await told(204, `/api/sessions/${ids.get('Gone')}?final=1`, { method: 'DELETE' });
  for (let times = 0; times < 2; times++) {
    await restore(200, backup);
    expect((await list()).map(({ name }) => name).sort()).toEqual(['Changed since', 'Taken out']);
    const binned = await list(true);
    expect(binned.map(({ name }) => name).sort()).toEqual(['Changed', 'Gone', 'Stays binned']);
    for (const { name, removedAt } of binned) {
      const days = (Date.now() - Date.parse(removedAt!)) / 86_400_000;
      expect(days, name).toBeCloseTo(name === 'Stays binned' ? 29.9 : 0, 1);
    }
    expect(await server.app.shelf.empty()).toBe(0);
  }
});

it('puts templates and rules aside under names of their own, by which they are listed and can be taken back', async () => {
  const { id } = await session('Library', 51);
  const rules = async () => (await told<{ book: { families: object[]; rules: unknown[] } }>(200, '/api/rules')).book;
  const keep = async (families: object[]) => told(200, '/api/rules', json('PUT', { ...(await rules()), families }));
  const template = () => told(201, '/api/templates', json('POST', { name: 'House', session: id }));
  await template();
  const { families } = await rules();
  await keep([...families, { name: 'THEN', section: '', stem: '', colour: 1 }]);
  const backup = await taken();
  // Twice within a minute, and otherwise each time.
  for (const name of ['NOW', 'LATER']) {
    await keep([...families, { name, section: '', stem: '', colour: 2 }]);
    await act(id, { do: 'buses.add', id: name, name });
    await template();
    await restore(200, backup);
  }
  const { templates } = await told<{ templates: { name: string }[] }>(200, '/api/templates');
  const aside = templates.map(({ name }) => name).filter((name) => name.startsWith('House'));
  expect([aside.length, new Set(aside).size]).toEqual([3, 3]);
  for (const name of aside.filter((each) => each !== 'House')) {
    expect(await told<{ name: string }>(200, `/api/templates/${encodeURIComponent(name)}`)).toMatchObject({ name });
    await told(204, `/api/templates/${encodeURIComponent(name)}`, { method: 'DELETE' });
  }
  const put = await told<{ aside: string[] }>(200, '/api/rules');
  expect(put.aside).toHaveLength(2);
  const last = async () => ((await rules()).families.at(-1) as { name: string }).name;
  expect(await last()).toBe('THEN');
  await told(200, '/api/rules', json('POST', { name: put.aside[0] }));
  expect(await last()).toBe('NOW');
  expect((await told<{ aside: string[] }>(200, '/api/rules')).aside).toHaveLength(2);
  expect(await told(404, '/api/rules', json('POST', { name: 'rules' }))).toMatchObject({ error: { code: 'not-found' } });
  await told(200, '/api/rules', { method: 'DELETE' });
});

it('and every other streamed answer may be left at any moment: descriptors and holds are as before', async () => {
  const { id } = await session('Left', 61);
  const print = await printOf(id);
  const { files } = await told<{ files: { id: string }[] }>(200, `/api/prints/${print}`);
  const addresses = ['/api/backup', `/api/sessions/${id}/package`, `/api/prints/${print}/delivery`, `/api/prints/${print}/${files[0].id}`];
  const open = () => readdirSync('/proc/self/fd').length;
  for (const address of addresses) await (await server.ask(address)).arrayBuffer();
  const before = open();
  const broken: unknown[] = [];
  const hear = (error: unknown) => broken.push(error);
  process.on('unhandledRejection', hear);
  for (let round = 0; round < Number(process.env.RUNS ?? 60); round++) {
    const response = await server.ask(addresses[round % addresses.length]);
    const reader = response.body!.getReader();
    for (let reads = round % 7; reads > 0; reads--) await reader.read();
    if (round % 3 === 0) await new Promise((resolve) => setTimeout(resolve, round % 11));
    await reader.cancel();
  }
  await vi.waitFor(() => expect(open()).toBeLessThanOrEqual(before + 1), { timeout: 120_000 });
  process.off('unhandledRejection', hear);
  expect(broken).toEqual([]);
  // What was begun is taken away behind the reader's back.
  await vi.waitFor(() => expect(readdirSync(path.join(server.directory, 'incoming'))).toEqual([]), { timeout: 120_000 });
  // Nothing is held: what nobody needs can go.
  await told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' });
  await clear();
  expect(existsSync(path.join(server.directory, 'prints', print))).toBe(false);
});

it('made and restored at random, while sessions, bin, prints and templates change: all is as then, or lies in the bin', async () => {
  let seed = 7;
  const random = (below: number) => (seed = (seed * 48271) % 2147483647) % below;
  const deeds: (() => Promise<unknown>)[] = [
    async () => session(`New ${serial++}`, 70 + random(5)),
    async () => each((id) => act(id, { do: 'settings.set', name: `Named ${serial++}` })),
    async () => each((id) => told(204, `/api/sessions/${id}`, { method: 'DELETE' })),
    async () => each((id) => told(204, `/api/sessions/${id}/restore`, { method: 'POST' }), true),
    async () => each((id) => told(204, `/api/sessions/${id}?final=1`, { method: 'DELETE' }), true),
    async () => each((id) => printOf(id)),
    async () => each((id) => told(201, '/api/templates', json('POST', { name: `T${random(3)}`, session: id }))),
    // While a backup is made or restored it is refused.
    async () => (await server.ask('/api/storage/unused', { method: 'DELETE' })).arrayBuffer()
  ];
  const each = async (work: (id: string) => Promise<unknown>, bin = false) => {
    const all = await list(bin);
    if (all.length) await work(all[random(all.length)].id);
  };
  await emptied();
  for (let i = 0; i < 3; i++) await deeds[0]();
  for (let round = 0; round < Number(process.env.RUNS ?? 6); round++) {
    const then = await everything();
    const backup = await taken();
    for (let i = 0; i < 5; i++) await deeds[random(deeds.length)]();
    const now = await state();
    const inBin = await list(true);
    const [restored] = await Promise.all([restore(200, backup), deeds.at(-1)!()]);
    expect(restored).toMatchObject({ missing: [], damaged: [] });
    const [after, bin] = [await state(), await list(true)];
    const binned = new Set(then.bin.map(([id]) => id));
    // All that was on the shelf is there as it was; besides only what was in the bin then and had been taken out of it.
    const others = after.filter(({ id }) => !then.shelf.some((was) => was.id === id));
    expect(after.filter(({ id }) => then.shelf.some((was) => was.id === id)).sort(byId)).toEqual([...then.shelf].sort(byId));
    expect(others.every(({ id }) => binned.has(id))).toBe(true);
    // What was otherwise before the restoration can be had: on the shelf, or in the bin by its name.
    const names = [...after, ...bin].map(({ name }) => name);
    for (const { name } of [...now, ...inBin]) expect(names).toContain(name);
    for (const { id } of after)
      for (const { sha256 } of (await document(id)).media) expect(await server.app.media.isWhole(String(sha256))).toBe(true);
    const printed = await server.app.database.query(
      "select j.id, f.name from print_job j join print_file f on f.job_id = j.id where status = 'done'"
    );
    for (const { id, name } of printed) expect(existsSync(path.join(server.directory, 'prints', String(id), String(name)))).toBe(true);
  }
});
const byId = (a: { readonly id: string }, b: { readonly id: string }) => (a.id < b.id ? -1 : 1);

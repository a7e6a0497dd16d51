// The whole job over HTTP alone, as docs/api.md tells it: recordings of sox’s making in, sorted by rule, routed, keyed, traced, kept as a
// template and as a package, printed, undone; what is wrong is refused by code and in words.
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import { startServer, type TestServer } from './server';

let server: TestServer;
const files = mkdtempSync(path.join(tmpdir(), 'isotaxis-api-'));
test.beforeAll(async () => {
  server = await startServer();
});
test.afterAll(async () => {
  rmSync(files, { recursive: true, force: true });
  await server.remove();
});

type Row = Record<string, unknown>;
type Entry = { readonly id: string };
/** What answers hold, each some of it. */
type Told = {
  id: string;
  error: { code: string; message: string };
  revision: number;
  document: Record<string, Row[]>;
  history: { undo: Entry; redo: Entry };
  tracks: Row[];
  at: number[];
  paths: Row[];
  exact: boolean;
  commands: Row[];
  prints: { id: string; status: string; frames: number; files: { id: string; peakDb: number }[] }[];
  timeReference: number | null;
};

const call = async (method: string, where: string, body?: unknown) => {
  const raw = typeof body === 'string' || body instanceof Uint8Array;
  const response = await fetch(server.url + where, { method, body: (raw ? body : body && JSON.stringify(body)) as BodyInit });
  const bytes = Buffer.from(await response.arrayBuffer());
  const json = response.headers.get('content-type')?.includes('json') ? (JSON.parse(bytes.toString()) as Told) : null;
  return { status: response.status, bytes, json };
};
/** The answer of a call that must go well. */
const ask = async (method: string, where: string, body?: unknown) => {
  const { status, bytes, json } = await call(method, where, body);
  expect(status, `${method} ${where}: ${bytes.toString().slice(0, 300)}`).toBeLessThan(300);
  return json ?? ({} as Told);
};
const fileOf = async (where: string) => {
  const { status, bytes } = await call('GET', where);
  expect(status).toBe(200);
  return bytes;
};
/** The code of a refusal, which must say in a sentence what is wrong. */
const refusal = async (method: string, where: string, body?: unknown) => {
  const { status, json } = await call(method, where, body);
  expect(json?.error?.message, `${method} ${where} ${JSON.stringify(body)}`).toMatch(/^(\w+\.\w+: )?\S+ .*\.$/s);
  return `${status} ${json?.error.code}`;
};
const documentOf = (id: string) => ask('GET', `/api/sessions/${id}`);
/** A session's rows, whatever their order: tables are sets. */
const rowsOf = async (id: string) => {
  const rowId = (row: Row) => `${row.id} ${row.sourceId} ${row.targetId}`;
  const { document } = await documentOf(id);
  return Object.fromEntries(
    Object.entries(document).map(([table, rows]) => [table, rows.toSorted((a, b) => (rowId(a) < rowId(b) ? -1 : 1))])
  );
};
const act = async (id: string, commands: Row[], more: Row = {}) => {
  const { revision } = await documentOf(id);
  return ask('POST', `/api/sessions/${id}/commands`, { base: revision, id: crypto.randomUUID(), commands, ...more });
};

/** A tone or pulses as a file of sox’s. */
const sound = (name: string, channels: number, ...effects: string[]) => {
  const file = path.join(files, name);
  execFileSync('sox', ['-n', '-r', '48000', '-b', '24', '-c', String(channels), file, ...effects]);
  return readFileSync(file);
};
const HEAP: readonly [file: string, channels: number, effects: string[]][] = [
  // Four strokes a half second apart.
  ['Kick_in 01.wav', 1, 'synth 0.06 sine 60 fade l 0.001 0.06 0.05 pad 0 0.44 repeat 3'.split(' ')],
  ['snare TOP_take2.wav', 1, 'synth 2 pinknoise gain -20'.split(' ')],
  ['E-Gtr_L.wav', 1, 'synth 2 sawtooth 196 gain -18'.split(' ')],
  ['E-Gtr_R.wav', 1, 'synth 2 sawtooth 197 gain -18'.split(' ')],
  ['LeadVox (final).wav', 1, 'synth 2 sine 440 gain -12'.split(' ')],
  ['xyzzy.wav', 2, 'synth 2 brownnoise gain -24'.split(' ')]
];

test('a heap of recordings becomes a sorted, routed, keyed, printed session over HTTP alone', async () => {
  const { id } = await ask('POST', '/api/sessions', { name: 'By wire', rate: 48000, bpm: 120 });
  const here = `/api/sessions/${id}`;
  const tracks = [];
  for (const [i, [name, channels, effects]] of HEAP.entries()) {
    const { timeReference, ...media } = await ask(
      'PUT',
      `${here}/media?name=${encodeURIComponent(name)}`,
      sound(name, channels, ...effects)
    );
    expect(media).toMatchObject({ name, channels, rate: 48000, encoding: 's24' });
    tracks.push({ id: `t${i}`, name: name.replace('.wav', ''), media, timeReference });
  }
  await act(id, [{ do: 'tracks.add', tracks }]);

  // Sorted by the default rules: said first, then done, as one step.
  const preview = await ask('POST', `${here}/sort`, { preview: true });
  const [unsorted, heap] = [await documentOf(id), await rowsOf(id)];
  const sorted = await ask('POST', `${here}/sort`, {});
  const told = (answer: Told) => answer.tracks.map((track) => [track.rule, track.name]);
  expect(told(sorted)).toEqual(told(preview));
  expect(told(sorted).map(([rule]) => rule !== null)).toEqual([true, true, true, true, true, false]);
  const after = await documentOf(id);
  expect(after.revision).toBe(unsorted.revision + 1);
  const channels = new Map(after.document.channel.map((row) => [row.id, row]));
  const parents = (from: string) => {
    const names = [];
    for (let at = channels.get(from)!; at.outputId; at = channels.get(at.outputId as string)!)
      names.push(channels.get(at.outputId as string)!.name);
    return names;
  };
  expect([parents('t0'), parents('t1')]).toEqual([
    ['KICK', 'DRUMS', 'MIX'],
    ['SNARE', 'DRUMS', 'MIX']
  ]);
  expect(parents('t2').at(-1)).toBe('MIX');
  expect(parents('t5')).toEqual(['MIX']);
  const { history } = after;
  await ask('POST', `${here}/commands`, { base: after.revision, id: 'undo-sort', undo: history.undo.id });
  expect(await rowsOf(id)).toEqual(heap);
  const { history: undone, revision } = await documentOf(id);
  await ask('POST', `${here}/commands`, { base: revision, id: 'redo-sort', redo: undone.redo.id });

  // A key track that follows the kick; the tail of a return ducks under it.
  const { at } = await ask('GET', `${here}/onsets?track=t0`);
  expect(at).toHaveLength(4);
  at.forEach((frame, i) => expect(Math.abs(frame - i * 24000)).toBeLessThan(480));
  const pattern = { of: 'onsets', trackId: 't0', at, levelDb: 0, length: 20, decay: 80 };
  await act(id, [
    { do: 'keys.add', id: 'k', name: 'Follow', pattern },
    { do: 'returns.add', id: 'room', name: 'Room', sources: ['t4'] },
    { do: 'sends.set', sends: [{ source: 't4', target: 'room', level: -6 }] },
    { do: 'inserts.add', id: 'duck', channelId: 'room', type: 'comp' },
    { do: 'inserts.key', id: 'duck', source: 'k', tap: 'pre' },
    {
      do: 'faders.set',
      levels: [
        { id: 't4', level: -3 },
        { id: 'mix', level: -12 }
      ]
    }
  ]);
  const { paths, exact } = await ask('GET', `${here}/trace?from=t4`);
  expect([paths.length, exact]).toEqual([2, false]);
  // Graphviz finds as many edges as there are main outputs, sends and keys.
  writeFileSync(path.join(files, 'flow.dot'), await fileOf(`${here}/flow?format=dot`));
  const { document } = await documentOf(id);
  const outputs = document.channel.filter(({ outputId, outputPair }) => outputId !== null || outputPair !== null).length;
  const counted = spawnSync('gc', ['-e', path.join(files, 'flow.dot')], { encoding: 'utf8' });
  expect(Number(/\d+/.exec(counted.stdout)?.[0])).toBe(outputs + document.send.length + 1);

  // The sheet comes back with one name and one trim changed.
  const sheet = String(await fileOf(`${here}/sheet`));
  const edited = sheet.replace(/(\bt5,)[^,]*(,[^,]*,[^,]*,[^,]*,[^,]*,)0,/, '$1Air$2-4.5,');
  expect(edited).not.toBe(sheet);
  const difference = await ask('POST', `${here}/sheet?preview`, edited);
  expect((await documentOf(id)).document.channel.find((row) => row.id === 't5')!.name).not.toBe('Air');
  expect(difference.commands.length).toBeGreaterThan(0);
  await ask('POST', `${here}/sheet`, edited);
  expect((await documentOf(id)).document.channel.find((row) => row.id === 't5')).toMatchObject({ name: 'Air', trimDb: -4.5 });

  // Its structure starts another session; the whole of it travels as a package.
  await ask('POST', '/api/templates', { session: id, name: 'Small band' });
  const fresh = await ask('POST', '/api/sessions', { name: 'Next one', template: 'Small band' });
  const next = (await documentOf(fresh.id)).document;
  expect(next.channel.map(({ name }) => name).sort()).toEqual((await documentOf(id)).document.channel.map(({ name }) => name).sort());
  expect([next.clip.length, next.media.length]).toEqual([0, 0]);
  const { id: copy } = await ask('POST', '/api/packages', new Uint8Array(await fileOf(`${here}/package`)));
  expect(await rowsOf(copy)).toEqual(await rowsOf(id));

  // The print is as long as session and tail; sox reads the peak that is told.
  const { id: print } = await ask('POST', `${here}/prints`, { format: 'wav32f' });
  const job = async () => (await ask('GET', `${here}/prints`)).prints.find((one) => one.id === print)!;
  await expect.poll(async () => (await job()).status, { timeout: 120_000 }).toBe('done');
  const file = path.join(files, 'print.wav');
  writeFileSync(file, await fileOf(`/api/prints/${print}/${(await job()).files[0].id}`));
  const { stderr } = spawnSync('sox', [file, '-n', 'stat'], { encoding: 'utf8' });
  const figure = (label: string) => Number(new RegExp(`${label}:\\s+(-?[\\d.]+)`).exec(stderr)![1]);
  const {
    files: [{ peakDb }],
    frames
  } = await job();
  expect(figure('Length \\(seconds\\)')).toBeCloseTo(frames / 48000, 4);
  expect(20 * Math.log10(Math.max(figure('Maximum amplitude'), -figure('Minimum amplitude')))).toBeCloseTo(peakDb, 2);
  await ask('DELETE', `/api/prints/${print}`);
  expect(await refusal('GET', `/api/prints/${print}`)).toBe('404 not-found');
});

test('others hear of a batch as it is acknowledged; a repeated one is not carried out twice', async () => {
  const { id } = await ask('POST', '/api/sessions', { name: 'Heard' });
  const stream = await fetch(`${server.url}/api/sessions/${id}/events?since=0`);
  const reader = stream.body!.getReader();
  const batch = { base: 0, id: 'once', commands: [{ do: 'buses.add', id: 'b', name: 'BUS' }] };
  const [first, again] = [
    await ask('POST', `/api/sessions/${id}/commands`, batch),
    await ask('POST', `/api/sessions/${id}/commands`, batch)
  ];
  expect(again.revision).toBe(first.revision);
  let heard = '';
  while (!heard.includes('"once"')) heard += new TextDecoder().decode((await reader.read()).value);
  await reader.cancel();
  expect(heard).toContain('"table":"channel","key":"b"');
  const { document } = await documentOf(id);
  expect(document.channel.filter(({ name }) => name === 'BUS')).toHaveLength(1);
});

test('what cannot be is refused by code and in words, and nothing changes', async () => {
  const { id } = await ask('POST', '/api/sessions', { name: 'Refused' });
  const here = `/api/sessions/${id}`;
  await act(id, [
    { do: 'buses.add', id: 'a', name: 'A' },
    { do: 'buses.add', id: 'b', name: 'B', outputId: 'a' }
  ]);
  const before = await documentOf(id);
  const commands = (list: unknown, more: Row = {}) =>
    refusal('POST', `${here}/commands`, { base: before.revision, id: crypto.randomUUID(), commands: list, ...more });
  expect(await commands([{ do: 'channels.route', ids: ['a'], to: 'b' }])).toBe('422 loop');
  expect(await commands([{ do: 'faders.set', levels: [{ id: 'a', level: 'loud' }] }])).toBe('422 bad-arguments');
  expect(await commands([{ do: 'nothing.known' }])).toMatch(/^422 /);
  // The second of a batch fails: the first is taken back with it.
  expect(
    await commands([
      { do: 'buses.add', id: 'c', name: 'C' },
      { do: 'channels.route', ids: ['gone'], to: 'a' }
    ])
  ).toMatch(/^4\d\d /);
  expect(await commands([], { undo: 'x' })).toMatch(/^422 /);
  expect(await refusal('POST', `${here}/commands`, '{"half":')).toMatch(/^4\d\d /);
  expect(await refusal('GET', '/api/sessions/nowhere')).toBe('404 no-session');
  expect(await refusal('POST', '/api/sessions', { name: '' })).toMatch(/^422 /);
  expect(await refusal('POST', '/api/sessions', { name: 'x', template: 'no such' })).toMatch(/^4\d\d /);
  expect(await refusal('PUT', `${here}/media?name=words.wav`, 'These are words, not audio.')).toBe('422 not-audio');
  expect(await refusal('GET', `${here}/trace?from=gone`)).toMatch(/^4\d\d /);
  expect(await refusal('GET', `${here}/flow?format=pdf`)).toMatch(/^4\d\d /);
  expect(await refusal('GET', `${here}/onsets?track=a`)).toBe('404 not-found');
  expect(await refusal('POST', `${here}/sheet`, 'id,name\nno-such-row,Kick\n')).toMatch(/^422 /);
  expect(await refusal('POST', `${here}/sort`, { rules: { families: [], rules: [{ id: 'r', words: '/(/' }] } })).toMatch(/^422 /);
  expect(await refusal('PUT', '/api/rules', { families: 'none' })).toMatch(/^422 /);
  expect(await refusal('POST', '/api/templates', { template: { name: 'x' } })).toMatch(/^422 /);
  expect(await refusal('POST', '/api/packages', 'PK but no package')).toMatch(/^422 /);
  expect(await refusal('POST', `${here}/prints`, { format: 'mp3' })).toBe('422 bad-arguments');
  expect(await documentOf(id)).toEqual(before);
});

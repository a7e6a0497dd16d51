// A long session printed: how much memory it takes at most, beside what it takes after its first minute. Four hours at 96 kHz, each track
// with an equaliser and a compressor, a reverb and a mix limiter, its recording of a minute in clips one after the other; the file, of
// some 8 GB, goes to a temporary folder.
// npm run bench -- long [--hours N] [--tracks N] [--json]
import { appendFileSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { encode } from '../core/formats/pcm.ts';
import { readWavHeader, wavHeader } from '../core/formats/wav.ts';
import { newSession } from '../core/session/create.ts';
import { commit, creation } from '../core/session/changes.ts';
import { plannedFiles, readOrder } from '../core/prints/order.ts';
import { renderUnit } from '../files/prints/unit.ts';
import { carryOut, cpu, many, option } from './desk.ts';

const [hours, count] = [option('hours', 4), option('tracks', 8)];
const RATE = 96000;
const MINUTE = 60 * RATE;
const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-long-'));

/** A minute of notes that die away, as 24-bit WAV: each second like the one before. */
function record(file: string): void {
  const second = Float32Array.from({ length: RATE }, (_, n) => 0.4 * Math.sin(n * 0.02) * Math.exp(-(n % 24000) / 6000));
  writeFileSync(file, wavHeader({ rate: RATE, channels: 1, encoding: 's24', frames: MINUTE }));
  for (let n = 0; n < MINUTE; n += RATE) appendFileSync(file, encode([second], 's24').bytes);
}

function desk() {
  const session = newSession({ name: 'Long', rate: RATE });
  const ids = many(count, 't');
  carryOut(session, {
    do: 'tracks.add',
    tracks: ids.map((id) => ({
      id,
      name: id,
      colour: 0,
      media: {
        id: 'm',
        name: 'm',
        sha256: '0'.repeat(64),
        rate: RATE,
        channels: 1,
        frames: MINUTE,
        encoding: 's24' as const,
        peakDb: 0,
        origin: null
      }
    }))
  });
  const insert = (channelId: string, type: 'eq' | 'comp' | 'limiter') =>
    ({ do: 'inserts.add', id: `${channelId}:${type}`, channelId, type }) as const;
  carryOut(
    session,
    { do: 'returns.add', id: 'room', name: 'Room', sources: ids },
    { do: 'sends.set', sends: ids.map((source) => ({ source, target: 'room', level: -12 })) },
    { do: 'faders.set', levels: ids.map((id) => ({ id, level: -18 })) },
    ...ids.flatMap((id) => [insert(id, 'eq'), insert(id, 'comp')]),
    ...ids.map((id) => ({ do: 'inserts.set' as const, id: `${id}:eq`, values: { 'b1.on': 1, 'b3.on': 1, 'b3.gain': 3 } })),
    insert('mix', 'limiter')
  );
  const [first] = session.clip.values();
  for (const channelId of ids)
    for (let minute = 1; minute < hours * 60; minute++) {
      const id = `${channelId}:m${minute}`;
      commit(session, [creation('clip', id, { ...first, id, channelId, start: minute * MINUTE })]);
    }
  return session;
}

const source = path.join(folder, 'm.wav');
try {
  record(source);
  const start = readFileSync(source).subarray(0, 4096);
  const head = readWavHeader((at, length) => start.subarray(at, at + length), statSync(source).size);
  if (!head.ok) throw new Error(head.error.message);
  const session = desk();
  const megabytes = () => Math.round(process.memoryUsage().rss / 1e6);
  const [began, wall] = [cpu(), performance.now()];
  let early = 0;
  let most = 0;
  const file = path.join(folder, 'mix.wav');
  const order = readOrder({});
  if (!order.ok) throw new Error(order.error.message);
  const files = plannedFiles(session, order.value);
  if (!files.ok) throw new Error(files.error.message);
  const printed = await renderUnit(
    {
      session,
      kernel: 'dist/kernel.wasm',
      recordings: { m: { file: source, info: head.value } },
      order: order.value,
      files: files.value.map((own) => ({ ...own, title: own.name, path: file })),
      range: null,
      pass: 0,
      ahead: null,
      date: '2026-01-01T00:00:00Z'
    },
    (share) => {
      // Progress comes in fiftieths: the first of them is some minutes in.
      early ||= megabytes();
      most = Math.max(most, megabytes());
      if (!process.argv.includes('--json')) console.log(`${Math.round(share * 100)} %, ${megabytes()} MB`);
    }
  );
  if (!printed.ok) throw new Error(printed.error.message);
  const result = {
    hours,
    tracks: count,
    frames: printed.value[0].frames,
    fileGb: Number((statSync(file).size / 1e9).toFixed(2)),
    memoryAtFirstMb: early,
    memoryAtMostMb: most,
    cpuXRealtime: Number((printed.value[0].frames / RATE / (cpu() - began)).toFixed(1)),
    minutes: Number(((performance.now() - wall) / 60000).toFixed(1))
  };
  console.log(JSON.stringify(result));
} finally {
  rmSync(folder, { recursive: true, force: true });
}

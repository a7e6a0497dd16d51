// A thousand mutations each of a WAV, a session package and a session.json, seeded: each is taken whole or refused with a
// sentence; nothing crashes, hangs or is left behind. What is taken must also play.
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { encode } from '$core/formats/pcm';
import { readDocument, writeDocument } from '$core/formats/document';
import { wavHeader } from '$core/formats/wav';
import type { Result } from '$core/result';
import type { Session } from '$core/session/entities';
import { carryOut, emptyDesk, noise, play, rig, trackCommand } from '../tests/oracle/rig';
import { analyse } from './analyse';
import { convert } from './convert';
import { prepareFile } from './intake';
import { openPackage, writePackage } from './package';

const TIMES = 1000;
let folder = '';
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-mutations-'))));
afterAll(() => rmSync(folder, { recursive: true }));

/** A generator of whole numbers below a limit, the same for the same seed. */
function dice(seed: number): (below: number) => number {
  let state = seed;
  return (below) => (state = (Math.imul(state, 48271) >>> 0) % 2147483647) % below;
}

/** Some bytes changed, cut off, doubled or taken out. */
function mutated(bytes: Buffer, next: (below: number) => number, head: number): Buffer {
  const out = Buffer.from(bytes);
  const place = () => next(next(3) ? Math.min(head, out.length) : out.length);
  for (let n = next(5) + 1; n > 0; n--) out[place()] = next(4) ? next(256) : [0, 0xff, 0x7f, 0x80][next(4)];
  const kind = next(8);
  const [from, to] = [place(), place()].sort((a, b) => a - b);
  if (kind === 0) return out.subarray(0, next(out.length));
  if (kind === 1) return Buffer.concat([out.subarray(0, from), out.subarray(to)]);
  if (kind === 2) return Buffer.concat([out.subarray(0, to), out.subarray(from)]);
  return out;
}

const sentence = <T>(result: Result<T>) => result.ok || expect(result.error.message).toMatch(/[.…]$/);

function desk(): { session: Session; audio: Buffer; sha256: string } {
  const audio = Buffer.concat([
    wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 300 }),
    encode([noise(300, 1)], 's24').bytes
  ]);
  const sha256 = createHash('sha256').update(audio).digest('hex');
  const session = carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', frames: 300 },
      { id: 'b', frames: 300 }
    ])
  );
  for (const id of ['m-a', 'm-b']) session.media.set(id, { ...session.media.get(id)!, sha256, encoding: 's24', peakDb: -12 });
  carryOut(
    session,
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a'] },
    { do: 'returns.add', id: 'r', name: 'Room', sources: ['a', 'bus'] },
    { do: 'inserts.add', id: 'c', channelId: 'bus', type: 'comp' },
    { do: 'inserts.key', id: 'c', source: 'b', tap: 'pre' },
    { do: 'inserts.add', id: 'd', channelId: 'r', type: 'delay' },
    { do: 'inserts.add', id: 'l', channelId: 'mix', type: 'limiter' }
  );
  return { session, audio, sha256 };
}

it('of a WAV', async () => {
  const next = dice(20261123);
  const { audio } = desk();
  let taken = 0;
  for (let i = 0; i < TIMES; i++) {
    const file = path.join(folder, 'x.wav');
    const decoded = path.join(folder, 'y.wav');
    writeFileSync(file, mutated(audio, next, 100));
    const run = (order: Parameters<typeof convert>[0]) =>
      convert(order).catch((error: Error): Result<never> => ({ ok: false, error: { code: 'damaged', message: error.message } }));
    const prepared = await prepareFile({ file, sha256: '', decoded, sessionRate: 48000, convert: next(2) === 0, run });
    sentence(prepared);
    if (!prepared.ok) continue;
    const { info } = prepared.value;
    expect(info.frames).toBeGreaterThan(0);
    analyse({ file: prepared.value.file, info, peaksFile: path.join(folder, 'peaks') });
    taken++;
  }
  expect(taken).toBeGreaterThan(50);
  expect(taken).toBeLessThan(TIMES - 50);
}, 120_000);

it('of a session package', async () => {
  const next = dice(77);
  const { session, audio, sha256 } = desk();
  const recording = path.join(folder, `${sha256}.wav`);
  writeFileSync(recording, audio);
  const good = path.join(folder, 'good.zip');
  await writePackage(session, () => recording, good);
  const bytes = readFileSync(good);
  let taken = 0;
  for (let i = 0; i < TIMES; i++) {
    const file = path.join(folder, 'x.zip');
    const target = path.join(folder, 'out');
    writeFileSync(file, mutated(bytes, next, bytes.length));
    const opened = await openPackage(file, target);
    sentence(opened);
    if (opened.ok) taken++;
    if (existsSync(target)) expect(readdirSync(target).every((name) => name === `${sha256}.wav`)).toBe(true);
    rmSync(target, { recursive: true, force: true });
  }
  // Some change nothing that counts: a date, a byte put back.
  expect(taken).toBeLessThan(TIMES / 2);
  expect(readdirSync(folder).filter((name) => name.includes('..'))).toEqual([]);
}, 120_000);

it('of a session.json', () => {
  const next = dice(4711);
  const text = writeDocument(desk().session);
  const values: readonly unknown[] = [
    null,
    -1,
    0,
    1e308,
    -1e-320,
    'a',
    '',
    'mix',
    '-inf',
    [],
    {},
    true,
    2 ** 53,
    'a\nb',
    '__proto__',
    0.5,
    300
  ];
  let taken = 0;
  let played = 0;
  for (let i = 0; i < TIMES; i++) {
    let spoilt: string;
    if (i % 3 === 0) spoilt = mutated(Buffer.from(text), next, text.length).toString('utf8');
    else {
      const document = JSON.parse(text) as { session: Record<string, Record<string, unknown>[]> };
      for (let n = next(3) + 1; n > 0; n--) {
        const tables = Object.keys(document.session);
        const rows = document.session[tables[next(tables.length)]];
        const row = rows[next(rows.length)];
        const names = Object.keys(row ?? {});
        if (row && names.length) row[names[next(names.length)]] = values[next(values.length)];
        if (next(10) === 0) rows.splice(next(rows.length), 1);
      }
      spoilt = JSON.stringify(document);
    }
    const read = readDocument(spoilt);
    sentence(read);
    if (!read.ok) continue;
    taken++;
    const [left] = play(rig(read.value, new Map([['a', [noise(300, 1)]]])), 256);
    if (left.every(Number.isFinite)) played++;
  }
  expect(taken).toBeGreaterThan(20);
  expect(played).toBe(taken);
}, 120_000);

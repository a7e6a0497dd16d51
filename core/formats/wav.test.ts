// WAV headers and samples: exact round trips, what other programs read, and files that lie.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { noise } from '../../tests/oracle/rig.ts';
import { decodeAll, decode, ditherNoise, encode, planar, type Encoding, type Written } from './pcm.ts';
import { readWavHeader, wavHeader } from './wav.ts';

const readBytes = (bytes: Uint8Array) => readWavHeader((at, length) => bytes.subarray(at, at + length), bytes.length);
const fileOf = (encoding: Written, sides: Float32Array[], rate = 48000) => {
  const { bytes } = encode(sides, encoding);
  return Buffer.concat([wavHeader({ rate, channels: sides.length, encoding, frames: sides[0].length }), bytes]);
};
const message = (bytes: Uint8Array) => {
  const result = readBytes(bytes);
  return result.ok ? 'taken' : result.error.code;
};

const BEXT = {
  description: 'Ferry Shed - mix',
  originator: 'Isotaxis',
  date: '2026-11-23',
  time: '18:00:01',
  timeReference: 48000 * 36000,
  codingHistory: 'A=PCM,F=48000,W=24,M=mono,T=Isotaxis'
};

/** Header and samples as a file system would give them, without the gigabytes between. */
const sparse = (header: Uint8Array, size: number) => (at: number, length: number) =>
  Uint8Array.from({ length: Math.max(0, Math.min(length, size - at)) }, (_, i) => header[at + i] ?? 0);

describe('wav', () => {
  it('goes over to RF64 past 4 GB with a header of the same length, and reads its own and a 64-bit data size', () => {
    const order = { rate: 96000, channels: 2, encoding: 's24' as const };
    const short = wavHeader({ ...order, frames: 1000 });
    const frames = 4 * 3600 * 96000;
    const long = wavHeader({ ...order, frames });
    expect(long.length).toBe(short.length);
    expect([String.fromCharCode(...short.subarray(0, 4)), String.fromCharCode(...long.subarray(0, 4))]).toEqual(['RIFF', 'RF64']);
    const size = long.length + frames * 6;
    const info = readWavHeader(sparse(long, size), size);
    expect(info.ok && info.value).toMatchObject({ frames, rate: 96000, dataAt: long.length });
    expect(readWavHeader(sparse(long, size - 600), size - 600).ok).toBe(false);
  });

  it('writes and reads the broadcast extension, before or behind the audio', () => {
    const bext = BEXT;
    const samples = encode([noise(100, 1)], 's24').bytes;
    const file = Buffer.concat([wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 100, bext }), samples]);
    const info = readBytes(file);
    expect(info.ok && info.value.bext).toEqual(bext);
    const plain = Buffer.concat([wavHeader({ rate: 48000, channels: 1, encoding: 's24', frames: 100 }), samples]);
    const behind = readBytes(Buffer.concat([plain, file.subarray(48, 48 + 8 + 602 + bext.codingHistory.length + 2)]));
    expect(behind.ok && behind.value.bext).toEqual(bext);
  });

  it.each(['s24', 'f32'] as const)('%s round trip is exact to the bit', (encoding) => {
    const sides = [noise(1003, 1), noise(1003, 2)].map((side) =>
      encoding === 's24' ? side.map((x) => Math.round(x * 8388608) / 8388608) : side
    );
    const bytes = fileOf(encoding, sides);
    const info = readBytes(bytes);
    expect(info).toEqual({
      ok: true,
      value: { rate: 48000, channels: 2, encoding, frames: 1003, dataAt: encoding === 's24' ? 80 : 94, bext: null }
    });
    planar(bytes.subarray(bytes.length - 1003 * (encoding === 's24' ? 6 : 8)), encoding, 2).forEach((own, i) => {
      const back = new Float32Array(1003);
      decode(own, encoding, back);
      expect(back).toEqual(sides[i]);
    });
  });

  it('decodes integers by full scale, and counts what would clip', () => {
    const read = (encoding: Encoding, bytes: number[]) => {
      const out = new Float32Array(1);
      decode(Uint8Array.from(bytes), encoding, out);
      return out[0];
    };
    expect([
      read('s16', [0, 0x80]),
      read('s16', [0, 0x40]),
      read('s24', [0, 0, 0x80]),
      read('s24', [1, 0, 0]),
      read('s32', [0, 0, 0, 0xc0])
    ]).toEqual([-1, 0.5, -1, 2 ** -23, -0.5]);
    expect(encode([Float32Array.of(1, -1, 1.0001, -1.5, 0.999)], 's24').clipped).toBe(2);
    // The fast ways and the plain ones agree: two channels against the same one by one, from any place in memory.
    const pair = [noise(1000, 8), noise(1000, 9)];
    const both = encode(pair, 's24').bytes;
    const apartBytes = pair.map((side) => encode([side], 's24').bytes);
    expect(planar(both, 's24', 2)).toEqual(apartBytes);
    const shifted = new Uint8Array(both.length + 1);
    shifted.set(both, 1);
    expect(planar(shifted.subarray(1), 's24', 2)).toEqual(apartBytes);
    expect(encode([Float32Array.of(0.5, 2), Float32Array.of(-3, 0.25)], 's24')).toMatchObject({ clipped: 2 });
    // TPDF dither of ±1 step: no bias, and a noise of ½ step squared on top of the ⅟₁₂ of rounding.
    const quiet = new Float32Array(100000).fill(0.25 / 32768);
    const view = new DataView(encode([quiet], 's16', ditherNoise(1)).bytes.buffer);
    const steps = Array.from(quiet, (_, i) => view.getInt16(i * 2, true));
    const mean = steps.reduce((sum, x) => sum + x, 0) / steps.length;
    expect(mean).toBeCloseTo(0.25, 1);
    expect(steps.reduce((sum, x) => sum + (x - mean) ** 2, 0) / steps.length).toBeCloseTo(0.25, 1);
  });

  it('is read by ffprobe and sox as it was meant', () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-wav-'));
    try {
      for (const encoding of ['s16', 's24', 'f32'] as const) {
        const file = path.join(folder, `${encoding}.wav`);
        writeFileSync(file, fileOf(encoding, [noise(4410, 3), noise(4410, 4)], 44100));
        const probe = execFileSync(
          'ffprobe',
          ['-v', 'error', '-show_entries', 'stream=codec_name,sample_rate,channels,duration_ts', '-of', 'csv=p=0', file],
          { encoding: 'utf8' }
        );
        expect(probe.trim()).toBe(`${{ s16: 'pcm_s16le', s24: 'pcm_s24le', f32: 'pcm_f32le' }[encoding]},44100,2,4410`);
        expect(execFileSync('sox', ['--i', '-s', file], { encoding: 'utf8' }).trim()).toBe('4410');
      }
      // Past 4 GB: a file with a hole in it, so that it takes no room.
      const long = path.join(folder, 'long.wav');
      const frames = 1_000_000_000;
      writeFileSync(long, wavHeader({ rate: 96000, channels: 2, encoding: 's24', frames, bext: { ...BEXT, timeReference: 4711 } }));
      truncateSync(long, wavHeader({ rate: 96000, channels: 2, encoding: 's24', frames, bext: BEXT }).length + frames * 6);
      const said = execFileSync(
        'ffprobe',
        ['-v', 'error', '-show_entries', 'stream=duration_ts:format_tags', '-of', 'default=nk=0', long],
        {
          encoding: 'utf8'
        }
      );
      expect(said).toContain(`duration_ts=${frames}`);
      expect(said).toContain('TAG:time_reference=4711');
      expect(said).toContain('TAG:encoded_by=Isotaxis');
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  it('says what is wrong with a file', () => {
    const good = fileOf('s24', [noise(2000, 5)]);
    const changed = (at: number, ...bytes: number[]) => Uint8Array.from(good, (byte, i) => bytes[i - at] ?? byte);
    expect(message(good)).toBe('taken');
    expect(message(new Uint8Array(0))).toBe('empty');
    expect(message(Buffer.from('these are only words, whatever the name says'))).toBe('not-wav');
    expect(message(good.subarray(0, 3000))).toBe('truncated');
    expect(message(good.subarray(0, 76))).toBe('truncated');
    expect(message(changed(76, 0, 0, 0, 0))).toBe('no-frames');
    expect(message(changed(76, 0xff, 0xff, 0xff, 0x7f))).toBe('truncated');
    expect(message(changed(60, 0, 0, 0, 0))).toBe('no-rate');
    expect(message(changed(58, 44, 1))).toBe('channels');
    expect(message(changed(70, 12, 0))).toBe('encoding');
    expect(message(changed(68, 7, 0))).toBe('bad-format');
  });

  it('survives a thousand mutations: every file is taken whole or refused with a sentence', () => {
    const good = fileOf('s24', [noise(100, 6), noise(100, 7)]);
    let state = 1;
    const next = (below: number) => (state = (Math.imul(state, 48271) >>> 0) % 2147483647) % below;
    for (let i = 0; i < 1000; i++) {
      const bytes = Uint8Array.from(good.subarray(0, next(4) ? good.length : next(good.length)));
      for (let n = next(6) + 1; n > 0; n--) if (bytes.length) bytes[next(Math.min(bytes.length, 60))] = next(256);
      const result = readBytes(bytes);
      if (result.ok) expect(result.value.dataAt + result.value.frames * result.value.channels * 2).toBeLessThanOrEqual(bytes.length);
      else expect(result.error.message).toMatch(/\.$/);
    }
  });
});

describe('rounding to whole steps', () => {
  it('takes the nearest, of two equally near the even one, in every loop that writes', () => {
    // Halves, and just beside them: powers of two, so that each is exact in a float.
    const steps = [-4, -3, -2, -1, 0, 1, 2, 3, 4, 100, 8388606];
    const values = steps.flatMap((n) => [n + 0.5, n + 0.25, n + 0.75]);
    const even = (x: number) => (Math.abs(x % 1) === 0.5 ? 2 * Math.round(x / 2) : Math.round(x));
    for (const [encoding, scale, wanted] of [
      ['s24', 8388608, values],
      ['s16', 32768, values.filter((x) => Math.abs(x) < 32000)]
    ] as const) {
      const side = Float32Array.from(wanted, (x) => x / scale);
      for (const sides of [[side], [side, side], [side, side, side]]) {
        const { bytes } = encode(sides, encoding);
        const got = decodeAll(bytes, encoding, sides.length);
        for (const each of got)
          expect([...each].map((x) => x * scale)).toEqual([...side].map((x) => Math.min(scale - 1, even(x * scale)) + 0));
      }
    }
  });
});

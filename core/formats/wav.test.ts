// WAV headers and samples: exact round trips, what other programs read, and files that lie.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { noise } from '../../tests/oracle/rig.ts';
import { decode, encode, planar, type Encoding } from './pcm.ts';
import { readWavHeader, wavHeader, WAV_LIMIT } from './wav.ts';

const readBytes = (bytes: Uint8Array) => readWavHeader((at, length) => bytes.subarray(at, at + length), bytes.length);
const fileOf = (encoding: 's24' | 'f32', sides: Float32Array[], rate = 48000) => {
  const { bytes } = encode(sides, encoding);
  return Buffer.concat([wavHeader({ rate, channels: sides.length, encoding, frames: sides[0].length }), bytes]);
};
const message = (bytes: Uint8Array) => {
  const result = readBytes(bytes);
  return result.ok ? 'taken' : result.error.code;
};

describe('wav', () => {
  it.each(['s24', 'f32'] as const)('%s round trip is exact to the bit', (encoding) => {
    const sides = [noise(1000, 1), noise(1000, 2)].map((side) =>
      encoding === 's24' ? side.map((x) => Math.round(x * 8388608) / 8388608) : side
    );
    const bytes = fileOf(encoding, sides);
    const info = readBytes(bytes);
    expect(info).toEqual({ ok: true, value: { rate: 48000, channels: 2, encoding, frames: 1000, dataAt: encoding === 's24' ? 44 : 58 } });
    planar(bytes.subarray(bytes.length - 1000 * (encoding === 's24' ? 6 : 8)), encoding, 2).forEach((own, i) => {
      const back = new Float32Array(1000);
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
  });

  it('is read by ffprobe and sox as it was meant', () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-wav-'));
    try {
      for (const encoding of ['s24', 'f32'] as const) {
        const file = path.join(folder, `${encoding}.wav`);
        writeFileSync(file, fileOf(encoding, [noise(4410, 3), noise(4410, 4)], 44100));
        const probe = execFileSync(
          'ffprobe',
          ['-v', 'error', '-show_entries', 'stream=codec_name,sample_rate,channels,duration_ts', '-of', 'csv=p=0', file],
          { encoding: 'utf8' }
        );
        expect(probe.trim()).toBe(`${encoding === 's24' ? 'pcm_s24le' : 'pcm_f32le'},44100,2,4410`);
        expect(execFileSync('sox', ['--i', '-s', file], { encoding: 'utf8' }).trim()).toBe('4410');
      }
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
    expect(message(good.subarray(0, 40))).toBe('truncated');
    expect(message(changed(40, 0, 0, 0, 0))).toBe('no-frames');
    expect(message(changed(40, 0xff, 0xff, 0xff, 0x7f))).toBe('truncated');
    expect(message(changed(24, 0, 0, 0, 0))).toBe('rate');
    expect(message(changed(22, 44, 1))).toBe('channels');
    expect(message(changed(34, 12, 0))).toBe('encoding');
    expect(message(changed(32, 7, 0))).toBe('bad-format');
    expect(() => wavHeader({ rate: 48000, channels: 2, encoding: 's24', frames: WAV_LIMIT })).toThrow('4 GB');
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

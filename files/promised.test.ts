// What compressed files say of themselves, on headers made by hand after their standards and on files of other programs cut at every place.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { promisedBy } from './promised';

let folder = '';
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-promised-'))));
afterAll(() => rmSync(folder, { recursive: true }));

const promised = (kind: 'flac' | 'ogg' | 'mp3', bytes: Uint8Array) =>
  promisedBy(kind, (at, length) => bytes.subarray(at, Math.max(at, Math.min(bytes.length, at + length))), bytes.length);

/** A tone of `seconds` as another program writes it. */
function made(name: string, seconds: number, rate: number, ...options: string[]): Uint8Array {
  const file = path.join(folder, name);
  const source = `sine=frequency=330:duration=${seconds}:sample_rate=${rate}`;
  execFileSync('ffmpeg', ['-nostdin', '-v', 'error', '-y', '-f', 'lavfi', '-i', source, ...options, file], {
    stdio: ['ignore', 'ignore', 'inherit']
  });
  return readFileSync(file);
}

/** An MPEG-1 layer III frame of 128 kbit/s at 44.1 kHz: 417 bytes. */
const frame = (mono: boolean) => {
  const bytes = new Uint8Array(417);
  bytes.set([0xff, 0xfb, 0x90, mono ? 0xc4 : 0x04]);
  return bytes;
};
const joined = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((part) => [...part]));

describe('MP3', () => {
  it('without a count is walked frame by frame: whole, cut, mono', () => {
    const whole = joined(...Array.from({ length: 5 }, () => frame(false)));
    expect(promised('mp3', whole)).toEqual({ frames: null, most: Infinity, cut: false, mono: false });
    expect(promised('mp3', whole.subarray(0, whole.length - 1))).toMatchObject({ cut: true });
    expect(promised('mp3', joined(frame(true), frame(true)))).toMatchObject({ cut: false, mono: true });
    // A tag behind the audio is no frame, and no sign of a cut.
    expect(
      promised(
        'mp3',
        joined(
          whole,
          Uint8Array.from('TAG and words', (letter) => letter.charCodeAt(0))
        )
      )
    ).toMatchObject({ cut: false });
  });

  it('says its count where its encoder wrote one, delay and padding taken off, behind whatever tag', () => {
    const first = frame(false);
    const text = (at: number, words: string) =>
      first.set(
        Uint8Array.from(words, (letter) => letter.charCodeAt(0)),
        at
      );
    text(36, 'Info');
    // Frames alone are told: no bytes, no table, no quality.
    first.set([0, 0, 0, 1, 0, 0, 0, 100], 40);
    text(48, 'LAME');
    // 576 before, 1000 behind: twelve bits each.
    first.set([0x24, 0x03, 0xe8], 48 + 21);
    expect(promised('mp3', joined(first, frame(false)))).toMatchObject({ frames: 100 * 1152 - 1576, cut: false });
    // ID3v2: its size in seven bits a byte.
    const tag = new Uint8Array(10 + 300);
    tag.set([...Uint8Array.from('ID3', (letter) => letter.charCodeAt(0)), 4, 0, 0, 0, 0, 2, 44]);
    expect(promised('mp3', joined(tag, first))).toMatchObject({ frames: 100 * 1152 - 1576 });
    expect(
      promised(
        'mp3',
        Uint8Array.from({ length: 3000 }, (_, i) => i % 251)
      )
    ).toMatchObject({ frames: null, cut: false });
  });

  it.each([44100, 22050, 11025])('of another program at %i Hz is as long as it was', (rate) => {
    for (const [channels, mono] of [
      ['1', true],
      ['2', false]
    ] as const)
      expect(promised('mp3', made(`${rate}-${channels}.mp3`, 1.5, rate, '-ac', channels, '-c:a', 'libmp3lame'))).toMatchObject({
        frames: Math.round(1.5 * rate),
        mono
      });
  });
});

describe('Ogg', () => {
  it('ends where its last page says, and is cut wherever that page is not whole', () => {
    const vorbis = made('a.ogg', 2, 48000, '-c:a', 'libvorbis');
    expect(promised('ogg', vorbis)).toMatchObject({ frames: 96000, cut: false });
    const opus = made('a.opus', 2, 48000, '-c:a', 'libopus');
    expect(promised('ogg', opus)).toMatchObject({ frames: 96000, cut: false });
    for (const bytes of [vorbis, opus])
      for (const share of [0.2, 0.5, 0.9, 0.999]) {
        const cut = promised('ogg', bytes.subarray(0, Math.floor(bytes.length * share)));
        expect(cut).toMatchObject({ frames: null, cut: true });
        // Never more than the pages that are there.
        expect(cut.most).toBeLessThanOrEqual(96000);
      }
  });
});

describe('FLAC', () => {
  it('says its samples in its first block, more than 32 bits of them too', () => {
    expect(promised('flac', made('a.flac', 1.25, 96000))).toMatchObject({ frames: 120_000, most: 120_000 });
    const head = new Uint8Array(42);
    head.set([...Uint8Array.from('fLaC', (letter) => letter.charCodeAt(0)), 0, 0, 0, 34]);
    head.set([0x03, 0, 0, 0, 7], 21);
    expect(promised('flac', head)).toMatchObject({ frames: 3 * 2 ** 32 + 7 });
    head.set([0, 0, 0, 0, 0], 21);
    expect(promised('flac', head)).toMatchObject({ frames: null, cut: false });
    expect(promised('flac', head.subarray(0, 20))).toMatchObject({ frames: null });
  });
});

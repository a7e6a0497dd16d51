// Files of other programs on their way in: every format decoded to the samples it holds, rates converted without harm.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodeAll, encode } from '$core/formats/pcm';
import { sniff } from '$core/formats/sniff';
import { readWavHeader, wavHeader } from '$core/formats/wav';
import { noise } from '../tests/oracle/rig';
import { convert } from './convert';
import { createResampler } from './resample';

let folder = '';
beforeAll(() => (folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-files-'))));
afterAll(() => rmSync(folder, { recursive: true }));
const at = (name: string) => path.join(folder, name);
const RATE = 44100;
const FRAMES = 30000;

/** A stereo tone with a little noise, as 24-bit WAV. */
function master(): { file: string; sides: Float32Array[] } {
  const sides = [noise(FRAMES, 1), noise(FRAMES, 2)].map((side, s) =>
    side.map((x, i) => Math.round((x * 0.1 + 0.4 * Math.sin(i * 0.05 * (s + 1))) * 8388608) / 8388608)
  );
  const file = at('master.wav');
  writeFileSync(file, Buffer.concat([wavHeader({ rate: RATE, channels: 2, encoding: 's24', frames: FRAMES }), encode(sides, 's24').bytes]));
  return { file, sides };
}

const ffmpeg = (...args: string[]) =>
  execFileSync('timeout', ['-k', '1', '60', 'ffmpeg', '-nostdin', '-v', 'error', '-y', ...args], {
    stdio: ['ignore', 'ignore', 'inherit']
  });

async function converted(file: string, toRate: number | null = null, keep = false) {
  const kind = sniff(readFileSync(file).subarray(0, 64));
  if (!kind) throw new Error(`${file} is of no kind that is read.`);
  const out = `${file}.out.wav`;
  const result = await convert({ file, size: statSync(file).size, kind, out, toRate, keep });
  if (!result.ok) return { result, info: null, sides: [] };
  const bytes = readFileSync(out);
  const header = readWavHeader((from, length) => bytes.subarray(from, from + length), bytes.length);
  if (!header.ok) throw new Error(header.error.message);
  return {
    result,
    info: header.value,
    sides: decodeAll(bytes.subarray(header.value.dataAt), header.value.encoding, header.value.channels)
  };
}

const rms = (a: ArrayLike<number>, b: ArrayLike<number>, from = 0, to = a.length) => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += (a[i] - b[i]) ** 2;
  return Math.sqrt(sum / (to - from));
};

describe('files on their way in', () => {
  it.each([
    ['flac', ['-c:a', 'flac', '-sample_fmt', 's32', '-bits_per_raw_sample', '24']],
    ['aiff', ['-c:a', 'pcm_s24be']],
    ['aif', ['-c:a', 'pcm_f32be', '-f', 'aiff']],
    ['rf64.wav', ['-c:a', 'pcm_s24le', '-rf64', 'always']],
    ['f64.wav', ['-c:a', 'pcm_f64le']]
  ])('%s: exact to the sample', async (ending, options) => {
    const { file, sides } = master();
    const made = at(`exact.${ending}`);
    ffmpeg('-i', file, ...options, made);
    const { result, info, sides: got } = await converted(made);
    expect(result.ok).toBe(true);
    expect(info).toMatchObject({ rate: RATE, channels: 2, frames: FRAMES });
    expect(got).toEqual(sides);
  });

  it.each([
    ['mp3', 'MP3', ['-c:a', 'libmp3lame', '-b:a', '320k'], RATE],
    ['ogg', 'Ogg Vorbis', ['-c:a', 'libvorbis', '-q:a', '9'], RATE],
    ['opus', 'Ogg Opus', ['-c:a', 'libopus', '-b:a', '256k', '-ar', '48000'], 48000]
  ])('%s: as long as it was and close to it', async (ending, format, options, rate) => {
    const { file, sides } = master();
    const made = at(`lossy.${ending}`);
    ffmpeg('-i', file, ...options, made);
    const { result, info, sides: got } = await converted(made, RATE);
    expect(result).toMatchObject({ ok: true, value: { format, rate } });
    expect(info).toMatchObject({ rate: RATE, channels: 2, encoding: 'f32' });
    // ffmpeg’s own way to 48 kHz, which Opus has, may round by one.
    expect(Math.abs(got[0].length - FRAMES)).toBeLessThanOrEqual(rate === RATE ? 0 : 1);
    expect(rms(sides[0], got[0], 2000, 28000)).toBeLessThan(0.05);
  });

  it.each([
    ['flac', ['-c:a', 'flac'], /promises 5\.0 s of audio, and holds 2\.[0-9] s/],
    ['ogg', ['-c:a', 'libvorbis'], /end of the file is missing: it was cut off after [12]\.[0-9] s/],
    ['opus', ['-c:a', 'libopus', '-ar', '48000'], /end of the file is missing: it was cut off after [12]\.[0-9] s/],
    ['mp3', ['-c:a', 'libmp3lame', '-b:a', '128k'], /promises 5\.0 s of audio, and holds 2\.[0-9] s/],
    ['bare.mp3', ['-c:a', 'libmp3lame', '-b:a', '128k', '-write_xing', '0'], /end of the file is missing: it was cut off after 2\.[0-9] s/],
    ['wav', ['-c:a', 'pcm_s16le'], /promises 5\.0 s of audio, and holds 2\.[0-9] s/],
    ['aiff', ['-c:a', 'pcm_s16be'], /promises 5\.0 s of audio, and holds 2\.[0-9] s/]
  ])('%s that was cut off: says how much is missing, and keeps what is there where that is wished', async (ending, options, words) => {
    const whole = at(`long.${ending}`);
    ffmpeg('-f', 'lavfi', '-i', 'sine=frequency=440:duration=5:sample_rate=44100', ...options, whole);
    const cut = at(`cut.${ending}`);
    writeFileSync(cut, readFileSync(whole).subarray(0, Math.floor(statSync(whole).size / 2)));
    const { result } = await converted(cut);
    expect(result).toMatchObject({ ok: false, error: { code: 'truncated' } });
    expect(result.ok ? '' : result.error.message).toMatch(words);
    const kept = await converted(cut, null, true);
    expect(kept.result.ok).toBe(true);
    // Nothing is invented behind the end of what is there.
    expect(kept.sides[0].length / kept.info!.rate).toBeLessThan(2.8);
    expect(kept.sides[0].length / kept.info!.rate).toBeGreaterThan(0.9);
    expect((await converted(whole)).result.ok).toBe(true);
  });

  it('a FLAC file that ends in silence is whole: its last frame may have 14 bytes', async () => {
    const made = at('blips.flac');
    ffmpeg('-f', 'lavfi', '-i', 'aevalsrc=0.4*sin(2*PI*330*t)*lt(mod(t\\,1)\\,0.1):s=48000:d=6', '-ac', '1', '-c:a', 'flac', made);
    const { result, info } = await converted(made);
    expect(result.ok ? '' : result.error.message).toBe('');
    expect(info).toMatchObject({ rate: 48000, channels: 1, frames: 288_000 });
  });

  it('Opus made otherwise is as long as it was too; a mono MP3 is mono; damage is told in words of ours', async () => {
    // A pre-skip of 312 and an end in the middle of a packet.
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'sine=frequency=440:duration=2.0123:sample_rate=48000',
      '-c:a',
      'libopus',
      '-application',
      'lowdelay',
      at('low.opus')
    );
    const { sides, info } = await converted(at('low.opus'));
    expect([sides[0].length, info!.rate]).toEqual([Math.round(2.0123 * 48000), 48000]);
    ffmpeg('-f', 'lavfi', '-i', 'sine=frequency=440:duration=1:sample_rate=44100', '-ac', '1', '-c:a', 'libmp3lame', at('mono.mp3'));
    expect((await converted(at('mono.mp3'))).info).toMatchObject({ channels: 1, frames: 44100 });
    for (const ending of ['opus', 'ogg', 'mp3', 'flac']) {
      ffmpeg('-f', 'lavfi', '-i', 'sine=frequency=440:duration=3:sample_rate=48000', at(`hurt.${ending}`));
      const bytes = readFileSync(at(`hurt.${ending}`));
      for (let i = Math.floor(bytes.length / 3); i < bytes.length / 2; i += 7) bytes[i] ^= 0x5a;
      writeFileSync(at(`hurt.${ending}`), bytes);
      const hurt = await converted(at(`hurt.${ending}`)).catch((error: Error) => ({ result: { ok: false as const, error } }));
      if (!hurt.result.ok) expect(hurt.result.error.message, ending).toMatch(/^The (file|end|header).*(again|there)\.$/);
    }
  });

  it.each([
    ['u8', ['-b', '8', '-e', 'unsigned-integer'], 'WAV 8 bit'],
    ['a-law', ['-e', 'a-law'], 'WAV A-law'],
    ['u-law', ['-e', 'u-law'], 'WAV µ-law']
  ])('a WAV of %s becomes the 16 bits that sox makes of it', async (name, options, format) => {
    execFileSync('sox', [
      '-D',
      '-n',
      '-r',
      '8000',
      '-c',
      '1',
      ...options,
      at(`${name}.wav`),
      'synth',
      '0.5',
      'sine',
      '50-3000',
      'vol',
      '0.7'
    ]);
    execFileSync('sox', ['-D', at(`${name}.wav`), '-b', '16', '-e', 'signed-integer', at(`${name}-wanted.wav`)]);
    const { result, info, sides } = await converted(at(`${name}.wav`));
    expect(result).toMatchObject({ ok: true, value: { format } });
    expect(info).toMatchObject({ encoding: 's16', channels: 1, frames: 4000 });
    const wanted = readFileSync(at(`${name}-wanted.wav`));
    const header = readWavHeader((from, length) => wanted.subarray(from, from + length), wanted.length);
    if (!header.ok) throw new Error(header.error.message);
    expect(sides).toEqual(decodeAll(wanted.subarray(header.value.dataAt), 's16', 1));
  });

  it('a WAV written into a pipe, whose sizes nobody knew, is read to its end', () => {
    const { file } = master();
    for (const [program, args] of [
      ['ffmpeg', ['-nostdin', '-v', 'error', '-i', file, '-c:a', 'pcm_s24le', '-f', 'wav', '-']],
      ['sox', [file, '-t', 'wav', '-']]
    ] as const) {
      const bytes = execFileSync(program, args, { maxBuffer: 1e8 });
      const header = readWavHeader((from, length) => bytes.subarray(from, from + length), bytes.length);
      expect(header, program).toMatchObject({ ok: true, value: { frames: FRAMES, encoding: 's24' } });
    }
  });

  it('says what is wrong with damaged ones, and takes nothing half', async () => {
    const { file } = master();
    ffmpeg('-i', file, '-c:a', 'flac', at('whole.flac'));
    const whole = readFileSync(at('whole.flac'));
    writeFileSync(at('noise.flac'), Buffer.concat([whole.subarray(0, 60), Buffer.from(noise(20000, 5).buffer)]));
    expect((await converted(at('noise.flac'))).result).toMatchObject({ ok: false });
    ffmpeg('-i', file, at('whole.aiff'));
    writeFileSync(at('short.aiff'), readFileSync(at('whole.aiff')).subarray(0, 20000));
    expect((await converted(at('short.aiff'))).result).toMatchObject({ ok: false, error: { code: 'truncated' } });
    expect(sniff(Buffer.from('only words in a file'))).toBeNull();
  });
});

/** A sine through the converter, in blocks of an odd size. */
async function resampled(frequency: number, from: number, to: number, seconds = 0.5): Promise<Float32Array> {
  const converter = await createResampler(1, from, to);
  const input = Float32Array.from({ length: from * seconds }, (_, i) => 0.5 * Math.sin((2 * Math.PI * frequency * i) / from));
  const parts: Float32Array[] = [];
  for (let i = 0; i < input.length; i += 10007) parts.push(...converter.push([input.subarray(i, i + 10007)]));
  parts.push(...converter.finish());
  return Float32Array.from(parts.flatMap((part) => [...part]));
}
const middle = (samples: Float32Array) => samples.subarray(4000, samples.length - 4000);

describe('sample-rate conversion', () => {
  it.each([
    [44100, 48000],
    [96000, 48000],
    [48000, 44100]
  ])(
    '%i to %i Hz: every tone of the band at its place within 0.001 dB and −115 dB, the length right',
    async (from, to) => {
      for (const frequency of [100, 1000, 10000, 0.43 * Math.min(from, to)]) {
        const out = await resampled(frequency, from, to);
        expect(out.length).toBe(to * 0.5);
        const want = Float64Array.from(out, (_, i) => 0.5 * Math.sin((2 * Math.PI * frequency * i) / to));
        let [power, wanted, worst] = [0, 0, 0];
        for (let i = 4000; i < out.length - 4000; i++) {
          power += out[i] ** 2;
          wanted += want[i] ** 2;
          worst = Math.max(worst, Math.abs(out[i] - want[i]));
        }
        expect(Math.abs(10 * Math.log10(power / wanted))).toBeLessThan(0.001);
        expect(20 * Math.log10(worst / 0.5)).toBeLessThan(-115);
      }
    },
    60_000
  );

  it('lets nothing from over the new band fold back: under −115 dB', async () => {
    for (const [frequency, from, to] of [
      [23900, 48000, 44100],
      [30000, 96000, 48000],
      [47000, 96000, 44100]
    ] as const) {
      const left = Math.max(...middle(await resampled(frequency, from, to)).map(Math.abs));
      expect(20 * Math.log10(left / 0.5 + 1e-12), `${frequency} Hz`).toBeLessThan(-115);
    }
  }, 60_000);
});

// Printed files as other programs read them: every format by ffprobe, sox and flac; sums by sox, loudness and true peak by ffmpeg.
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, noise, RATE, trackCommand } from '../../tests/oracle/rig';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import { FORMATS, readOrder, type Format } from '$core/prints/order';
import type { Session } from '$core/session/entities';
import { headerOf } from '../intake';
import { printJob, type Printed } from './job';
import { NOTHING } from './proof';
import type { Recordings } from './recordings';

const SECONDS = 2;
const FRAMES = RATE * SECONDS;
let folder = '';
const recordings: Record<string, Recordings[string]> = {};
const run = (program: string, ...args: string[]) => spawnSync(program, args, { encoding: 'utf8', maxBuffer: 2 ** 26 });

/** Noise that swells and dies away, so that there is a range of loudness. */
const swelling = (seed: number, frames = FRAMES) =>
  noise(frames, seed).map((x, i) => x * (0.1 + 0.9 * Math.sin((i / frames) * 9 + seed) ** 2));

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'isotaxis-files-'));
  for (const [i, id] of ['kick', 'pans', 'voice'].entries()) {
    const sides = id === 'pans' ? [swelling(i + 1), swelling(i + 9)] : [swelling(i + 1)];
    const file = path.join(folder, `${id}.wav`);
    writeFileSync(file, wavHeader({ rate: RATE, channels: sides.length, encoding: 'f32', frames: FRAMES }));
    writeFileSync(file, encode(sides, 'f32').bytes, { flag: 'a' });
    const header = await headerOf(file);
    if (!header?.ok) throw new Error(file);
    recordings[`m-${id}`] = { file, info: header.value };
  }
});
afterAll(() => rmSync(folder, { recursive: true }));

const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'kick', frames: FRAMES },
      { id: 'pans', width: 2, frames: FRAMES },
      { id: 'voice', frames: FRAMES }
    ]),
    ...['kick', 'pans', 'voice'].map((id) => ({ do: 'buses.add' as const, id: `s-${id}`, name: id.toUpperCase(), members: [id] })),
    { do: 'returns.add', id: 'room', name: 'Room', outputId: 's-voice', sources: ['voice'] },
    { do: 'sends.set', sends: [{ source: 'voice', target: 'room', level: -8 }] },
    { do: 'inserts.add', id: 'glue', channelId: 'mix', type: 'comp' },
    { do: 'inserts.set', id: 'glue', values: { threshold: -24, ratio: 3 } },
    { do: 'stems.set', ids: ['s-kick', 's-pans', 's-voice'], on: true },
    { do: 'fades.set', out: { frames: 24000, curve: 'power' } },
    { do: 'versions.add', id: 'v', name: 'Without voice', stems: { 's-voice': '-inf' } }
  );

let jobs = 0;
async function job(session: Session, asked: object, ahead = true): Promise<Printed & { folder: string }> {
  const order = readOrder({ tail: 1, ...asked });
  if (!order.ok) throw new Error(order.error.message);
  const where = path.join(folder, `job${jobs++}`);
  const built = (name: string) => path.resolve('dist', name);
  const threads = { kernel: built('kernel.wasm'), thread: built('threads/render.js'), ahead: ahead ? built('threads/ahead.js') : null };
  const done = await printJob(
    { session, order: order.value, recordings, folder: where, date: '2026-11-27T03:00:00.000Z', keepResiduals: true, ...threads },
    () => {}
  );
  if (!done.ok) throw new Error(done.error.message);
  return { ...done.value, folder: where };
}
const ALL = [{ kind: 'stem' }, { kind: 'input' }, { kind: 'mix' }, { kind: 'version' }, { kind: 'raw' }];
const BITS: Record<Format, number> = { wav16: 16, wav24: 24, wav32: 32, wav32f: 32, flac16: 16, flac24: 24 };

describe('files', () => {
  it.each(FORMATS)(
    'as %s are read by others as they were written, and add up there too',
    async (format) => {
      const { files, nulls, folder: where } = await job(desk(), { files: ALL, format });
      expect(files.map(({ kind, channels }) => [kind, channels])).toEqual([
        ...(['stem', 'stem', 'stem', 'input', 'mix', 'version'] as const).map((kind) => [kind, kind === 'stem' ? expect.any(Number) : 2]),
        ['raw', 1],
        ['raw', 2],
        ['raw', 1]
      ]);
      // A mono family in the middle is one channel; nothing else is.
      expect(files[0].channels).toBe(1);
      // One of each sort: a stem of one channel and of two, the mix, a track.
      for (const { name, frames, channels, sha256 } of [0, 1, 4, 6].map((i) => files[i])) {
        const file = path.join(where, name);
        const [stream] = (
          JSON.parse(
            run(
              'ffprobe',
              '-v',
              'error',
              '-show_entries',
              'stream=codec_name,sample_rate,channels,bits_per_raw_sample,bits_per_sample,duration_ts',
              '-of',
              'json',
              file
            ).stdout
          ) as { streams: Record<string, string | number>[] }
        ).streams;
        expect(Number(stream.sample_rate)).toBe(RATE);
        expect([stream.channels, stream.duration_ts]).toEqual([channels, frames]);
        expect(Number(stream.bits_per_raw_sample ?? 0) || Number(stream.bits_per_sample)).toBe(BITS[format]);
        expect(frames).toBe(FRAMES + RATE);
        if (format.startsWith('flac')) expect(run('flac', '-t', '-s', file)).toMatchObject({ status: 0, stderr: '' });
        expect(run('sha256sum', file).stdout.slice(0, 64)).toBe(sha256);
      }
      // sox: the stems, minus the mix-bus input.
      const own = (i: number) => path.join(where, files[i].name);
      const rest = path.join(where, 'rest.wav');
      const wide = files.slice(0, 4).map((_, i) => {
        const file = path.join(where, `wide${i}.wav`);
        execFileSync('sox', [own(i), '-e', 'floating-point', '-b', '64', '-c', '2', file]);
        return file;
      });
      execFileSync('sox', [
        '-m',
        ...wide.flatMap((file, i) => ['-v', i === 3 ? '-1' : '1', file]),
        '-e',
        'floating-point',
        '-b',
        '64',
        rest
      ]);
      const { stderr } = run('sox', rest, '-n', 'stat');
      const most = Math.max(
        ...['Maximum', 'Minimum'].map((end) => Math.abs(Number(new RegExp(`${end} amplitude:\\s+(\\S+)`).exec(stderr)![1])))
      );
      const [stems, ...chains] = nulls;
      expect(
        nulls.every(({ holds }) => holds),
        JSON.stringify(nulls.map(({ db, bar }) => [db, bar]))
      ).toBe(true);
      expect([stems.of, ...chains.map(({ name }) => name)]).toEqual(['stems', 'mix', 'Without voice']);
      if (format === 'wav32f') expect(nulls.map(({ db }) => db)).toEqual([NOTHING, NOTHING, NOTHING]);
      // sox prints six digits: what is left of 24 bits and more is 0 to it.
      else if (BITS[format] === 16) expect(20 * Math.log10(most)).toBeCloseTo(stems.db, 0);
      else expect(most).toBeLessThan(1e-6);
    },
    60_000
  );

  it('are as loud, and peak, as ffmpeg measures them; and say so in their broadcast extension', async () => {
    const { files, folder: where } = await job(desk(), { files: ALL, tail: 'decay' });
    for (const { name, lufs, truePeakDb, peakDb } of files) {
      const file = path.join(where, name);
      const { stderr } = run('ffmpeg', '-nostats', '-i', file, '-af', 'ebur128=peak=true+sample', '-f', 'null', '-');
      const summary = stderr.slice(stderr.lastIndexOf('Summary:'));
      const figure = (pattern: RegExp) => Number(pattern.exec(summary)![1]);
      expect(lufs!).toBeGreaterThan(figure(/I:\s+(\S+) LUFS/) - 0.1);
      expect(lufs!).toBeLessThan(figure(/I:\s+(\S+) LUFS/) + 0.1);
      expect(Math.abs(truePeakDb - figure(/True peak:\s+Peak:\s+(\S+) dBFS/))).toBeLessThan(0.2);
      expect(Math.abs(peakDb - figure(/Sample peak:\s+Peak:\s+(\S+) dBFS/))).toBeLessThan(0.06);
      const bytes = readFileSync(file).subarray(0, 2000);
      const at = bytes.indexOf('bext') + 8;
      expect([bytes.readUInt16LE(at + 346), bytes.readInt16LE(at + 412), bytes.readInt16LE(at + 416)]).toEqual([
        2,
        Math.round(lufs! * 100),
        Math.round(truePeakDb * 100)
      ]);
    }
  }, 60_000);

  it('are the same whether one core renders them or two, and versions that set channels apart in threads of their own', async () => {
    const SOME = [{ kind: 'stem', id: 's-voice' }, { kind: 'mix' }, { kind: 'version' }];
    // Long enough to be worth a second thread: the same recordings again and again.
    const session = desk();
    for (const clip of [...session.clip.values()])
      for (let n = 1; n < 6; n++) session.clip.set(`${clip.id}-${n}`, { ...clip, id: `${clip.id}-${n}`, start: n * FRAMES });
    const [two, one] = [await job(session, { files: SOME }), await job(session, { files: SOME }, false)];
    expect(two.files).toEqual(one.files);
    carryOut(session, { do: 'versions.add', id: 'apart', name: 'Voice up', channels: [{ id: 'voice', by: 3 }] });
    const more = await job(session, { files: SOME });
    expect(more.files.filter(({ title }) => title !== 'Voice up')).toEqual(one.files);
    expect(more.files.find(({ title }) => title === 'Voice up')!.sha256).not.toBe(more.files[1].sha256);
    expect(new Set(more.files.map(({ frames }) => frames)).size).toBe(1);
  }, 60_000);

  it('may be ranges, resampled, named otherwise; what clips stops with words; nothing is left of what failed', async () => {
    const range = { from: 10_000, to: 58_000 };
    const whole = await job(desk(), { files: [{ kind: 'mix' }], format: 'wav32f', tail: 'none' });
    const part = await job(desk(), {
      files: [{ kind: 'mix' }],
      format: 'wav32f',
      tail: 'none',
      ranges: [range, { from: 0, to: 100, name: 'Top' }]
    });
    expect(part.files.map(({ name, frames }) => [name, frames])).toEqual([
      ['Test - mix part 1.wav', 48_000],
      ['Test - mix Top.wav', 100]
    ]);
    const samples = ({ folder: where, files }: Printed & { folder: string }, i = 0) =>
      execFileSync('sox', [path.join(where, files[i].name), '-t', 'f32', '-'], { maxBuffer: 2 ** 26 });
    // A range is rendered from the session's start: it is a piece of the whole.
    expect(samples(part).equals(samples(whole).subarray(10_000 * 8, 58_000 * 8))).toBe(true);
    const other = await job(desk(), {
      files: [{ kind: 'stem' }, { kind: 'input' }],
      rate: 44_100,
      names: '{kind} {rate}',
      format: 'flac24'
    });
    expect(other.files.map(({ name }) => name)).toEqual([
      'stem 44_1k (stem).flac',
      'stem 44_1k (stem) 2.flac',
      'stem 44_1k (stem) 3.flac',
      'input 44_1k.flac'
    ]);
    expect([other.nulls, other.rate, other.files[0].frames]).toEqual([[], 44_100, Math.round(((FRAMES + RATE) * 441) / 480)]);
    expect(other.notes.join(' ')).toMatch(/Resampled from 48000 to 44100 Hz/);
    const loud = carryOut(
      desk(),
      { do: 'faders.set', levels: [{ id: 's-pans', level: 12 }] },
      { do: 'trims.set', levels: [{ id: 'pans', level: 12 }] }
    );
    const before = jobs;
    await expect(job(loud, { files: [{ kind: 'stem' }] })).rejects.toThrow(
      /^PANS goes over full scale at \d\.\d s. Lower it, or print as 32-bit float.$/
    );
    expect(readdirSync(path.join(folder, `job${before}`))).toEqual([]);
    expect((await job(loud, { files: [{ kind: 'stem' }], format: 'wav32f' })).files[1].peakDb).toBeGreaterThan(0);
  }, 60_000);

  it('that do not add up say which way is at fault', async () => {
    const session = carryOut(desk(), { do: 'channels.route', ids: ['room'], to: 'mix' });
    const { nulls } = await job(session, { files: ALL });
    expect(nulls[0]).toMatchObject({ holds: false, why: [expect.stringContaining('Room goes into MIX past the stems') as string] });
    expect(nulls[0].why[0]).toContain('(Track voice → Room → MIX)');
    expect(nulls[1].holds).toBe(false);
  }, 60_000);
});

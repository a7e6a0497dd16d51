// The proof of a print, on its files read back: the stems add up to the mix-bus input, and their sum through the chain is the mix, and
// so for every version. What is left over is kept as a file, 60 dB louder, and as a picture.
import { closeSync, openSync, rmSync, writeSync } from 'node:fs';
import path from 'node:path';
import type { Namer } from '$core/fileName';
import { encode } from '$core/formats/pcm';
import { wavHeader } from '$core/formats/wav';
import { startKernel, type KernelModule } from '$core/kernel/kernel';
import { chainBar, dithered, nullBar, stepOf } from '$core/prints/bars';
import { chainAlone, keyName, SUM, waitOf } from '$core/prints/chainAlone';
import { ownPass, type PlannedFile, type PrintOrder, type Range } from '$core/prints/order';
import { AS_MIXED, levelAt, type Pass } from '$core/prints/passes';
import { renderPass } from '$core/prints/render';
import { chainOf } from '$core/routing/chain';
import { processors } from '$core/processors/index';
import type { Session, Version } from '$core/session/entities';
import { endOf } from '$core/session/select';
import { judgeStems, stemsOf } from '$core/stems/soundness';
import { dbOf, type Db } from '$core/units';
import { headerOf } from '../intake';
import { openReader, type Reader } from './read';
import { filePcm, type Recordings } from './recordings';

/** dBFS of what is left where nothing is: the bits are the same. */
export const NOTHING: Db = -300;
const LOUDER = 1000;
const BLOCK = 16384;
const BINS = 240;
/** Under this level of the sum the chain's gain is not looked at. */
const QUIET = 0.001;

export type Null = {
  /** Place of its range among those printed; 0 where there is one or none. */
  readonly range: number;
  readonly of: 'stems' | 'chain';
  /** Of the chain: the mix, or the version. */
  readonly name: string;
  /** Peak of what is left, dBFS; −300 is nothing at all. */
  readonly db: Db;
  readonly bar: Db;
  readonly holds: boolean;
  /** Where it comes from, where it does not hold. */
  readonly why: readonly string[];
  /** Frame at which most is left. */
  readonly at: number;
  /** Peaks of what is left in as many equal parts, dBFS. */
  readonly shape: readonly Db[];
  /** Name of the file that holds it 60 dB louder, in the job's folder; null where nothing is left. */
  readonly residual: string | null;
};

export type Proved = {
  readonly session: Session;
  readonly order: PrintOrder;
  readonly module: KernelModule;
  readonly pass: Pass;
  readonly range: Range | null;
  readonly files: readonly (PlannedFile & { readonly path: string })[];
  readonly frames: number;
  readonly rate: number;
  /** Where what is left is kept; null: nowhere. */
  readonly folder: string | null;
  /** Its range's place among the job's. */
  readonly place: number;
  /** What tells its files from those of the job's other ranges. */
  readonly part: string;
  /** Names that no other file of the job has. */
  readonly nameOf: Namer;
};

/** Proves what of a job's range can be proved: with stems and input the sum, with stems and mix the chain, with both every version. */
export async function prove(job: Proved): Promise<Null[]> {
  const { session, files, range } = job;
  const stems = stemsOf(session).flatMap(({ id }) => files.filter((file) => file.kind === 'stem' && file.id === id));
  if (stems.length === 0 || stems.length < stemsOf(session).length) return [];
  const input = files.find(({ kind }) => kind === 'input');
  // What the chain held when a later range began is in no file.
  const chained = range === null || range.from === 0 ? files.filter((file) => file.kind === 'mix' || provable(session, file)) : [];
  if (!input && chained.length === 0) return [];
  const kernel = startKernel(job.module);
  const float = stepOf(job.order.format) === null;
  const gains = chained.map(({ kind, id }) =>
    stems.map((stem) => {
      const level = kind === 'version' ? levelAt(session.version.get(id)!.stems[stem.id]) : 0;
      return Math.fround(kernel.gainOf(level));
    })
  );
  const sums = chained.map((_, i) => temporary(job, `sum${i}`));
  const readers = await Promise.all([...stems, ...(input ? [input] : [])].map(({ path: file }) => openReader(file)));
  const rest = residual(job, 'stems', '');
  let peak = 0;
  try {
    for (let at = 0; at < job.frames; at += BLOCK) {
      const blocks = await together(readers, Math.min(BLOCK, job.frames - at));
      const parts = blocks.slice(0, stems.length);
      const sum = added(parts, null, float);
      for (const side of sum) for (const x of side) peak = Math.max(peak, Math.abs(x));
      if (input) rest.push([0, 1].map((side) => sum[side].map((x, i) => x - blocks[stems.length][side][i])) as Pair);
      for (const [i, own] of gains.entries()) sums[i].push(added(parts, own, float));
    }
  } finally {
    for (const reader of readers) reader.close();
    for (const sum of sums) sum.close();
  }
  const dither = dithered(job.order.format, job.order.dither);
  const nulls: Null[] = [];
  const flawed = judgeStems(session).flaws.filter(({ code }) => code !== 'split');
  const said = (codes: readonly string[]) => flawed.filter(({ code }) => codes.includes(code)).map(({ text, way }) => `${text} (${way})`);
  if (input) {
    const bar = nullBar(job.order.format, stems.length, dither, peak);
    nulls.push(rest.finish(bar, () => said(['stray', 'escape', 'double'])));
  } else rest.finish(Infinity, () => []);
  const keys = await keyRecordings(job);
  try {
    for (const [i, file] of chained.entries())
      nulls.push(
        await proveChain(job, file, {
          recordings: { ...keys.recordings, [SUM]: await recordingOf(sums[i].file) },
          peak,
          stems: stems.length,
          dither,
          why: () => [...said(['stray', 'escape', 'side-entry', 'double']), ...unsteady(session)]
        })
      );
  } finally {
    for (const { file } of [...sums, ...keys.made]) rmSync(file, { force: true });
  }
  return nulls;
}

const provable = (session: Session, { kind, id }: PlannedFile) => kind === 'version' && !ownPass(session.version.get(id)!);
type Pair = [Float64Array, Float64Array];

async function together(readers: readonly Reader[], frames: number): Promise<Pair[]> {
  return Promise.all(
    readers.map(async (reader): Promise<Pair> => {
      const sides = await reader.take(frames);
      return [Float64Array.from(sides[0]), Float64Array.from(sides.at(-1)!)];
    })
  );
}

/** Stems one after the other, in float32 as the engine adds where nothing was rounded, else in double precision. */
function added(parts: readonly Pair[], gains: readonly number[] | null, float: boolean): Pair {
  const round = float ? Math.fround : (x: number) => x;
  return [0, 1].map((side) => {
    const sum = new Float64Array(parts[0][side].length);
    parts.forEach((part, stem) => {
      const gain = gains?.[stem] ?? 1;
      if (gain === 0) return;
      const samples = part[side];
      for (let i = 0; i < sum.length; i++) sum[i] = round(sum[i] + round(samples[i] * gain));
    });
    return sum;
  }) as Pair;
}

/** A float file for the time of the proof. */
function temporary({ files, rate, frames }: Proved, name: string) {
  const file = path.join(path.dirname(files[0].path), `.${path.basename(files[0].path)}.${name}`);
  const handle = openSync(file, 'w');
  writeSync(handle, wavHeader({ rate, channels: 2, encoding: 'f32', frames }));
  return {
    file,
    push: (sides: Pair) =>
      void writeSync(
        handle,
        encode(
          sides.map((side) => Float32Array.from(side)),
          'f32'
        ).bytes
      ),
    close: () => closeSync(handle)
  };
}

async function recordingOf(file: string): Promise<Recordings[string]> {
  const header = await headerOf(file);
  if (!header?.ok) throw new Error(header ? header.error.message : `${file} is gone.`);
  return { file, info: header.value };
}

/** What keys the chain from outside, from its own files. */
async function keyRecordings(job: Proved): Promise<{ recordings: Record<string, Recordings[string]>; made: { file: string }[] }> {
  const recordings: Record<string, Recordings[string]> = {};
  const made: { file: string }[] = [];
  const chain = chainOf(job.session);
  for (const { channelId, keyId, keyTap } of job.session.insert.values()) {
    const file = keyId !== null && chain.has(channelId) ? job.files.find(({ id, tap }) => id === keyId && tap === keyTap) : undefined;
    if (!file || recordings[keyName(file.id, file.tap)]) continue;
    const copy = temporary(job, `key${made.length}`);
    made.push(copy);
    const reader = await openReader(file.path);
    for (let at = 0; at < job.frames; at += BLOCK) copy.push((await together([reader], Math.min(BLOCK, job.frames - at)))[0]);
    reader.close();
    copy.close();
    recordings[keyName(file.id, file.tap)] = await recordingOf(copy.file);
  }
  return { recordings, made };
}

type Fed = {
  readonly recordings: Recordings;
  readonly peak: number;
  readonly stems: number;
  readonly dither: boolean;
  readonly why: () => string[];
};

async function proveChain(job: Proved, file: Proved['files'][number], { recordings, peak, stems, dither, why }: Fed): Promise<Null> {
  const { session, module, pass, frames, order, files } = job;
  const version: Version | null = file.kind === 'version' ? session.version.get(file.id)! : null;
  const outlet = pass.outlets.find((each) => files[each.file] === file)!;
  const bare = chainAlone(session, version ?? AS_MIXED, frames);
  const wait = waitOf(module, pass, bare, outlet.id);
  const alone = chainAlone(session, version ?? AS_MIXED, frames + wait);
  const fed = filePcm(recordings);
  const reader = await openReader(file.path);
  const rest = residual(job, 'chain', version?.name ?? 'mix');
  let gain = 1;
  try {
    const span = { start: 0, from: wait, to: wait + frames, fadesAt: { late: wait, end: endOf(session) } };
    const source = { left: new Float32Array(BLOCK), right: new Float32Array(BLOCK) };
    const late = (media: string, channel: number, from: number, into: Float32Array) => {
      const skip = Math.min(into.length, Math.max(0, wait - from));
      if (skip < into.length && recordings[media]) fed.read(media, channel, from - wait + skip, into.subarray(skip));
    };
    let at = 0;
    for (const { sides, frames: count } of renderPass(module, alone, late, span, 'none', BLOCK)) {
      const [printed] = await together([reader], count);
      source.left.fill(0);
      fed.read(SUM, 0, at, source.left.subarray(0, count));
      source.right.fill(0);
      fed.read(SUM, 1, at, source.right.subarray(0, count));
      const loud = Math.max(highest(source.left), highest(source.right));
      if (loud > QUIET) gain = Math.max(gain, Math.max(highest(printed[0]), highest(printed[1])) / loud);
      rest.push([0, 1].map((side) => printed[side].map((x, i) => sides[0][side][i] - x)) as Pair);
      at += count;
    }
  } finally {
    reader.close();
    fed.close();
  }
  return rest.finish(chainBar(order.format, stems, dither, peak, gain), why);
}

const highest = (samples: Float32Array | Float64Array): number => {
  let high = 0;
  for (const x of samples) high = Math.max(high, Math.abs(x));
  return high;
};

/** Inserts of the chain that are not the same each time they are run. */
const unsteady = (session: Session): string[] => {
  const chain = chainOf(session);
  return [...session.insert.values()]
    .filter(({ channelId, type, bypass }) => chain.has(channelId) && !bypass && processors[type].bends)
    .map(
      ({ channelId, type }) =>
        `The ${processors[type].title} on ${session.channel.get(channelId)?.name ?? 'the chain'} answers to more than the sum of the stems.`
    );
};

/** Collects what is left over: its peak, where, its shape, and the file of it. */
function residual({ folder, frames, rate, place, part, nameOf }: Proved, of: Null['of'], name: string) {
  const file = folder === null ? null : nameOf(`left over – ${of}${name ? ` ${name}` : ''}${part}`, 'wav');
  const handle = file === null ? null : openSync(path.join(folder!, file), 'w');
  if (handle !== null) writeSync(handle, wavHeader({ rate, channels: 2, encoding: 'f32', frames }));
  const shape = new Float64Array(BINS);
  let [peak, at, done] = [0, 0, 0];
  return {
    push: (sides: Pair) => {
      for (let i = 0; i < sides[0].length; i++) {
        const x = Math.max(Math.abs(sides[0][i]), Math.abs(sides[1][i]));
        const bin = Math.min(BINS - 1, Math.floor(((done + i) / frames) * BINS));
        if (x > shape[bin]) shape[bin] = x;
        if (x > peak) [peak, at] = [x, done + i];
      }
      done += sides[0].length;
      if (handle !== null)
        writeSync(
          handle,
          encode(
            sides.map((side) => Float32Array.from(side, (x) => x * LOUDER)),
            'f32'
          ).bytes
        );
    },
    finish: (bar: number, why: () => string[]): Null => {
      if (handle !== null) closeSync(handle);
      if (handle !== null && peak === 0) rmSync(path.join(folder!, file!));
      const level = (x: number): Db => (x === 0 ? NOTHING : dbOf(x));
      const holds = peak <= bar;
      return {
        range: place,
        of,
        name,
        db: level(peak),
        bar: level(bar),
        holds,
        why: holds ? [] : why(),
        at,
        shape: [...shape].map(level),
        residual: peak === 0 ? null : file
      };
    }
  };
}

/** What a proof says in a sentence: "The stems are the mix-bus input to −132.4 dBFS (bar −124.5)." */
export function nullSentence({ of, name, db, bar, holds, why }: Null): string {
  const what = of === 'stems' ? 'stems − mix-bus input' : `stems through the chain − ${name}`;
  const left = db <= NOTHING ? 'nothing is left' : `${db.toFixed(1)} dBFS are left`;
  return holds ? `${what}: ${left}` : `${what}: ${left}, over the bar of ${bar.toFixed(1)}. ${why.join(' ')}`.trim();
}

// A unit of a print job: one pass over one range, rendered to its files. Units do not know of each other, and run side by side.
import { readFileSync } from 'node:fs';
import { kernelModule } from '$core/kernel/kernel';
import { dithered } from '$core/prints/bars';
import { rateOf, type Format, type PlannedFile, type PrintOrder, type Range } from '$core/prints/order';
import { passesOf } from '$core/prints/passes';
import { renderPass, spanOf } from '$core/prints/render';
import type { Bext } from '$core/formats/wav';
import type { Written } from '$core/formats/pcm';
import { ok, refuse, type Result } from '$core/result';
import { settingsOf, type Session } from '$core/session/entities';
import { createResampler } from '../resample';
import { filePcm, type Recordings } from './recordings';
import { openWriter } from './writer';
import { beginAhead, type Ahead } from './ahead';

/** A file and where it is written while it is not whole. */
export type Target = PlannedFile & { readonly path: string; readonly name: string; readonly title: string };
export type UnitOrder = {
  readonly session: Session;
  /** The built kernel's file. */
  readonly kernel: string;
  /** By media id. */
  readonly recordings: Recordings;
  readonly order: PrintOrder;
  /** All files of the job's range, in the order of the job. */
  readonly files: readonly Target[];
  readonly range: Range | null;
  /** Which of the passes. */
  readonly pass: number;
  /** The built thread that renders ahead on another core; null where this thread renders alone. */
  readonly ahead: string | null;
  /** When the job was ordered, ISO 8601; it stands in the files. */
  readonly date: string;
};
export type UnitFile = { readonly file: number; readonly channels: 1 | 2; readonly frames: number };

const BLOCK = 4096;
const ENCODINGS: Readonly<Record<Format, Written>> = {
  ...{ wav16: 's16', wav24: 's24', wav32: 's32', wav32f: 'f32' },
  ...{ flac16: 's16', flac24: 's24' }
};
export const encodingOf = (format: Format): Written => ENCODINGS[format];
const DEPTHS: Readonly<Record<Written, string>> = { s16: 'W=16', s24: 'W=24', s32: 'W=32', f32: 'W=32' };

/** EBU Tech 3285 and R 98: who wrote it, when, and how it was coded; where it begins on the timeline's own count is its time reference. */
export function bextOf(
  { session, order, date, range }: Pick<UnitOrder, 'session' | 'order' | 'date' | 'range'>,
  title: string,
  channels: 1 | 2
): Bext {
  const { name, zero, rate: own } = settingsOf(session);
  const rate = rateOf(session, order);
  const encoding = encodingOf(order.format);
  const notes = [
    'T=Isotaxis',
    ...(dithered(order.format, order.dither) ? ['TPDF dither'] : []),
    ...(rate === own ? [] : [`from ${own} Hz`])
  ];
  return {
    description: `${name} – ${title}`.replace(/[^\x20-\x7e]/g, '-'),
    originator: 'Isotaxis',
    date: date.slice(0, 10),
    time: date.slice(11, 19),
    timeReference: Math.round(((zero + (range?.from ?? 0)) * rate) / own),
    codingHistory: `A=PCM,F=${rate},${DEPTHS[encoding]},M=${channels === 1 ? 'mono' : 'stereo'},${notes.join(';')}`
  };
}

const clipped = (title: string, seconds: number) =>
  refuse(
    'clipped',
    `${title === 'mix' ? 'The mix' : title} goes over full scale at ${seconds.toFixed(1)} s. Lower it, or print as 32-bit float.`,
    { at: seconds, name: title }
  );

/** Renders a unit; the files are left as they are, without what is measured later. Refused where an integer file would clip. */
export async function renderUnit(unit: UnitOrder, progress: (share: number) => void): Promise<Result<UnitFile[]>> {
  const { session, order, files, range } = unit;
  const pass = passesOf(session, files)[unit.pass];
  const { rate: own } = settingsOf(session);
  const rate = rateOf(session, order);
  const pcm = filePcm(unit.recordings);
  const outlets = pass.outlets.map(({ file }) => files[file]);
  const writers = outlets.map(({ path, title }) =>
    openWriter({
      file: path,
      rate,
      encoding: encodingOf(order.format),
      dither: dithered(order.format, order.dither),
      bext: (channels) => bextOf(unit, title, channels)
    })
  );
  const resamplers = rate === own ? null : await Promise.all(outlets.map(() => createResampler(2, own, rate)));
  let shown = 0;
  let ahead: Ahead | null = null;
  try {
    const module = kernelModule(readFileSync(unit.kernel));
    const put = (i: number, sides: readonly Float32Array[]): Result<never> | null => {
      const over = sides[0].length > 0 ? writers[i].push(sides[0], sides[1]) : null;
      return over === null ? null : clipped(outlets[i].title, over / rate);
    };
    ahead = unit.ahead === null ? null : beginAhead(unit, module, pass, pcm.read);
    for (const { sides, done, end } of renderPass(module, pass, pcm.read, spanOf(pass, order, range), order.tail, BLOCK, ahead?.share)) {
      for (const [i, pair] of sides.entries()) {
        const failed = put(i, resamplers ? resamplers[i].push(pair) : pair);
        if (failed) return failed;
      }
      if (done / end - shown > 0.01) progress((shown = done / end));
    }
    if (resamplers)
      for (const [i, resampler] of resamplers.entries()) {
        const failed = put(i, resampler.finish());
        if (failed) return failed;
      }
    return ok(writers.map((writer, i) => ({ file: pass.outlets[i].file, ...writer.finish() })));
  } finally {
    ahead?.end();
    for (const writer of writers) writer.close();
    pcm.close();
  }
}

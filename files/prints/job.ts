// A print job from order to proof: its passes rendered side by side, its files made equally long, encoded, measured, described and put in
// place when all of them are whole; then what they prove.
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, renameSync, rmSync, statSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { createNamer } from '$core/fileName';
import { kernelModule } from '$core/kernel/kernel';
import { aboutOf, made, type About } from '$core/prints/delivery';
import { onwardOf, type Feed } from '$core/prints/onward';
import { keyFiles } from '$core/prints/chainAlone';
import { EXTENSIONS, fileNames } from '$core/prints/names';
import { orderNotes } from '$core/prints/notes';
import { plannedFiles, rateOf, type PlannedFile, type PrintKind, type PrintOrder, type Range } from '$core/prints/order';
import { passesOf } from '$core/prints/passes';
import { ok, refuse, type Result } from '$core/result';
import { settingsOf, type Session } from '$core/session/entities';
import { encodeSession, type SessionDocument } from '$core/session/tables';
import type { Frames } from '$core/units';
import { hashOf, headerOf } from '../intake';
import { flacOf } from './flac';
import { prove, type Null } from './proof';
import type { Recordings } from './recordings';
import { measured, type FileReport } from './report';
import { bextOf, encodingOf, renderUnit, type Target, type UnitFile, type UnitOrder } from './unit';
import { describeFile, lengthen } from './writer';

export type JobOrder = {
  readonly session: Session;
  readonly order: PrintOrder;
  readonly kernel: string;
  readonly recordings: Recordings;
  /** Where the files go, and where they are made: beside each other on one disk. */
  readonly folder: string;
  readonly date: string;
  /** The built threads that render a unit, and a share of one ahead. */
  readonly thread: string;
  /** Null: a unit has one core only. */
  readonly ahead: string | null;
  /** Whether what is left over in proofs is kept as files. */
  readonly keepResiduals: boolean;
};
export type PrintedFile = Omit<FileReport, 'momentary' | 'shortTerm'> & {
  readonly kind: PrintKind;
  /** Of the channel or version. */
  readonly id: string;
  readonly title: string;
  /** What it is of, in words. */
  readonly made: string;
  /** Of the file. */
  readonly name: string;
  readonly channels: number;
  readonly frames: number;
  readonly bytes: number;
  readonly sha256: string;
};
export type Printed = {
  readonly about: About;
  /** What the stems go into where they are opened as a session. */
  readonly onward: { readonly document: SessionDocument; readonly feeds: readonly Feed[]; readonly end: Frames };
  readonly files: readonly PrintedFile[];
  readonly rate: number;
  readonly nulls: readonly Null[];
  readonly notes: readonly string[];
};

/** Shares of the work that rendering and what follows are, for progress. */
const RENDERING = 0.75;

/** The files of an order, the keys that its stems need among them. */
export function filesOf(session: Session, order: PrintOrder): Result<PlannedFile[]> {
  const files = plannedFiles(session, order);
  if (!files.ok || !files.value.some(({ kind }) => kind === 'stem')) return files;
  const known = new Set(files.value.map(({ id, tap }) => `${id} ${tap}`));
  return ok([...files.value, ...keyFiles(session).filter(({ id, tap }) => !known.has(`${id} ${tap}`))]);
}

/** Carries a job out. Nothing is left behind where it fails or is refused. */
export async function printJob(job: JobOrder, progress: (share: number) => void): Promise<Result<Printed>> {
  const { session, order, folder, date } = job;
  const files = filesOf(session, order);
  if (!files.ok) return files;
  const { names, notes } = fileNames(session, order, files.value, date.slice(0, 10));
  const ranges: readonly (Range | null)[] = order.ranges.length ? order.ranges : [null];
  mkdirSync(folder, { recursive: true });
  const inTheWay = names.find((name) => statSync(path.join(folder, name), { throwIfNoEntry: false })?.isDirectory());
  if (inTheWay !== undefined)
    return refuse('exists', `${inTheWay} is a folder in ${folder}: nothing was printed. Move it away, or print elsewhere.`);
  const nameOf = createNamer(names);
  const work = path.join(folder, `.making-${createHash('sha256').update(`${date} ${names[0]}`).digest('hex').slice(0, 12)}`);
  mkdirSync(work, { recursive: true });
  try {
    const passes = passesOf(session, files.value);
    const targets = ranges.map((_, part) =>
      files.value.map((file, i): Target => {
        const name = names[part * files.value.length + i];
        return { ...file, title: file.name, name, path: path.join(work, `${part}-${i}.wav`) };
      })
    );
    const units = ranges.flatMap((range, part) =>
      passes.map((_, pass): UnitOrder => ({
        session,
        kernel: job.kernel,
        recordings: job.recordings,
        order,
        files: targets[part],
        range,
        pass,
        date,
        // Several units run side by side; one alone uses the other cores itself.
        ahead: passes.length * ranges.length === 1 && availableParallelism() > 1 ? job.ahead : null
      }))
    );
    const rendered = await rendering(job, units, (share) => progress(share * RENDERING));
    if (!rendered.ok) return rendered;
    const printed: PrintedFile[] = [];
    const nulls: Null[] = [];
    const rate = rateOf(session, order);
    const resampled = rate !== settingsOf(session).rate;
    const count = files.value.length * ranges.length;
    for (const [part, range] of ranges.entries()) {
      const own = rendered.value.filter((_, i) => Math.floor(i / passes.length) === part).flat();
      const frames = Math.max(...own.map((file) => file.frames));
      const finished: (PlannedFile & { readonly path: string })[] = [];
      for (const [i, target] of targets[part].entries()) {
        const written = own.find(({ file }) => file === i)!;
        const file = await finish(job, range, target, written, frames);
        finished.push({ ...files.value[i], path: file.path });
        printed.push(file.printed);
        progress(RENDERING + (1 - RENDERING) * 0.6 * (printed.length / count));
      }
      if (!resampled) {
        const module = kernelModule(readFileSync(job.kernel));
        const kept = job.keepResiduals ? work : null;
        nulls.push(
          ...(await prove({
            session,
            order,
            module,
            pass: passes[0],
            range,
            files: finished,
            frames,
            rate,
            folder: kept,
            place: part,
            part: ranges.length > 1 ? ` ${part + 1}` : '',
            nameOf
          }))
        );
      }
    }
    const printedTo = targets.flat().map((target): [from: string, name: string] => [finalPath(job, target), target.name]);
    const left = nulls.flatMap(({ residual }): [from: string, name: string][] => (residual ? [[path.join(work, residual), residual]] : []));
    putInPlace([...printedTo, ...left], folder);
    progress(1);
    const named = resampled ? [`Resampled from ${settingsOf(session).rate} to ${rate} Hz: no proof is made.`] : [];
    const { session: further, feeds, end } = onwardOf(session);
    const onward = { document: encodeSession(further), feeds, end };
    return ok({
      about: aboutOf(session),
      onward,
      files: printed,
      rate,
      nulls,
      notes: [...notes, ...orderNotes(session, files.value), ...named]
    });
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** Moves files to where they are to be, all of them or none. */
function putInPlace(files: readonly (readonly [from: string, name: string])[], folder: string): void {
  const there: string[] = [];
  try {
    for (const [from, name] of files) {
      renameSync(from, path.join(folder, name));
      there.push(name);
    }
  } catch (error) {
    for (const name of there) rmSync(path.join(folder, name), { force: true });
    throw error;
  }
}

const finalPath = ({ order }: JobOrder, { path: wav }: Target) => (EXTENSIONS[order.format] === 'flac' ? wav.replace(/wav$/, 'flac') : wav);

/** A rendered file made whole: as long as the others, measured, described, encoded. */
async function finish(job: JobOrder, range: Range | null, target: Target, written: UnitFile, frames: number) {
  const { session, order, date } = job;
  const rate = rateOf(session, order);
  const encoding = encodingOf(order.format);
  const { channels } = written;
  if (written.frames < frames)
    lengthen(target.path, { rate, channels, encoding, frames, bext: bextOf({ session, order, date, range }, target.title, channels) });
  const file = finalPath(job, target);
  if (file !== target.path) {
    const header = await headerOf(target.path);
    if (!header?.ok) throw new Error(header ? header.error.message : `${target.path} is gone.`);
    await flacOf(target.path, header.value, file);
    rmSync(target.path);
  }
  const report = await measured(file, rate, frames);
  const { peakDb, truePeakDb, lufs, rangeLu, momentary, shortTerm, shape } = report;
  if (file === target.path) {
    const loudness = { integrated: lufs, range: rangeLu, truePeak: truePeakDb, momentary, shortTerm };
    describeFile(file, {
      rate,
      channels,
      encoding,
      frames,
      bext: { ...bextOf({ session, order, date, range }, target.title, channels), loudness }
    });
  }
  const printed: PrintedFile = {
    kind: target.kind,
    id: target.id,
    title: target.title,
    made: made(session, { ...target, name: target.title }),
    name: target.name,
    channels,
    frames,
    bytes: statSync(file).size,
    ...{ peakDb, truePeakDb, lufs, rangeLu, shape },
    sha256: await hashOf(file)
  };
  return { path: file, printed };
}

/** Units as many at a time as there are cores: one alone in this thread, several in threads of their own. */
async function rendering(job: JobOrder, units: readonly UnitOrder[], progress: (share: number) => void): Promise<Result<UnitFile[][]>> {
  const shares = new Float64Array(units.length);
  const told = (i: number) => (share: number) => {
    shares[i] = share;
    progress(shares.reduce((sum, each) => sum + each, 0) / units.length);
  };
  if (units.length === 1) {
    const only = await renderUnit(units[0], told(0));
    return only.ok ? ok([only.value]) : only;
  }
  const results: UnitFile[][] = [];
  const workers = new Set<Worker>();
  let next = 0;
  let failed: Result<never> | null = null;
  const lane = async (): Promise<void> => {
    while (next < units.length && !failed) {
      const i = next++;
      const result = await inThread(job.thread, units[i], told(i), workers);
      if (result.ok) results[i] = result.value;
      else failed = result;
    }
  };
  try {
    await Promise.all(Array.from({ length: Math.min(units.length, availableParallelism()) }, lane));
  } finally {
    for (const worker of workers) await worker.terminate();
  }
  return failed ?? ok(results);
}

export type UnitMessage =
  { readonly kind: 'progress'; readonly share: number } | { readonly kind: 'done'; readonly result: Result<UnitFile[]> };

function inThread(
  thread: string,
  { session, ...unit }: UnitOrder,
  progress: (share: number) => void,
  workers: Set<Worker>
): Promise<Result<UnitFile[]>> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(thread, { workerData: { ...unit, document: encodeSession(session) } });
    workers.add(worker);
    worker.on('message', (message: UnitMessage) => {
      if (message.kind === 'progress') progress(message.share);
      else {
        workers.delete(worker);
        resolve(message.result);
      }
    });
    worker.on('error', reject);
    worker.on('exit', (code) => {
      if (code !== 0) reject(new Error('The thread that renders stopped.'));
    });
  });
}

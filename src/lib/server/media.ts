// The content-addressed store of recordings: streamed in, checked, hashed, kept under their SHA-256; read back in spans.
import { createHash, randomUUID } from 'node:crypto';
import { closeSync, fsyncSync, openSync, rmSync } from 'node:fs';
import { mkdir, open, readdir, rename, rm, stat, type FileHandle } from 'node:fs/promises';
import path from 'node:path';
import { Piscina } from 'piscina';
import { BYTES, planar } from '$core/formats/pcm';
import type { WavInfo } from '$core/formats/wav';
import { ok, refuse, type Result } from '$core/result';
import type { Analysis } from '$files/analyse';
import type { ConvertOrder, Converted } from '$files/convert';
import { headerOf, intakeOf, prepareFile, type Intake } from '$files/intake';
import { piecesOf } from './bodies';
import { DISK_FULL, isDiskFull, Refused } from './failures';
import { builtFile } from './paths';

/** Largest upload taken: 64 channels of 32 bit at 96 kHz for 45 minutes. */
const MAX_BYTES = 2 ** 36;

/** The most that is read for one answer, bytes: 2,000 stereo recordings of 24 bit for what the page asks at a time, with room. */
const MOST_PCM = 256 * 2 ** 20;

export type Stored = { readonly info: WavInfo; readonly file: string };
export type PcmPart = {
  readonly sha256: string;
  readonly channels: number;
  readonly encoding: WavInfo['encoding'];
  readonly bytes: number;
};

export type MediaStore = {
  /** Takes a file in, or says what is wrong with it; nothing of a refused file stays. */
  readonly add: (
    name: string,
    body: ReadableStream<Uint8Array>,
    sessionRate: number,
    convert: boolean,
    keep?: boolean
  ) => Promise<Result<Intake>>;
  /** Takes over a file that is a recording as the store keeps them, with this hash; what lies there in its place and is another goes. */
  readonly keep: (file: string, sha256: string) => Promise<Result<null>>;
  /** Whether what lies on disk is this recording, read from its first byte to its last. */
  readonly isWhole: (sha256: string) => Promise<boolean>;
  /** A recording that is there and as long as it says; null where it is not. */
  readonly stored: (sha256: string) => Promise<Stored | null>;
  /** Where a recording is, or would be. */
  readonly fileOf: (sha256: string) => string;
  /** SHA-256 of any file, read in a thread; null where it cannot be read. */
  readonly hashOf: (file: string) => Promise<string | null>;
  /** A recording's peaks; made anew where they are gone. */
  readonly peaksOf: (sha256: string) => Promise<Result<string>>;
  /** Planar bytes of several recordings, each once, over the same frames; what lies past an end is left out. Null: that is too much at once. */
  readonly pcm: (shas: readonly string[], from: number, frames: number) => Promise<{ parts: PcmPart[]; chunks: Uint8Array[] } | null>;
  /** Bytes of a recording with its peaks on disk; 0 where it is not there. */
  readonly bytesOf: (sha256: string) => Promise<number>;
  /** Every recording with its bytes. */
  readonly all: () => Promise<KeptRecording[]>;
  /** Marks recordings as going: for everyone they are not there any more, until they are kept after all, removed, or come in anew. */
  readonly leave: (shas: readonly string[]) => Leaving;
  readonly close: () => Promise<void>;
};
export type KeptRecording = { readonly sha256: string; readonly bytes: number };
export type Leaving = {
  /** Takes the mark off those of which this is true. */
  readonly keep: (wanted: (sha256: string) => boolean) => void;
  /** Removes those still marked; which. */
  readonly remove: () => Promise<KeptRecording[]>;
};

export async function openMediaStore(directory: string): Promise<MediaStore> {
  const incoming = path.join(directory, 'incoming');
  const media = path.join(directory, 'media');
  const peaks = path.join(directory, 'peaks');
  for (const each of [incoming, media, peaks]) await mkdir(each, { recursive: true });
  // What a crash left half-way was never acknowledged.
  for (const name of await readdir(incoming)) await rm(path.join(incoming, name), { recursive: true });

  const pool = new Piscina({
    filename: builtFile('threads/analyse.js'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 5000
  });
  /** Analyses a prepared file and moves it to its place. */
  const place = async (file: string, info: WavInfo, sha256: string, made: string): Promise<Result<Analysis>> => {
    const analysis = (await pool.run({ file, info, peaksFile: made })) as Analysis;
    if (analysis.firstBad >= 0)
      return refuse(
        'not-a-number',
        `A sample at ${(analysis.firstBad / info.rate).toFixed(3)} s is not a number (NaN or infinite). Export the file again.`,
        { frame: analysis.firstBad }
      );
    const home = mediaFile(sha256);
    await mkdir(path.dirname(home), { recursive: true });
    syncFile(file);
    leaving.delete(sha256);
    await rename(made, peaksFile(sha256));
    await rename(file, home);
    for (const each of [path.dirname(home), media]) syncDirectory(each);
    return ok(analysis);
  };
  const run = (order: ConvertOrder) =>
    (pool.run(order, { filename: builtFile('threads/convert.js') }) as Promise<Result<Converted>>).catch((error: Error): Result<never> => {
      if (isDiskFull(error)) throw error;
      return refuse('damaged', error.message);
    });
  const known = new Map<string, { readonly entry: Stored; readonly bytes: number }>();
  const sizes = new Map<string, number>();
  const leaving = new Set<string>();
  const mediaFile = (sha256: string) => path.join(media, sha256.slice(0, 2), `${sha256}.wav`);
  const peaksFile = (sha256: string) => path.join(peaks, `${sha256}.peaks`);

  const stored = async (sha256: string): Promise<Stored | null> => {
    if (leaving.has(sha256)) return null;
    const file = mediaFile(sha256);
    // What is remembered of a file holds as long as the file is there and as long.
    const bytes = await sizeOf(file);
    const cached = known.get(sha256);
    if (cached && cached.bytes === bytes) return cached.entry;
    known.delete(sha256);
    sizes.delete(sha256);
    const header = await headerOf(file);
    if (!header?.ok) return null;
    const entry = { info: header.value, file };
    known.set(sha256, { entry, bytes });
    return entry;
  };
  const hash = (file: string) => pool.run(file, { filename: builtFile('threads/hash.js') }) as Promise<string | null>;
  const isWhole = async (sha256: string) => !leaving.has(sha256) && (await hash(mediaFile(sha256))) === sha256;

  const peaksOf: MediaStore['peaksOf'] = async (sha256) => {
    const entry = await stored(sha256);
    if (!entry) return refuse('not-found', 'There is no recording of this content.');
    const there = peaksFile(sha256);
    if ((await sizeOf(there)) > 0) return ok(there);
    const made = path.join(incoming, `${randomUUID()}.peaks`);
    await pool.run({ file: entry.file, info: entry.info, peaksFile: made });
    await rename(made, there);
    return ok(there);
  };

  const add: MediaStore['add'] = async (name, body, sessionRate, convert, keep = false) => {
    const arrived = path.join(incoming, randomUUID());
    const decoded = `${arrived}.wav`;
    const made = `${arrived}.peaks`;
    try {
      const received = await receive(body, arrived);
      if (!received.ok) return received;
      const prepared = await prepareFile({ file: arrived, sha256: received.value, decoded, sessionRate, convert, keep, run });
      if (!prepared.ok) return prepared;
      const { file, sha256, info } = prepared.value;
      const kept = await place(file, info, sha256, made);
      if (!kept.ok) return kept;
      return ok(intakeOf(name, prepared.value, kept.value));
    } catch (error) {
      if (error instanceof Refused) return { ok: false, error: error.refusal };
      if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
      throw error;
    } finally {
      for (const each of [arrived, decoded, made]) await rm(each, { force: true });
    }
  };

  const keep: MediaStore['keep'] = async (file, sha256) => {
    if (await isWhole(sha256)) {
      const peaks = await peaksOf(sha256);
      return peaks.ok ? ok(null) : peaks;
    }
    const header = await headerOf(file);
    if (!header?.ok) return header ?? refuse('gone', 'The recording is not there.');
    const placed = await place(file, header.value, sha256, `${file}.peaks`);
    known.delete(sha256);
    sizes.delete(sha256);
    return placed.ok ? ok(null) : placed;
  };

  const bytesOf = async (sha256: string): Promise<number> => {
    const cached = sizes.get(sha256);
    if (cached !== undefined) return cached;
    const each = await Promise.all([mediaFile(sha256), peaksFile(sha256)].map(sizeOf));
    if (each[0] > 0) sizes.set(sha256, each[0] + each[1]);
    return each[0] + each[1];
  };
  const all = async (): Promise<KeptRecording[]> => {
    const folders = (await readdir(media)).filter((name) => /^[0-9a-f]{2}$/.test(name));
    const names = (await Promise.all(folders.map((folder) => readdir(path.join(media, folder))))).flat();
    const shas = names.flatMap((name) => /^([0-9a-f]{64})\.wav$/.exec(name)?.[1] ?? []).sort();
    return Promise.all(shas.map(async (sha256) => ({ sha256, bytes: await bytesOf(sha256) })));
  };
  const leave = (shas: readonly string[]): Leaving => {
    const own = new Set(shas);
    for (const sha256 of own) leaving.add(sha256);
    const keep: Leaving['keep'] = (wanted) => {
      for (const sha256 of [...own])
        if (wanted(sha256)) {
          own.delete(sha256);
          leaving.delete(sha256);
        }
    };
    return {
      keep,
      remove: async () => {
        const removed: KeptRecording[] = [];
        for (const sha256 of own) {
          const bytes = await bytesOf(sha256);
          // What has come in anew meanwhile is there again.
          if (!leaving.has(sha256)) continue;
          for (const file of [mediaFile(sha256), peaksFile(sha256)]) rmSync(file, { force: true });
          known.delete(sha256);
          sizes.delete(sha256);
          removed.push({ sha256, bytes });
        }
        keep(() => true);
        return removed;
      }
    };
  };

  return {
    add,
    keep,
    stored,
    bytesOf,
    all,
    leave,
    isWhole,
    fileOf: mediaFile,
    hashOf: hash,
    peaksOf,
    pcm: async (shas, from, frames) => {
      const found = await Promise.all([...new Set(shas)].map(async (sha256) => ({ sha256, entry: await stored(sha256) })));
      const bytes = found.reduce((sum, { entry }) => sum + (entry ? spanBytes(entry, from, frames) : 0), 0);
      if (bytes > MOST_PCM) return null;
      const read = await Promise.all(found.map(({ entry }) => (entry ? readSpan(entry, from, frames) : [])));
      const parts = found.flatMap(({ sha256, entry }, i) =>
        entry && read[i].length ? [{ sha256, channels: entry.info.channels, encoding: entry.info.encoding, bytes: read[i][0].length }] : []
      );
      return { parts, chunks: read.flat() };
    },
    close: () => pool.destroy()
  };
}

const sizeOf = async (file: string): Promise<number> => {
  try {
    return (await stat(file)).size;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return 0;
    throw error;
  }
};

const countOf = ({ info }: Stored, from: number, frames: number) => Math.max(0, Math.min(frames, info.frames - from));
const spanBytes = (entry: Stored, from: number, frames: number) =>
  countOf(entry, from, frames) * BYTES[entry.info.encoding] * entry.info.channels;

async function readSpan(entry: Stored, from: number, frames: number): Promise<Uint8Array[]> {
  const { info, file } = entry;
  const count = countOf(entry, from, frames);
  if (count === 0) return [];
  const frameBytes = BYTES[info.encoding] * info.channels;
  const bytes = new Uint8Array(count * frameBytes);
  const handle = await open(file, 'r');
  try {
    await readFully(handle, bytes, info.dataAt + from * frameBytes);
  } finally {
    await handle.close();
  }
  return planar(bytes, info.encoding, info.channels);
}

async function readFully(handle: FileHandle, into: Uint8Array, at: number): Promise<void> {
  for (let done = 0; done < into.length;) {
    const { bytesRead } = await handle.read(into, done, into.length - done, at + done);
    if (bytesRead === 0)
      throw new Refused({
        code: 'damaged',
        message: 'A recording in the store is shorter than it says. Import it again, or restore a backup.'
      });
    done += bytesRead;
  }
}

/**
 * Writes a body to disk as it arrives, and forces it there; its SHA-256. What cannot be kept is still read to its end: a sender
 * who is cut off never hears why.
 */
export async function receive(body: ReadableStream<Uint8Array>, file: string, most = MAX_BYTES): Promise<Result<string>> {
  const hash = createHash('sha256');
  const handle = await open(file, 'wx');
  let size = 0;
  let failure: unknown = null;
  try {
    for await (const chunk of piecesOf(body)) {
      size += chunk.length;
      if (size > most) return refuse('too-large', `The file is larger than ${Math.round(most / 2 ** 30)} GB. Split it first.`);
      if (failure !== null) continue;
      hash.update(chunk);
      try {
        await handle.writeFile(chunk);
      } catch (error) {
        failure = error;
        await handle.truncate(0);
      }
    }
    if (failure !== null) throw failure;
    await handle.datasync();
  } finally {
    await handle.close();
  }
  return ok(hash.digest('hex'));
}

/** Forces a file to disk. */
export function syncFile(file: string): void {
  const handle = openSync(file, 'r');
  fsyncSync(handle);
  closeSync(handle);
}

/** Forces to disk which files a folder holds. */
export function syncDirectory(directory: string): void {
  const handle = openSync(directory, 'r');
  fsyncSync(handle);
  closeSync(handle);
}

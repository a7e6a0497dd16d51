// The session package: a ZIP of session.json and audio/<sha256>.wav. What comes in is written to a folder of its own and
// checked there; names, sizes and hashes must be what they say.
import { createReadStream, createWriteStream, mkdirSync } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Readable } from 'node:stream';
import type yauzl from 'yauzl';
import { readDocument, writeDocument } from '$core/formats/document';
import { ok, refuse, type Refusal, type Result } from '$core/result';
import type { Session } from '$core/session/entities';
import { hashOf, headerOf } from './intake';
import { entriesOf, openZip, streamOf, textOf, zipOf } from './zip';

const MOST_ENTRIES = 20_000;
/** 2,000 channels with 24 sends each take 15 MB. */
const MOST_DOCUMENT = 64 * 2 ** 20;
const MOST_AUDIO = 2 ** 36;
/** More than this, and large: a bomb rather than a recording. */
const MOST_RATIO = 200;
const LARGE = 64 * 2 ** 20;
const AUDIO = /^audio\/([0-9a-f]{64})\.wav$/;

/** The same session gives the same package. */
const EPOCH = new Date(2020, 0, 1);

/** The package as a stream; recordings are stored as they are, since compressing them would gain little. */
export function packageStream(session: Session, fileOf: (sha256: string) => string): Readable {
  // Players' addresses are keys: they stay at home. What is done to the session while this is read is not in it.
  const text = writeDocument({ ...session, cueToken: new Map() });
  const shas = new Set([...session.media.values()].map((row) => row.sha256));
  return zipOf(
    (async function* () {
      yield { name: 'session.json', from: text, compress: true, mtime: EPOCH };
      for (const sha256 of shas) yield { name: `audio/${sha256}.wav`, from: createReadStream(fileOf(sha256)), mtime: EPOCH };
    })()
  );
}

export async function writePackage(session: Session, fileOf: (sha256: string) => string, file: string): Promise<void> {
  await pipeline(packageStream(session, fileOf), createWriteStream(file));
}

export type Opened = {
  readonly session: Session;
  /** Where each recording was written, by SHA-256. */
  readonly files: ReadonlyMap<string, string>;
  /** What was mended in it, in sentences. */
  readonly mended: readonly string[];
};

/** Carries a refusal out of the depths of a stream. */
class RefusedError extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.message);
  }
}
const stop = (code: Refusal['code'], message: string): never => {
  throw new RefusedError({ code, message });
};

/** Reads a package into `folder`. Only session.json and recordings that it names are written; `audio` false leaves those out. */
export async function openPackage(file: string, folder: string, { audio = true } = {}): Promise<Result<Opened>> {
  try {
    const zip = await openZip(file);
    try {
      return await readEntries(zip, folder, audio);
    } finally {
      zip.close();
    }
  } catch (error) {
    if (error instanceof RefusedError) return { ok: false, error: error.refusal };
    // What yauzl and zlib say of a damaged file is theirs; a full disk is not the package's fault.
    if (error instanceof Error && !(error as NodeJS.ErrnoException).syscall)
      return refuse('damaged', `The package cannot be read: ${error.message.replace(/\.$/, '')}. Copy or export it again.`);
    throw error;
  }
}

async function readEntries(zip: yauzl.ZipFile, folder: string, audio: boolean): Promise<Result<Opened>> {
  if (zip.entryCount > MOST_ENTRIES) stop('too-large', `The package has ${zip.entryCount} entries; at most ${MOST_ENTRIES} are read.`);
  const entries = await entriesOf(zip);
  let total = 0;
  for (const { fileName, uncompressedSize, compressedSize } of entries) {
    if (fileName !== 'session.json' && !AUDIO.test(fileName))
      stop('not-a-package', `The package holds “${fileName}”, which does not belong in it. Nothing of it was taken.`);
    total += uncompressedSize;
    if (uncompressedSize > LARGE && uncompressedSize > compressedSize * MOST_RATIO)
      stop(
        'too-large',
        `“${fileName}” would grow to ${Math.round(uncompressedSize / 2 ** 20)} MB from almost nothing. Nothing of the package was taken.`
      );
  }
  if (new Set(entries.map(({ fileName }) => fileName)).size < entries.length) stop('not-a-package', 'The package holds one name twice.');
  if (total > MOST_AUDIO) stop('too-large', 'The package would take more than 64 GB. Nothing of it was taken.');
  const document =
    entries.find(({ fileName }) => fileName === 'session.json') ??
    stop('not-a-package', 'This is not a session package: it holds no session.json.');
  if (document.uncompressedSize > MOST_DOCUMENT) stop('too-large', 'session.json is larger than 64 MB: that is no session.');
  const mended: string[] = [];
  const session = readDocument(await textOf(await streamOf(zip, document)), mended);
  if (!session.ok) return session;
  const files = new Map<string, string>();
  if (!audio) return ok({ session: session.value, files, mended });
  mkdirSync(folder, { recursive: true });
  for (const row of session.value.media.values()) {
    if (files.has(row.sha256)) continue;
    const entry = entries.find(({ fileName }) => fileName === `audio/${row.sha256}.wav`);
    if (!entry) return refuse('missing', `The package lacks the recording of ${row.name}. Export it again.`);
    const target = path.join(folder, `${row.sha256}.wav`);
    await pipeline(await streamOf(zip, entry), createWriteStream(target, { flags: 'wx' }));
    files.set(row.sha256, target);
  }
  for (const row of session.value.media.values()) {
    const target = files.get(row.sha256)!;
    const header = await headerOf(target);
    if (!header?.ok) return refuse('damaged', `${row.name}: ${header ? header.error.message : 'it is not there.'}`);
    const { rate, channels, frames, encoding } = header.value;
    if (rate !== row.rate || channels !== row.channels || frames !== row.frames || encoding !== row.encoding)
      return refuse('inconsistent', `The recording of ${row.name} is not as session.json describes it. Export the package again.`);
  }
  for (const [sha256, target] of files)
    if ((await hashOf(target)) !== sha256)
      return refuse('damaged', 'A recording in the package was changed: its hash is not its name. Copy or export the package again.');
  return ok({ session: session.value, files, mended });
}

// Opens a backup: everything in it is written into a folder and compared with what it says of itself. Tables are as they were, or nothing is
// taken; of recordings and prints those that are not are left out and named.
import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm, statfs } from 'node:fs/promises';
import path from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type yauzl from 'yauzl';
import * as yup from 'yup';
import { bytesOf, MOST_BYTES } from '$core/fileName';
import { parseJson } from '$core/json';
import { ok, refuse, type Result } from '$core/result';
import { entriesOf, openZip, streamOf, textOf } from '$files/zip';
import { Refused } from '../failures';
import { spoilt } from './lines';
import { BACKUP_FORMAT, BACKUP_VERSION, type Manifest } from './write';

const TABLE = /^tables\/[a-z_]{1,60}\.jsonl$/;
const RECORDING = /^media\/([0-9a-f]{64})\.wav$/;
const PRINT = /^prints\/(?!\.+\/)[\w:.-]{1,80}\/[^/\\\p{Cc}]+$/u;
const MOST_MANIFEST = 256 * 2 ** 20;
const MOST_ENTRIES = 1_000_000;

const schema = yup.object({
  format: yup.string().oneOf([BACKUP_FORMAT]).required(),
  version: yup.number().integer().min(1).required(),
  made: yup
    .string()
    .required()
    .test('moment', 'made is no moment', (value) => !Number.isNaN(Date.parse(value))),
  migrations: yup.array().of(yup.string().required()).required(),
  tables: yup.object().required(),
  files: yup.object().required(),
  missing: yup.array().of(yup.string().required()).required(),
  damaged: yup.array().of(yup.string().required()).default([])
});

export type Unpacked = Pick<Manifest, 'made' | 'migrations' | 'tables'> & {
  /** Entries that are written: recordings, files of prints. */
  readonly files: readonly string[];
  readonly missing: readonly string[];
  readonly damaged: readonly string[];
};

const cutShort = (why: string) =>
  refuse(
    'damaged',
    `The backup cannot be read: ${why.replace(/\.$/, '')}. It was cut short or changed; nothing of it was taken. Copy it again.`
  );
const other = (why: string) => refuse('not-a-backup', `This is not a backup of Isotaxis: ${why}. Nothing of it was taken.`);
const isFit = (name: string) =>
  TABLE.test(name) ||
  RECORDING.test(name) ||
  name === 'backup.json' ||
  (PRINT.test(name) && !/^\.\.?$/.test(name.split('/')[2]) && bytesOf(name.split('/')[2]) <= MOST_BYTES);

/** Unpacks `file` into `folder`: `tables/`, `media/` and `prints/`. `known` are the migrations that this Isotaxis has, in their order. */
export async function unpackBackup(file: string, folder: string, known: readonly string[]): Promise<Result<Unpacked>> {
  try {
    const zip = await openZip(file);
    try {
      return await unpacked(zip, folder, known);
    } finally {
      zip.close();
    }
  } catch (error) {
    if (error instanceof Refused) return { ok: false, error: error.refusal };
    if (isOfTheFile(error)) return cutShort((error as Error).message);
    throw error;
  }
}

/** What the readers of ZIP files say of a damaged one is theirs; a full disk is not the backup's fault. */
const isOfTheFile = (error: unknown) => error instanceof Error && !(error as NodeJS.ErrnoException).syscall;

async function unpacked(zip: yauzl.ZipFile, folder: string, known: readonly string[]): Promise<Result<Unpacked>> {
  if (zip.entryCount > MOST_ENTRIES)
    return refuse('too-large', `The backup has ${zip.entryCount} entries; at most ${MOST_ENTRIES} are read.`);
  const entries = await entriesOf(zip);
  const strange = entries.find(({ fileName }) => !isFit(fileName));
  if (strange) return other(`it holds “${strange.fileName.slice(0, 300)}”`);
  const last = entries.find(({ fileName }) => fileName === 'backup.json');
  if (!last) return other('it holds no backup.json');
  const names = new Set<string>();
  for (const { fileName } of entries) {
    if (names.has(fileName.toLowerCase())) throw spoilt(fileName, 'is in it twice');
    names.add(fileName.toLowerCase());
  }
  if (last.uncompressedSize > MOST_MANIFEST) return other('its backup.json is too large');
  const read = manifestIn(await textOf(await streamOf(zip, last)));
  if (!read.ok) return read;
  const manifest = read.value;
  if (manifest.version > BACKUP_VERSION || manifest.migrations.some((name) => !known.includes(name)))
    return refuse('newer', 'This backup was made by a newer Isotaxis. Install that one, or a later one, and restore it there.');
  // What a database has been through is the beginning of what there is, without a hole.
  const through = new Set(manifest.migrations).size;
  if (through === 0 || !known.slice(0, through).every((name) => manifest.migrations.includes(name)))
    throw spoilt('backup.json', 'names migrations that do not follow each other');
  const [needed, room] = [entries.reduce((sum, { uncompressedSize }) => sum + uncompressedSize, 0), await freeBytes(folder)];
  if (needed > room)
    return refuse(
      'disk-full',
      `The backup takes ${gigabytes(needed)} GB unpacked, and ${gigabytes(room)} GB are free. Nothing was changed; make room and try again.`
    );

  const missing = new Set(manifest.missing.map((name) => (/^[0-9a-f]{64}$/.test(name) ? `media/${name}.wav` : name)).filter(isFit));
  const damaged = new Set(manifest.damaged.filter(isFit));
  const files: string[] = [];
  await mkdir(path.join(folder, 'tables'), { recursive: true });
  for (const name of Object.keys(manifest.files)) {
    if (!isFit(name)) return other(`its backup.json names “${name.slice(0, 300)}”`);
    if (names.has(name.toLowerCase())) continue;
    if (TABLE.test(name)) throw spoilt(name, 'is not in it');
    missing.add(name);
  }
  for (const entry of entries) {
    const name = entry.fileName;
    if (entry === last) continue;
    const said = Object.hasOwn(manifest.files, name) ? manifest.files[name] : null;
    if (!said) return other(`it holds “${name}”, of which it says nothing`);
    if (damaged.has(name)) continue;
    const target = path.join(folder, name);
    await mkdir(path.dirname(target), { recursive: true });
    const sha256 = await written(zip, entry, target);
    const right = sha256 === said.sha256 && (RECORDING.exec(name)?.[1] ?? sha256) === sha256;
    if (right && !TABLE.test(name)) files.push(name);
    if (right) continue;
    if (TABLE.test(name)) throw spoilt(name, 'is not what it was');
    damaged.add(name);
    await rm(target, { force: true });
  }
  const { made, migrations, tables } = manifest;
  return ok({ made, migrations, tables, files, missing: [...missing], damaged: [...damaged] });
}

/** Writes an entry; its SHA-256, or null where it cannot be unpacked. */
async function written(zip: yauzl.ZipFile, entry: yauzl.Entry, target: string): Promise<string | null> {
  const hash = createHash('sha256');
  const hashing = new Transform({
    transform: (chunk: Buffer, _encoding, done) => {
      hash.update(chunk);
      done(null, chunk);
    }
  });
  try {
    await pipeline(await streamOf(zip, entry), hashing, createWriteStream(target, { flags: 'wx' }));
    return hash.digest('hex');
  } catch (error) {
    if (isOfTheFile(error)) return null;
    throw error;
  }
}

const gigabytes = (bytes: number) => (bytes / 1e9).toFixed(1);
async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}

function manifestIn(text: string): Result<Manifest> {
  const parsed = parseJson(text);
  if (!parsed.ok) return other(`its backup.json cannot be read: ${parsed.error.message}`);
  try {
    const manifest = schema.validateSync(parsed.value, { strict: false }) as unknown as Manifest;
    const count = (value: unknown) => Number.isSafeInteger(value) && (value as number) >= 0;
    for (const [name, said] of Object.entries(manifest.files))
      if (typeof said !== 'object' || said === null || !count(said.bytes) || typeof said.sha256 !== 'string')
        return other(`its backup.json does not say what “${name.slice(0, 300)}” is`);
    if (Object.values(manifest.tables).some((rows) => !count(rows))) return other('its backup.json counts no rows');
    return ok(manifest);
  } catch (error) {
    if (error instanceof yup.ValidationError) return other(`its backup.json says: ${error.message.slice(0, 300)}`);
    throw error;
  }
}

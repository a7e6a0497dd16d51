// A backup of everything: one ZIP, streamed, with every table, every recording, the files of every print, and last what stands in it: also
// what was not there, and what was no longer what its name says. Damage to one file is no reason to save none of the others.
import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, open, readdir, rm, type FileHandle } from 'node:fs/promises';
import path from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { isFileName } from '$core/fileName';
import { zipOf, type ZipEntry } from '$files/zip';
import type { Database, Query } from '../db/database';
import { tableFile, writeTables } from './tables';

export const BACKUP_FORMAT = 'isotaxis-backup';
export const BACKUP_VERSION = 1;

/** What a backup says of itself, as its last entry, `backup.json`. */
export type Manifest = {
  readonly format: typeof BACKUP_FORMAT;
  readonly version: number;
  /** ISO 8601, UTC. */
  readonly made: string;
  /** What the database had been through: one that knows less cannot take it. */
  readonly migrations: readonly string[];
  /** Rows of each table. */
  readonly tables: Readonly<Record<string, number>>;
  /** Every other entry: bytes and SHA-256. */
  readonly files: Readonly<Record<string, { readonly bytes: number; readonly sha256: string }>>;
  /** Entries that should be in it and are not: recordings that sessions name, files of prints. */
  readonly missing: readonly string[];
  /** Entries that are in it and are not what they were when they were made. */
  readonly damaged: readonly string[];
};

/** What became of a backup, once it has been read to its end. */
export type Backed = Pick<Manifest, 'made' | 'missing' | 'damaged'> & {
  /** What recordings among those are called, by entry. */
  readonly names: Readonly<Record<string, string>>;
};

export type Source = {
  readonly directory: string;
  readonly database: Database;
  /** Where a recording would be. */
  readonly recordingFile: (sha256: string) => string;
  /** Keeps a print's files where they are; returns how to let go. */
  readonly hold: (printId: string) => () => void;
  /** Hears of it when it is whole. */
  readonly done?: (backed: Backed) => void;
};

type Wanted = { readonly name: string; readonly file: string; /** Empty where it is not known. */ readonly sha256: string };

/** The backup as a stream. It begins once the tables are read; what it needs on disk goes when it ends, however that is. */
export async function backupStream({ directory, database, recordingFile, hold, done }: Source): Promise<Readable> {
  const work = path.join(directory, 'incoming', randomUUID());
  await mkdir(work, { recursive: true });
  const releases: (() => void)[] = [];
  const end = async () => {
    for (const release of releases.splice(0)) release();
    await rm(work, { recursive: true, force: true });
  };
  try {
    const made = new Date().toISOString();
    const { tables, migrations, called, prints } = await database.transaction(async (query) => {
      await query('set transaction isolation level repeatable read');
      return {
        tables: await writeTables(query, work),
        migrations: (await query('select name from migration order by name')).map(({ name }) => String(name)),
        called: new Map(
          (await query('select sha256, min(name) as name from media group by sha256 order by sha256')).map(({ sha256, name }) => [
            String(sha256),
            String(name)
          ])
        ),
        prints: await printedFiles(query)
      };
    });
    releases.push(...[...prints.keys()].map(hold));
    const wanted: Wanted[] = [...called.keys()].map((sha256) => ({ name: `media/${sha256}.wav`, file: recordingFile(sha256), sha256 }));
    for (const [id, files] of prints) {
      const folder = path.join(directory, 'prints', id);
      // What is left over of proofs lies beside the files that the database knows.
      for (const name of new Set([...files.keys(), ...(await namesIn(folder))]))
        if (isFileName(name)) wanted.push({ name: `prints/${id}/${name}`, file: path.join(folder, name), sha256: files.get(name) ?? '' });
    }
    const entries = async function* (): AsyncGenerator<ZipEntry, void, void> {
      const files: Record<string, { bytes: number; sha256: string }> = {};
      const missing: string[] = [];
      const damaged: string[] = [];
      try {
        for (const table of Object.keys(tables)) {
          const name = `tables/${tableFile(table)}`;
          const read = counted(createReadStream(path.join(work, tableFile(table))));
          yield { name, from: read.stream, compress: true, mtime: new Date() };
          if (read.failed()) throw new Error(`${name} could not be read.`);
          files[name] = read.sum();
        }
        for (const { name, file, sha256 } of wanted) {
          const handle = await opened(file);
          if (!handle) {
            missing.push(name);
            continue;
          }
          const read = counted(handle.createReadStream());
          yield { name, from: read.stream, mtime: new Date() };
          files[name] = read.sum();
          if (read.failed() || (sha256 !== '' && files[name].sha256 !== sha256)) damaged.push(name);
        }
        const manifest: Manifest = {
          ...{ format: BACKUP_FORMAT, version: BACKUP_VERSION, made },
          ...{ migrations, tables, files, missing, damaged }
        };
        yield { name: 'backup.json', from: JSON.stringify(manifest, null, 1), compress: true, mtime: new Date() };
        const lacking = wanted.filter(({ name }) => missing.includes(name) || damaged.includes(name));
        const names = lacking.flatMap(({ name, sha256 }) => (called.has(sha256) ? [[name, called.get(sha256)!]] : []));
        done?.({ made, missing, damaged, names: Object.fromEntries(names) as Record<string, string> });
      } finally {
        await end();
      }
    };
    return zipOf(entries());
  } catch (error) {
    await end();
    throw error;
  }
}

/** Finished prints by id, with the files that the database knows of each and their SHA-256. */
async function printedFiles(query: Query): Promise<Map<string, Map<string, string>>> {
  const rows = await query(
    `select j.id, f.name, f.sha256 from print_job j left join print_file f on f.job_id = j.id where j.status = 'done'
     order by j.started_at, j.id, f.position`
  );
  const prints = new Map<string, Map<string, string>>();
  for (const { id, name, sha256 } of rows) {
    const files = prints.get(String(id)) ?? new Map<string, string>();
    prints.set(String(id), files);
    if (name !== null) files.set(String(name), String(sha256));
  }
  return prints;
}

/** A file to be read, or null where it is not there, is no file, or will not be read. */
async function opened(file: string): Promise<FileHandle | null> {
  let handle: FileHandle;
  try {
    handle = await open(file);
  } catch (error) {
    if (['ENOENT', 'EACCES', 'EIO', 'ENOTDIR'].includes((error as NodeJS.ErrnoException).code ?? '')) return null;
    throw error;
  }
  if ((await handle.stat()).isFile()) return handle;
  await handle.close();
  return null;
}

/** What is read, with its bytes and hash once it has gone by. Where reading fails in the middle, what came until then is all. */
function counted(source: Readable) {
  const hash = createHash('sha256');
  let bytes = 0;
  let failed = false;
  const stream = new Transform({
    transform: (chunk: Buffer, _encoding, next) => {
      hash.update(chunk);
      bytes += chunk.length;
      next(null, chunk);
    }
  });
  source.on('error', () => {
    failed = true;
    stream.end();
  });
  stream.on('close', () => source.destroy());
  source.pipe(stream);
  return { stream, failed: () => failed, sum: () => ({ bytes, sha256: hash.digest('hex') }) };
}

async function namesIn(folder: string): Promise<string[]> {
  try {
    return (await readdir(folder, { withFileTypes: true })).filter((entry) => entry.isFile()).map(({ name }) => name);
  } catch (error) {
    if (['ENOENT', 'ENOTDIR'].includes((error as NodeJS.ErrnoException).code ?? '')) return [];
    throw error;
  }
}

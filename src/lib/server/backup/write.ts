// A backup of everything: one ZIP, streamed, with every table, every recording, the files of every print, and last what stands in it.
import { createHash, randomUUID, type Hash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, readdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import yazl from 'yazl';
import type { Database } from '../db/database';
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
  /** Recordings that sessions name and that were not in the store. */
  readonly missing: readonly string[];
};

export type Source = {
  readonly directory: string;
  readonly database: Database;
  /** Where a recording is; null where it is gone. */
  readonly recording: (sha256: string) => Promise<string | null>;
  /** Keeps a print's files where they are; returns how to let go. */
  readonly hold: (printId: string) => () => void;
};

/** The backup as a stream. It begins once the tables are read; what it needs on disk goes when it ends, however that is. */
export async function backupStream({ directory, database, recording, hold }: Source): Promise<Readable> {
  const work = path.join(directory, 'incoming', randomUUID());
  await mkdir(work, { recursive: true });
  const releases: (() => void)[] = [];
  const end = () => {
    for (const release of releases.splice(0)) release();
    void rm(work, { recursive: true, force: true });
  };
  try {
    const { tables, migrations, shas, jobs } = await database.transaction(async (query) => {
      await query('set transaction isolation level repeatable read');
      return {
        tables: await writeTables(query, work),
        migrations: (await query('select name from migration order by name')).map(({ name }) => String(name)),
        shas: (await query('select distinct sha256 from media order by sha256')).map(({ sha256 }) => String(sha256)),
        jobs: (await query("select id from print_job where status = 'done' order by started_at, id")).map(({ id }) => String(id))
      };
    });
    releases.push(...jobs.map(hold));
    const entries: [name: string, file: string][] = Object.keys(tables).map((table) => [
      `tables/${tableFile(table)}`,
      path.join(work, tableFile(table))
    ]);
    const missing: string[] = [];
    for (const sha256 of shas) {
      const file = await recording(sha256);
      if (file === null) missing.push(sha256);
      else entries.push([`media/${sha256}.wav`, file]);
    }
    for (const id of jobs) {
      const folder = path.join(directory, 'prints', id);
      for (const name of await namesIn(folder)) entries.push([`prints/${id}/${name}`, path.join(folder, name)]);
    }
    const zip = new yazl.ZipFile();
    const files: Record<string, { bytes: number; sha256: string }> = {};
    const output = zip.outputStream as unknown as Readable;
    zip.on('error', (error) => output.destroy(error as Error));
    for (const [name, file] of entries) {
      const compress = name.startsWith('tables/');
      zip.addReadStreamLazy(name, { compress, mtime: new Date() }, (give) => {
        const hash = createHash('sha256');
        let bytes = 0;
        const counted = counting(hash, (more) => (bytes += more));
        counted.on('end', () => (files[name] = { bytes, sha256: hash.digest('hex') }));
        const read = createReadStream(file).on('error', (error) => output.destroy(error));
        give(null, read.pipe(counted));
      });
    }
    // Its turn comes when all others have gone by.
    zip.addReadStreamLazy('backup.json', { compress: true, mtime: new Date() }, (give) => {
      const manifest: Manifest = {
        ...{ format: BACKUP_FORMAT, version: BACKUP_VERSION, made: new Date().toISOString() },
        ...{ migrations, tables, files, missing }
      };
      give(null, Readable.from([JSON.stringify(manifest, null, 1)]));
    });
    zip.end();
    output.on('close', end);
    output.on('end', end);
    return output;
  } catch (error) {
    end();
    throw error;
  }
}

const counting = (hash: Hash, count: (bytes: number) => void): Transform =>
  new Transform({
    transform: (chunk: Buffer, _encoding, done) => {
      hash.update(chunk);
      count(chunk.length);
      done(null, chunk);
    }
  });

async function namesIn(folder: string): Promise<string[]> {
  try {
    return (await readdir(folder, { withFileTypes: true })).filter((entry) => entry.isFile()).map(({ name }) => name);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return [];
    throw error;
  }
}

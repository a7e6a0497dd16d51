// A backup comes back: sessions, recordings, prints and templates are as they were when it was made. What was here and is not in it, or is in
// it in another state, lies in the bin afterwards: nothing is lost by restoring the wrong one.
import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { ok, refuse, type Result } from '$core/result';
import { openDatabase, type Database, type Query, type Row } from '../db/database';
import { migrate, migrationNames } from '../db/migrate';
import { DISK_FULL, isDiskFull } from '../failures';
import type { MediaStore } from '../media';
import type { Ended, Sessions } from '../sessions';
import { openBackup } from './read';
import { insertRows, named, rowsIn, settleNumbers, tablesInOrder, writeTables } from './tables';

export type Restored = {
  /** When the backup was made, ISO 8601. */
  readonly made: string;
  readonly sessions: number;
  readonly recordings: number;
  readonly prints: number;
  /** Sessions that were here and lie in the bin now. */
  readonly binned: number;
};

export type Target = {
  readonly directory: string;
  readonly database: Database;
  readonly media: MediaStore;
  readonly sessions: Sessions;
};

/** Restores `file`, all or nothing. No print may run meanwhile. */
export async function restoreBackup(file: string, { directory, database, media, sessions }: Target): Promise<Result<Restored>> {
  const work = path.join(directory, 'incoming', randomUUID());
  try {
    await mkdir(work, { recursive: true });
    const opened = await openBackup(file, work, migrationNames);
    if (!opened.ok) return opened;
    const { manifest } = opened.value;
    const tables = await broughtForward(path.join(work, 'tables'), manifest.migrations, path.join(work, 'older'));
    // Files first: one that no row names yet does no harm.
    let recordings = 0;
    for (const name of await namesIn(path.join(work, 'media'))) {
      const kept = await media.keep(path.join(work, 'media', name), name.replace('.wav', ''));
      if (!kept.ok) return kept;
      recordings++;
    }
    const prints = await namesIn(path.join(work, 'prints'));
    const there = new Set(await namesIn(path.join(directory, 'prints')));
    await mkdir(path.join(directory, 'prints'), { recursive: true });
    for (const id of prints) if (!there.has(id)) await rename(path.join(work, 'prints', id), path.join(directory, 'prints', id));
    return ok(
      await sessions.exclusively(async () => {
        const { ended, ...counts } = await database.transaction((query) => putBack(query, tables));
        return { result: { made: manifest.made, recordings, prints: prints.length, ...counts }, ended };
      })
    );
  } catch (error) {
    if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
    throw error;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

const namesIn = async (folder: string): Promise<string[]> => {
  try {
    return await readdir(folder);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return [];
    throw error;
  }
};

/** Tables of an older Isotaxis in a folder of today's: they go through a database of their own, which is then brought forward. */
async function broughtForward(folder: string, done: readonly string[], work: string): Promise<string> {
  if (migrationNames.every((name) => done.includes(name))) return folder;
  const fresh = path.join(work, 'tables');
  await mkdir(fresh, { recursive: true });
  const scratch = await openDatabase(path.join(work, 'database'), '');
  try {
    await migrate(scratch, done);
    await scratch.transaction(async (query) => {
      for (const table of await tablesInOrder(query)) for await (const rows of rowsIn(folder, table)) await insertRows(query, table, rows);
    });
    await migrate(scratch);
    await scratch.transaction((query) => writeTables(query, fresh));
  } finally {
    await scratch.close();
  }
  return fresh;
}

type PutBack = { readonly sessions: number; readonly binned: number; readonly ended: ReadonlyMap<string, Ended> };

async function putBack(query: Query, folder: string): Promise<PutBack> {
  const theirs = new Map((await allRows(folder, 'session')).map((row) => [String(row.id), row]));
  const jobs: string[] = [];
  // What a print knows of its stems can be large: only its name is kept.
  for await (const rows of rowsIn(folder, 'print_job')) jobs.push(...rows.map(({ id }) => String(id)));
  const here = await query('select id, name, revision, changed_at, removed_at from session');
  const ended = new Map<string, Ended>();
  const unchanged = new Set<string>();
  let binned = 0;
  for (const row of here) {
    const id = String(row.id);
    const other = theirs.get(id);
    if (!other) {
      if (row.removed_at !== null) continue;
      await query('update session set removed_at = now() where id = $1', [id]);
      ended.set(id, 'bin');
      binned++;
    } else if (Number(other.revision) === Number(row.revision) && sameMoment(other.changed_at, row.changed_at)) {
      await query('update session set removed_at = $2 where id = $1', [id, other.removed_at]);
      if (other.removed_at !== null) ended.set(id, 'bin');
      unchanged.add(id);
    } else {
      await setAside(query, id, jobs);
      ended.set(id, other.removed_at === null ? 'replaced' : 'bin');
      binned++;
    }
  }
  await keepLibrary(query, folder);
  for (const table of await tablesInOrder(query)) {
    for await (const rows of rowsIn(folder, table)) {
      const owner = table === 'session' ? 'id' : 'session_id';
      // Prints are told by their own ids: those that are here stay, those that are not come.
      const wanted = table.startsWith('print_') ? rows : rows.filter((row) => !unchanged.has(String(row[owner] ?? '')));
      await insertRows(query, table, wanted);
    }
  }
  await query(
    `update print_job set status = 'interrupted', message = 'It was under way when the backup was made. Print again.', finished_at = now()
     where status = 'running' and id in (select jsonb_array_elements_text($1::jsonb))`,
    [JSON.stringify(jobs)]
  );
  await settleNumbers(query);
  return { sessions: [...theirs.values()].filter((row) => row.removed_at === null).length, binned, ended };
}

const sameMoment = (a: unknown, b: unknown) => new Date(a as string).getTime() === new Date(b as string).getTime();

async function allRows(folder: string, table: string): Promise<Row[]> {
  const all: Row[] = [];
  for await (const rows of rowsIn(folder, table)) all.push(...rows);
  return all;
}

/** What a session is now goes into the bin as one of its own, with its history and those prints that the backup does not have. */
async function setAside(query: Query, id: string, jobs: readonly string[]): Promise<void> {
  const copy = randomUUID();
  const owned = (await query(
    "select table_name from information_schema.columns where table_schema = 'public' and column_name = 'session_id'"
  )) as { readonly table_name: string }[];
  const tables = new Set(owned.map(({ table_name }) => table_name));
  // Players' addresses open the session that has them: the one that comes back.
  for (const table of ['print_job', 'cue_token']) tables.delete(table);
  await query(
    `insert into session select (jsonb_populate_record(null::session, to_jsonb(s) || jsonb_build_object('id', $2::text, 'removed_at', now()))).*
     from session s where id = $1`,
    [id, copy]
  );
  for (const table of (await tablesInOrder(query)).filter((name) => tables.has(name)))
    await query(
      `insert into ${named(table)} overriding system value
       select (jsonb_populate_record(null::${named(table)}, to_jsonb(t) || jsonb_build_object('session_id', $2::text))).*
       from ${named(table)} t where session_id = $1`,
      [id, copy]
    );
  await query('update print_job set session_id = $2 where session_id = $1 and id not in (select jsonb_array_elements_text($3::jsonb))', [
    id,
    copy,
    JSON.stringify(jobs)
  ]);
  await query('delete from session where id = $1', [id]);
}

/** Rules and templates of the backup take the place of those of the same name; what was there is kept under another. */
async function keepLibrary(query: Query, folder: string): Promise<void> {
  const stamp = new Date().toISOString().slice(0, 16).replace('T', ' ');
  for (const { kind, name, value } of await allRows(folder, 'library')) {
    if (kind === 'demo') continue;
    await query('update library set name = left(name, 90) || $3::text where kind = $1 and name = $2 and value <> $4::jsonb', [
      kind,
      name,
      ` (before ${stamp})`,
      JSON.stringify(value)
    ]);
  }
}

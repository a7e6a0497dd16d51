// A backup comes back: sessions, recordings, prints and templates are as they were when it was made. What was here and is not in it, or is in
// it in another state, lies in the bin afterwards: nothing is lost by restoring the wrong one. A backup is treated as a stranger's file.
import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { Piscina } from 'piscina';
import { ok, refuse, type Refusal, type Result } from '$core/result';
import { creation } from '$core/session/changes';
import { decodeSession, tableNames, type SessionDocument } from '$core/session/tables';
import { openDatabase, type Database, type Query, type Row } from '../db/database';
import { migrate, migrationNames } from '../db/migrate';
import { writeChanges } from '../db/rows';
import { DISK_FULL, isDiskFull, Refused } from '../failures';
import { putLibraryAside } from '../library';
import { syncDirectory, syncFile, type MediaStore } from '../media';
import { builtFile } from '../paths';
import type { Ended, Sessions } from '../sessions';
import type { RestoreStep } from '../threads/restore';
import { rowsFile, sessionFile, type Checked, type CheckedSession } from './check';
import { portionsOf, rowsOf, spoilt } from './lines';
import type { Unpacked } from './read';
import { columnsIn } from './shapes';
import { insertRows, named, tableFile, tablesInOrder, writeTables } from './tables';

export type Restored = {
  /** When the backup was made, ISO 8601. */
  readonly made: string;
  readonly sessions: number;
  readonly recordings: number;
  readonly prints: number;
  /** Sessions that were here and lie in the bin now. */
  readonly binned: number;
  /** Entries that were not in the backup, or not as they were, and are not here either: recordings, files of prints. */
  readonly missing: readonly string[];
  readonly damaged: readonly string[];
  /** What those recordings are called, by entry. */
  readonly names: Readonly<Record<string, string>>;
};

export type Target = {
  readonly directory: string;
  readonly database: Database;
  readonly media: MediaStore;
  readonly sessions: Sessions;
};
export type Quiet = {
  /** Why it cannot be now, or null. */
  readonly busy: () => Refusal | null;
  /** Keeps a print's files where they are; returns how to let go. */
  readonly hold: (printId: string) => () => void;
};

const MOST_MB = 2048;

let pool: Piscina | null = null;

/** Carries out a step in a thread of its own; what needs more memory than any installation is refused. */
async function inThread<T>(asked: RestoreStep): Promise<Result<T>> {
  pool ??= new Piscina({
    filename: builtFile('threads/restore.js'),
    ...{ minThreads: 0, maxThreads: 1, idleTimeout: 5000, resourceLimits: { maxOldGenerationSizeMb: MOST_MB } }
  });
  try {
    return (await pool.run(asked)) as Result<T>;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error;
    return refuse('too-large', 'The backup holds larger rows than an Isotaxis can have. Nothing of it was taken.');
  }
}

/** Restores `file`: its sessions all or none, of its recordings and prints what is whole. No print may run meanwhile. */
export async function restoreBackup(file: string, target: Target, { busy, hold }: Quiet): Promise<Result<Restored>> {
  const { directory, database, sessions } = target;
  const work = path.join(directory, 'incoming', randomUUID());
  const releases: (() => void)[] = [];
  try {
    await mkdir(work, { recursive: true });
    const opened = await inThread<Unpacked>({ step: 'unpack', file, folder: work, known: migrationNames });
    if (!opened.ok) return opened;
    const { made, migrations, tables: counts } = opened.value;
    const folder = path.join(work, 'tables');
    const isOld = !migrationNames.every((name) => migrations.includes(name));
    const tables = isOld ? await broughtForward(folder, migrations, path.join(work, 'older')) : folder;
    const out = path.join(work, 'checked');
    const checked = await inThread<Checked>({ step: 'check', folder: tables, out, counts: isOld ? {} : counts });
    if (!checked.ok) return checked;
    // Files first: one that no row names yet does no harm.
    releases.push(...checked.value.printed.map(hold));
    const files = await filesBack(work, opened.value, checked.value, target);
    return await sessions.exclusively(async () => {
      const other = busy();
      if (other) return { result: { ok: false, error: other }, ended: new Map<string, Ended>() };
      const { ended, ...said } = await database.transaction((query) => putBack(query, out, checked.value));
      return { result: ok({ made, ...files, ...said }), ended };
    });
  } catch (error) {
    if (error instanceof Refused) return { ok: false, error: error.refusal };
    if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
    throw error;
  } finally {
    for (const release of releases) release();
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

/** What the database says of rows that do not fit it (classes 22 and 23 of SQLSTATE) is the backup's fault. */
async function fitting<T>(entry: string, work: Promise<T>): Promise<T> {
  try {
    return await work;
  } catch (error) {
    const { code, message } = error as { code?: string; message: string };
    throw /^2[23]/.test(code ?? '') ? spoilt(entry, `does not fit: ${message}`) : error;
  }
}

/** Tables of an older Isotaxis in a folder of today's: they go through a database of their own, which is then brought forward. */
async function broughtForward(folder: string, done: readonly string[], work: string): Promise<string> {
  const fresh = path.join(work, 'tables');
  await mkdir(fresh, { recursive: true });
  const scratch = await openDatabase(path.join(work, 'database'), '');
  try {
    await migrate(scratch, done);
    await scratch.transaction(async (query) => {
      const order = await tablesInOrder(query);
      const strange = (await namesIn(folder)).find((name) => !order.map(tableFile).includes(name));
      if (strange !== undefined) throw spoilt(`tables/${strange}`, 'is no table');
      for (const table of order) {
        const entry = `tables/${tableFile(table)}`;
        if (!(await namesIn(folder)).includes(tableFile(table))) throw spoilt(entry, 'is not in it');
        const columns = (
          await query("select column_name from information_schema.columns where table_schema = 'public' and table_name = $1", [table])
        ).map(({ column_name }) => String(column_name));
        for await (const rows of portionsOf(rowsOf(path.join(folder, tableFile(table)), entry))) {
          const odd = rows.flatMap((row) => Object.keys(row)).find((name) => !columns.includes(name));
          if (odd !== undefined) throw spoilt(entry, `has a row with “${odd.slice(0, 80)}”`);
          await fitting(entry, insertRows(query, table, columns, rows));
        }
      }
    });
    await fitting('tables', migrate(scratch));
    await scratch.transaction((query) => writeTables(query, fresh));
  } finally {
    await scratch.close();
  }
  return fresh;
}

/** Puts back the recordings and files of prints that are not there, or not as they were; what then is still not. */
async function filesBack(
  work: string,
  { files, missing, damaged }: Unpacked,
  { printed, recordings }: Checked,
  { directory, media }: Target
): Promise<Pick<Restored, 'recordings' | 'prints' | 'missing' | 'damaged' | 'names'>> {
  const bad = new Set(damaged);
  for (const entry of files) {
    const from = path.join(work, entry);
    const [kind, id, name] = entry.split('/');
    if (kind === 'media') {
      const kept = await media.keep(from, id.replace('.wav', ''));
      if (!kept.ok) bad.add(entry);
    } else if (printed.includes(id)) {
      const folder = path.join(directory, 'prints', id);
      if ((await media.hashOf(path.join(folder, name))) === (await media.hashOf(from))) continue;
      await mkdir(folder, { recursive: true });
      syncFile(from);
      await rename(from, path.join(folder, name));
      for (const each of [folder, path.dirname(folder)]) syncDirectory(each);
    }
  }
  const isHere = async (entry: string) => {
    const [kind, id] = entry.split('/');
    return kind === 'media' && (await media.isWhole(id.replace('.wav', '')));
  };
  const still = async (entries: Iterable<string>) => {
    const gone: string[] = [];
    for (const entry of entries) if (!(await isHere(entry))) gone.push(entry);
    return gone;
  };
  const result = { missing: await still(missing), damaged: await still(bad) };
  const called = [...result.missing, ...result.damaged].flatMap((entry) => {
    const name = recordings[/^media\/(.*)\.wav$/.exec(entry)?.[1] ?? ''];
    return name === undefined ? [] : [[entry, name]];
  });
  return {
    ...{ recordings: files.filter((entry) => entry.startsWith('media/') && !bad.has(entry)).length, prints: printed.length },
    ...{ ...result, names: Object.fromEntries(called) as Record<string, string> }
  };
}

type PutBack = { readonly sessions: number; readonly binned: number; readonly ended: ReadonlyMap<string, Ended> };

const sameMoment = (a: unknown, b: unknown) => new Date(a as string).getTime() === new Date(b as string).getTime();

/** The id under which a state of a session lies in the bin: the same each time, so that restoring twice does not bin it twice. */
function copyId(id: string, revision: number, changedAt: string): string {
  const hex = createHash('sha256')
    .update(`${id} ${revision} ${new Date(changedAt).getTime()}`)
    .digest('hex');
  return [hex.slice(0, 8), hex.slice(8, 12), `5${hex.slice(13, 16)}`, `8${hex.slice(17, 20)}`, hex.slice(20, 32)].join('-');
}

async function putBack(query: Query, out: string, { sessions }: Checked): Promise<PutBack> {
  const theirs = new Map(sessions.map((each, place) => [each.id, { ...each, place }]));
  const rows = (table: string) => portionsOf(rowsOf(path.join(out, tableFile(table)), `tables/${tableFile(table)}`));
  const has = async (table: string) => (await namesIn(out)).includes(tableFile(table));
  const jobs: string[] = [];
  if (await has('print_job')) for await (const each of rows('print_job')) jobs.push(...each.map(({ id }) => String(id)));
  const here = await query('select id, revision, changed_at, removed_at from session');
  const ended = new Map<string, Ended>();
  const left = new Map(theirs);
  let binned = 0;
  /** States that come back, and under which id. */
  const coming: { readonly session: CheckedSession & { readonly place: number }; readonly as: string; readonly bin: boolean }[] = [];
  for (const row of here) {
    const id = String(row.id);
    const other = theirs.get(id);
    const onShelf = row.removed_at === null;
    left.delete(id);
    if (!other) {
      if (!onShelf) continue;
      await query('update session set removed_at = now() where id = $1', [id]);
      ended.set(id, 'bin');
      binned++;
    } else if (other.revision === Number(row.revision) && sameMoment(other.changedAt, row.changed_at)) {
      // What is on the shelf stays there, and what is in the bin keeps its days.
      if (other.removedAt === null && !onShelf) await query('update session set removed_at = null where id = $1', [id]);
    } else if (other.removedAt !== null && onShelf) {
      // As it is here it stays; as it was it can be had from the bin.
      const as = copyId(id, other.revision, other.changedAt);
      if ((await query('select 1 from session where id = $1', [as])).length === 0) coming.push({ session: other, as, bin: true });
    } else {
      await setAside(
        query,
        { id, revision: Number(row.revision), changedAt: String(new Date(row.changed_at as string).toISOString()) },
        jobs
      );
      ended.set(id, onShelf ? 'replaced' : 'bin');
      binned++;
      coming.push({ session: other, as: id, bin: other.removedAt !== null });
    }
  }
  for (const other of left.values()) coming.push({ session: other, as: other.id, bin: other.removedAt !== null });
  for (const { session, as, bin } of coming) await comeBack(query, out, session.place, as, bin);

  // Prints are told by their own ids: those that are here stay, those that are not come.
  for (const table of ['print_job', 'print_file'] as const) {
    if (!(await has(table))) continue;
    for await (const each of rows(table))
      await fitting(`tables/${tableFile(table)}`, insertRows(query, table, columnsIn(table), each.map(whatEnded)));
  }
  if (await has('library'))
    for await (const each of rows('library')) {
      for (const { kind, name, value } of each) if (kind !== 'demo') await putLibraryAside(query, String(kind), String(name), value);
      await fitting('tables/library.jsonl', insertRows(query, 'library', columnsIn('library'), each));
    }
  return { sessions: sessions.filter(({ removedAt }) => removedAt === null).length, binned, ended };
}

/** What was under way when the backup was made has ended. */
const whatEnded = (row: Row): Row =>
  row.status === 'running'
    ? {
        ...row,
        ...{ status: 'interrupted', message: 'It was under way when the backup was made. Print again.' },
        finished_at: new Date().toISOString()
      }
    : row;

/** Writes a session with its history as `as`; what goes into the bin has its days from now. */
async function comeBack(query: Query, out: string, place: number, as: string, bin: boolean): Promise<void> {
  const { row, document } = JSON.parse(await readFile(sessionFile(out, place), 'utf8')) as { row: Row; document: SessionDocument };
  await fitting('tables/session.jsonl', insertRows(query, 'session', columnsIn('session'), [{ ...row, id: as, removed_at: null }]));
  if (bin) await query('update session set removed_at = now() where id = $1', [as]);
  const session = decodeSession(document);
  // A player's address opens one cue of this installation: one that is taken here, or that belongs to another state, stays where it is.
  const taken = (await query('select id from cue_token')).map(({ id }) => String(id));
  for (const id of as === row.id ? taken : [...session.cueToken.keys()]) session.cueToken.delete(id);
  const rows = tableNames.flatMap((table) => [...session[table]].map(([key, each]) => creation(table, key, each)));
  await fitting('tables', writeChanges(query, as, session, rows));
  for (const table of ['history', 'batch'] as const) {
    const entry = `tables/${tableFile(table)}`;
    // Their places among all are given anew.
    const columns = columnsIn(table).filter((name) => name !== 'entry');
    for await (const each of portionsOf(rowsOf(rowsFile(out, place, table), entry)))
      await fitting(
        entry,
        insertRows(
          query,
          table,
          columns,
          each.map((own) => ({ ...own, session_id: as }))
        )
      );
  }
}

/** What a session is now goes into the bin as one of its own, with its history and those prints that the backup does not have. */
async function setAside(
  query: Query,
  { id, revision, changedAt }: { readonly id: string; readonly revision: number; readonly changedAt: string },
  jobs: readonly string[]
): Promise<void> {
  const before = copyId(id, revision, changedAt);
  const isThere = (await query('select 1 from session where id = $1', [before])).length > 0;
  const copy = isThere ? randomUUID() : before;
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

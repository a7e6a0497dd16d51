// What is on disk: recordings, peaks, prints and the database with their sizes; what nothing refers to, and its removal. Nothing goes that a
// session, one in the bin, its undo history, a print under way or an import in an open page still needs.
import { readdir, stat, statfs } from 'node:fs/promises';
import path from 'node:path';
import { ok, refuse, type Result } from '$core/result';
import type { Backed } from './backup/write';
import type { Database, Query } from './db/database';
import type { MediaStore } from './media';
import type { Prints } from './prints';
import type { Sessions } from './sessions';

type Amount = { readonly count: number; readonly bytes: number };
export type StorageReport = {
  readonly directory: string;
  /** Everything in the data directory, and what is left on its disk. */
  readonly bytes: number;
  readonly freeBytes: number;
  readonly database: { readonly bytes: number };
  /** With their peaks. */
  readonly recordings: Amount;
  readonly prints: Amount;
  /** Sessions in the bin, with what would be free without them. */
  readonly bin: Amount;
  /** Recordings that are kept only so that a removal can be undone. */
  readonly undo: Amount;
  /** The last backup that was read to its end since the server was started. */
  readonly backup: Backed | null;
  readonly unused: {
    readonly bytes: number;
    readonly recordings: readonly { readonly sha256: string; readonly bytes: number }[];
    readonly prints: readonly { readonly id: string; readonly bytes: number }[];
  };
};
export type Cleared = { readonly recordings: number; readonly prints: number; readonly bytes: number };

export type Storage = {
  readonly report: () => Promise<StorageReport>;
  /** Removes what nothing refers to. Refused while a backup is read from it. */
  readonly clear: () => Promise<Result<Cleared>>;
  /** A recording came in for a session: as long as a page has that open it may still become a track. */
  readonly arrived: (sessionId: string, sha256: string) => void;
  /** Keeps everything where it is, once a removal under way has ended, until what is returned is called. */
  readonly hold: () => Promise<() => void>;
  /** Hears how the last backup went: what was not there, and what was damaged. */
  readonly backed: (backed: Backed) => void;
};

/** Recordings that rows of sessions name; those that only histories and printed stems name. */
const ROWS = 'select distinct m.sha256, s.removed_at is not null as binned from media m join session s on s.id = m.session_id';
const HISTORY = `
  select distinct row #>> '{}' as sha256 from (
    select jsonb_path_query(changes, '$[*] ? (@.table == "media").before.sha256') as row from history
    union all select jsonb_path_query(changes, '$[*] ? (@.table == "media").after.sha256') from history
    union all select jsonb_path_query(onward, '$.document.media[*].sha256') from print_job where onward is not null) found`;

type References = { readonly rows: ReadonlySet<string>; readonly binned: ReadonlySet<string>; readonly others: ReadonlySet<string> };

export function createStorage(directory: string, database: Database, sessions: Sessions, media: MediaStore, prints: Prints): Storage {
  const arrivals = new Map<string, string>();
  let held = 0;
  let clearing: Promise<unknown> = Promise.resolve();
  let backed: Backed | null = null;
  const printHome = path.join(directory, 'prints');

  const references = async (query: Query): Promise<References> => {
    const rows = await query(ROWS);
    const of = (binned: boolean) => new Set(rows.filter((row) => row.binned === binned).map((row) => String(row.sha256)));
    const history = (await query(HISTORY)).map((row) => String(row.sha256));
    const arriving = [...arrivals].filter(([, session]) => sessions.isFollowed(session)).map(([sha256]) => sha256);
    return { rows: of(false), binned: of(true), others: new Set([...history, ...prints.reading(), ...arriving]) };
  };
  const unusedPrints = async (query: Query) => {
    const known = new Set((await query('select id from print_job')).map(({ id }) => String(id)));
    const names = (await readdir(printHome)).filter((name) => !known.has(name));
    return Promise.all(names.map(async (id) => ({ id, bytes: await bytesIn(path.join(printHome, id)) })));
  };

  const report: Storage['report'] = async () => {
    const [all, { rows, binned, others }, loosePrints, printBytes, [{ count: jobs }], bin] = await Promise.all([
      media.all(),
      references(database.query),
      unusedPrints(database.query),
      bytesIn(printHome),
      database.query("select count(*)::integer as count from print_job where status = 'done'"),
      database.query(
        `select coalesce(sum(f.bytes), 0)::double precision as bytes, count(distinct s.id)::integer as count from session s
         left join print_job j on j.session_id = s.id left join print_file f on f.job_id = j.id where s.removed_at is not null`
      )
    ]);
    const sum = (list: readonly { readonly bytes: number }[]) => list.reduce((bytes, each) => bytes + each.bytes, 0);
    const amount = (list: typeof all): Amount => ({ count: list.length, bytes: sum(list) });
    const unused = all.filter(({ sha256 }) => !rows.has(sha256) && !binned.has(sha256) && !others.has(sha256));
    const onlyBinned = all.filter(({ sha256 }) => binned.has(sha256) && !rows.has(sha256) && !others.has(sha256));
    const { bavail, bsize } = await statfs(directory);
    const databaseBytes = await databaseSize(database, path.join(directory, 'database'));
    return {
      directory,
      bytes: sum(all) + printBytes + databaseBytes,
      freeBytes: bavail * bsize,
      database: { bytes: databaseBytes },
      recordings: amount(all),
      prints: { count: Number(jobs), bytes: printBytes },
      bin: { count: Number(bin[0].count), bytes: Number(bin[0].bytes) + sum(onlyBinned) },
      backup: backed,
      undo: amount(all.filter(({ sha256 }) => !rows.has(sha256) && !binned.has(sha256) && others.has(sha256))),
      unused: { bytes: sum(unused) + sum(loosePrints), recordings: unused, prints: loosePrints }
    };
  };

  const removal = async (): Promise<Result<Cleared>> => {
    if (held > 0) return refuse('busy', 'A backup is being made or restored. Wait for it, then remove what is not used.');
    const needed =
      ({ rows, binned, others }: References) =>
      (sha256: string) =>
        rows.has(sha256) || binned.has(sha256) || others.has(sha256);
    const before = needed(await references(database.query));
    // Marked first: from here on no row can come to name one of them without looking, and finding it gone.
    const leaving = media.leave((await media.all()).map(({ sha256 }) => sha256).filter((sha256) => !before(sha256)));
    try {
      const loose = await database.transaction(async (query) => {
        await query('lock table media in share mode');
        const still = needed(await references(query));
        // A backup may have begun meanwhile, or one be coming back: then everything stays.
        leaving.keep(held > 0 ? () => true : still);
        return held > 0 ? [] : unusedPrints(query);
      });
      const removed = await leaving.remove();
      for (const { id } of loose) await prints.sweep(id);
      const bytes = [...removed, ...loose].reduce((sum, each) => sum + each.bytes, 0);
      return ok({ recordings: removed.length, prints: loose.length, bytes });
    } finally {
      leaving.keep(() => true);
    }
  };

  /** One removal at a time, and none while everything is held. */
  const clear: Storage['clear'] = () => {
    const done = clearing.then(removal);
    clearing = done.catch(() => undefined);
    return done;
  };

  return {
    report,
    clear,
    arrived: (sessionId, sha256) => void arrivals.set(sha256, sessionId),
    backed: (done) => void (backed = done),
    hold: async () => {
      let over = false;
      held++;
      await clearing;
      return () => {
        if (!over) held--;
        over = true;
      };
    }
  };
}

/** Bytes of a file, or of everything in a folder; what goes meanwhile counts for nothing. */
export async function bytesIn(place: string): Promise<number> {
  try {
    const { size } = await stat(place);
    const entries = await readdir(place, { withFileTypes: true }).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOTDIR') return null;
      throw error;
    });
    if (entries === null) return size;
    const sizes = await Promise.all(entries.map(({ name }) => bytesIn(path.join(place, name))));
    return sizes.reduce((sum, bytes) => sum + bytes, 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return 0;
    throw error;
  }
}

/** Where a server keeps it, it is asked. */
async function databaseSize(database: Database, folder: string): Promise<number> {
  if (!process.env.DATABASE_URL) return bytesIn(folder);
  const [row] = await database.query('select pg_database_size(current_database())::double precision as bytes');
  return Number(row.bytes);
}

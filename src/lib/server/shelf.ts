// Sessions as things: what there is of each, copies, and the bin, in which a removed one lies for 30 days before it goes for good.
import { randomUUID } from 'node:crypto';
import { settingsOf } from '$core/session/entities';
import { ok, refuse, type Result } from '$core/result';
import type { Database } from './db/database';
import type { MediaStore } from './media';
import type { Prints } from './prints';
import { NO_SESSION, type Sessions } from './sessions';

/** Days that a session lies in the bin. */
export const BIN_DAYS = 30;
/** How often the bin is looked through. */
const ROUND_MS = 6 * 3600 * 1000;

export type SessionBrief = {
  readonly id: string;
  readonly name: string;
  /** Channels with sound, the mix bus left out. */
  readonly channels: number;
  readonly rate: number;
  /** The end of the last clip, seconds. */
  readonly seconds: number;
  /** ISO 8601, UTC. */
  readonly createdAt: string;
  readonly changedAt: string;
  /** When it went into the bin, and when it goes for good; null where it is not in there. */
  readonly removedAt: string | null;
  readonly goesAt: string | null;
  /** On disk: its recordings, some of which other sessions may use too, and its prints. */
  readonly bytes: number;
  readonly printBytes: number;
};

export type Shelf = {
  readonly list: (bin?: boolean) => Promise<SessionBrief[]>;
  /** A copy with a name of its own: all rows and recordings, without undo history, prints and players' addresses; its id. */
  readonly duplicate: (id: string, name: string) => Promise<Result<string>>;
  /** Into the bin, or with `final` for good; from the bin for good as well. */
  readonly remove: (id: string, final: boolean) => Promise<Result<null>>;
  /** Out of the bin. */
  readonly restore: (id: string) => Promise<Result<null>>;
  /** Takes away for good what has lain in the bin for long enough; how many. */
  readonly empty: () => Promise<number>;
  readonly close: () => void;
};

const iso = (column: string) => `to_char(${column} at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"')`;
const BRIEF = `
  select s.id, s.name, ${iso('s.created_at')} as created, ${iso('s.changed_at')} as changed, ${iso('s.removed_at')} as removed,
    ${iso(`(s.removed_at + interval '${BIN_DAYS} days')`)} as goes,
    (select count(*) from channel c where c.session_id = s.id and c.kind not in ('mix', 'vca'))::integer as channels,
    (select rate from settings where session_id = s.id) as rate,
    coalesce((select max(c.start + c.length) from clip c where c.session_id = s.id), 0)::double precision as frames,
    coalesce((select jsonb_agg(distinct m.sha256) from media m where m.session_id = s.id), '[]'::jsonb) as recordings,
    coalesce((select sum(f.bytes) from print_file f join print_job j on j.id = f.job_id where j.session_id = s.id), 0)::double precision
      as print_bytes
  from session s`;

const gone = () => refuse('no-session', NO_SESSION);

/** `failed` hears of what went wrong where nobody waits for an answer. */
export function createShelf(
  database: Database,
  sessions: Sessions,
  media: MediaStore,
  prints: Prints,
  failed: (error: unknown) => void = () => {}
): Shelf {
  const has = async (id: string) => (await database.query('select removed_at from session where id = $1', [id]))[0] ?? null;

  const brief = async (row: Record<string, unknown>): Promise<SessionBrief> => {
    const sizes = await Promise.all((row.recordings as string[]).map(media.bytesOf));
    const printBytes = Number(row.print_bytes);
    return {
      id: String(row.id),
      name: String(row.name),
      channels: Number(row.channels),
      rate: Number(row.rate),
      seconds: Number((Number(row.frames) / Number(row.rate)).toFixed(3)),
      createdAt: String(row.created),
      changedAt: String(row.changed),
      removedAt: row.removed as string | null,
      goesAt: row.removed === null ? null : String(row.goes),
      bytes: sizes.reduce((sum, bytes) => sum + bytes, 0) + printBytes,
      printBytes
    };
  };

  const remove: Shelf['remove'] = (id, final) =>
    sessions.between(id, async () => {
      if (!(await has(id))) return { result: gone() };
      if (!final) {
        await database.query('update session set removed_at = coalesce(removed_at, now()) where id = $1', [id]);
        return { result: ok(null), ended: 'bin' };
      }
      // What is under way would have nowhere to be told of. Files of finished prints are found by the storage, as recordings are.
      await prints.cancelAll(id);
      await database.query('delete from session where id = $1', [id]);
      return { result: ok(null), ended: 'gone' };
    });

  const empty: Shelf['empty'] = async () => {
    const old = await database.query(`select id from session where removed_at < now() - interval '${BIN_DAYS} days'`);
    for (const { id } of old) await remove(String(id), true);
    return old.length;
  };
  const round = setInterval(() => void empty().catch(failed), ROUND_MS);
  round.unref();

  return {
    list: async (bin = false) => {
      const rows = await database.query(`${BRIEF} where s.removed_at is ${bin ? 'not null' : 'null'} order by s.created_at, s.id`);
      return Promise.all(rows.map(brief));
    },
    duplicate: async (id, name) =>
      (await sessions.read<Result<string>>(id, async ({ session }) => {
        const settings = { ...settingsOf(session), name };
        const copy = randomUUID();
        await sessions.adopt(copy, { ...session, settings: new Map([['settings', settings]]) });
        return ok(copy);
      })) ?? gone(),
    remove,
    restore: (id) =>
      sessions.between(id, async () => {
        if (!(await has(id))) return { result: gone() };
        await database.query('update session set removed_at = null where id = $1', [id]);
        return { result: ok(null) };
      }),
    empty,
    close: () => clearInterval(round)
  };
}

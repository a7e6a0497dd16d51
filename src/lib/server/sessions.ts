// The open sessions: carrying out batches of commands, undo and redo, each in one transaction with rows, history and revision.
import PQueue from 'p-queue';
import { newSession } from '$core/session/create';
import { creation, commit, decodeChanges, encodeChanges, type Change } from '$core/session/changes';
import type { Command } from '$core/commands/index';
import { settingsOf, type Media, type Session, type Settings } from '$core/session/entities';
import { outlook, record, step, type Entry } from '$core/session/history';
import { planBatch } from '$core/commands/plan';
import { fits } from '$core/formats/gate';
import { ok, refuse, type Result } from '$core/result';
import type { Answer, Done, News } from '$core/sync/wire';
import { completed, tableNames } from '$core/session/tables';
import { DISK_FULL, isDiskFull, Refused } from './failures';
import type { Database, Query } from './db/database';
import { readSession, writeChanges } from './db/rows';

export const NO_SESSION = 'This session is no longer here. It may lie in the bin: the sessions page shows both.';
/** Entries kept per session; older ones can no longer be undone. */
const HISTORY_LENGTH = 500;
/** Batches kept so that a page can be told what it missed. */
const BATCHES_KEPT = 2000;

export type Move =
  { readonly commands: readonly Command[]; readonly gesture?: string | null } | { readonly undo: string } | { readonly redo: string };
export type Batch = { readonly base: number; readonly id: string } & Move;

export type { Done, News };
/** The answer to a batch; its changes are encoded by whoever sends it. */
export type Outcome = Answer;

type OpenSession = { readonly id: string; revision: number; readonly session: Session; entries: Entry[] };
/** A session as a reader has it, until his turn is over. */
export type Reading = Readonly<OpenSession>;

/** Is told of a batch. What it throws, at once or later, is its own misfortune: it is told nothing more. */
export type Listener = (news: News) => void | Promise<void>;
/** Why a session is no longer told of: it went into the bin, it is gone for good, or another state of it took its place. */
export type Ended = 'bin' | 'gone' | 'replaced';
type Follower = { readonly listener: Listener; readonly ended: (why: Ended) => void };

export type Sessions = {
  readonly create: (id: string, settings: Partial<Settings> & { name: string }) => Promise<void>;
  /**
   * Reads a session between two batches: `work` sees what is committed, and nothing changes until it is done. What it returns must not
   * hold the session itself: rows may leave, and `copyOf`. Null where there is no such session. Long work takes out what it needs and goes
   * on outside, since batches wait; a batch of the same session inside `work` would wait for ever.
   * @example const name = await sessions.read(id, ({ session }) => settingsOf(session).name);
   */
  readonly read: <T>(id: string, work: (state: Reading) => T | Promise<T>) => Promise<T | null>;
  /** `aside` leaves the undo history as it is: what players do is not the engineer’s to take back. */
  readonly carryOut: (id: string, batch: Batch, aside?: boolean) => Promise<Result<Outcome>>;
  /** Makes a session of given rows. */
  readonly adopt: (id: string, session: Session) => Promise<void>;
  /**
   * Tells `listener` of every batch from now on, and answers with those since `base`, or null where they are no longer known.
   * The two do not overlap and leave nothing out.
   */
  readonly follow: (
    id: string,
    base: number,
    listener: Listener,
    ended?: (why: Ended) => void
  ) => Promise<{ missed: News[] | null; stop: () => void }>;
  /** Whether somebody is told of this session now. */
  readonly isFollowed: (id: string) => boolean;
  /** Does something to a session as a whole, between two batches; who follows it hears where it ended by that. */
  readonly between: <T>(id: string, work: () => Promise<{ readonly result: T; readonly ended?: Ended }>) => Promise<T>;
  /** Does something to any sessions while no batch is under way; what `ended` names is told to whoever follows. */
  readonly exclusively: <T>(work: () => Promise<{ readonly result: T; readonly ended: ReadonlyMap<string, Ended> }>) => Promise<T>;
};

/** What sessions need of the rest of the server: whom to tell of listeners that broke, and what a recording in the store is. */
export type Surroundings = {
  readonly failed?: (error: unknown) => void;
  readonly recording?: (sha256: string) => Promise<Pick<Media, (typeof ALIKE)[number]> | null>;
};
/** What a media row says of its recording. */
const ALIKE = ['rate', 'channels', 'frames', 'encoding'] as const;

export function createSessions(database: Database, { failed = () => {}, recording }: Surroundings = {}): Sessions {
  const cache = new Map<string, Promise<OpenSession | null>>();
  /** A queue a session, as long as something is in it. */
  const queues = new Map<string, PQueue>();
  const followers = new Map<string, Set<Follower>>();
  /** What everybody waits for. */
  let closed: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(id: string, work: () => Promise<T>): Promise<T> => {
    const queue = queues.get(id) ?? new PQueue({ concurrency: 1 });
    queues.set(id, queue);
    // What was closed when it was asked for, not when its turn comes: who closes waits for those before.
    const before = closed;
    const result = queue.add(() => before.then(work)) as Promise<T>;
    void queue.onIdle().then(() => queue.size + queue.pending === 0 && queues.get(id) === queue && queues.delete(id));
    return result;
  };

  /** What is committed stays so, whatever becomes of those who are told. */
  const tellAll = (id: string, news: News) => {
    const list = followers.get(id);
    for (const follower of list ?? [])
      new Promise((resolve) => resolve(follower.listener(news))).catch((error: unknown) => {
        list?.delete(follower);
        failed(error);
      });
  };
  const endFor = (id: string, why: Ended) => {
    cache.delete(id);
    for (const { ended } of followers.get(id) ?? []) ended(why);
    followers.delete(id);
  };

  const load = async (id: string): Promise<OpenSession | null> => {
    const [row] = await database.query('select revision from session where id = $1 and removed_at is null', [id]);
    if (!row) return null;
    return database.transaction(async (query) => ({
      id,
      revision: Number(row.revision),
      session: await readSession(query, id),
      entries: await readEntries(query, id)
    }));
  };
  let regained = 0;
  const open = (id: string) => {
    if (database.regained() !== regained) cache.clear();
    regained = database.regained();
    const known = cache.get(id) ?? load(id);
    cache.set(id, known);
    known.then(
      (session) => session ?? cache.delete(id),
      () => cache.delete(id)
    );
    return known;
  };

  /** Plans on the state at hand, commits in memory and on disk; on any failure both are as before. */
  const carryOut = async (id: string, batch: Batch, aside: boolean): Promise<Result<Outcome>> => {
    const state = await open(id);
    if (!state) return refuse('no-session', NO_SESSION);
    const [repeated] = await database.query('select revision, changes from batch where session_id = $1 and id = $2', [id, batch.id]);
    const missed = await changesSince(database, state, batch.base);
    if (repeated) {
      return ok({ revision: state.revision, missed, changes: [], history: outlook(state.entries) });
    }
    const planned = planMove(state, batch);
    if (!planned.ok) return planned;
    const { changes } = planned.value;
    const entries = aside ? state.entries : planned.value.entries;
    const undo = commit(state.session, changes);
    const kept = await fitting(state, changes).catch((error: unknown) => {
      commit(state.session, undo);
      throw error;
    });
    if (!kept.ok) {
      commit(state.session, undo);
      return kept;
    }
    try {
      await database.transaction(async (query) => {
        await writeChanges(query, id, state.session, changes);
        await stillKept(changes);
        await writeEntries(query, id, state.entries, entries);
        const revision = state.revision + 1;
        await query('insert into batch (session_id, revision, id, changes) values ($1, $2, $3, $4::jsonb)', [
          id,
          revision,
          batch.id,
          JSON.stringify(encodeChanges(changes))
        ]);
        // The ids stay, so that a retry is harmless however late it comes.
        if (revision % 100 === 0)
          await query('update batch set changes = null where session_id = $1 and revision <= $2 and changes is not null', [
            id,
            revision - BATCHES_KEPT
          ]);
        const name = state.session.settings.get('settings')!.name;
        await query('update session set revision = $2, name = $3, changed_at = now() where id = $1', [id, revision, name]);
      });
    } catch (error) {
      commit(state.session, undo);
      cache.delete(id);
      if (isDiskFull(error)) return refuse('disk-full', DISK_FULL);
      if (error instanceof Refused) return { ok: false, error: error.refusal };
      throw error;
    }
    state.revision += 1;
    state.entries = entries;
    const news = { revision: state.revision, id: batch.id, changes, history: outlook(entries) };
    tellAll(id, news);
    return ok({ ...news, missed });
  };

  /** The gate, and what only the server knows: its store’s recordings, and the tokens of other sessions. */
  const fitting = async ({ id, session }: OpenSession, changes: readonly Change[]): Promise<Result<null>> => {
    const kept = fits(session, changes);
    if (!kept.ok) return kept;
    for (const { table, before, after } of changes) {
      if (before !== null || after === null) continue;
      if (table === 'media' && recording) {
        const row = after as unknown as Media;
        const stored = await recording(row.sha256);
        if (!stored) return refuse('missing', `The audio of ${row.name} is not in the store. Import it again.`);
        if (ALIKE.some((field) => stored[field] !== row[field]))
          return refuse('inconsistent', `${row.name} is not described as it is in the store. Import it again.`);
      }
      if (table === 'cueToken') {
        const others = await database.query('select 1 from cue_token where id = $1 and session_id <> $2', [after.id, id]);
        if (others.length) return refuse('exists', 'This token opens a cue of another session. Use a new one.');
      }
    }
    return ok(null);
  };

  /** Says whether recordings are still there once their rows are written: what nothing referred to may be going at this moment. */
  const stillKept = async (changes: readonly Change[]): Promise<void> => {
    for (const { table, before, after } of changes) {
      if (table !== 'media' || before !== null || after === null || !recording) continue;
      const { name, sha256 } = after as unknown as Media;
      if (!(await recording(sha256)))
        throw new Refused({ code: 'missing', message: `The audio of ${name} has just been removed from the store. Import it again.` });
    }
  };

  const adopt = (id: string, session: Session) =>
    database.transaction(async (query) => {
      await query('insert into session (id, name) values ($1, $2)', [id, settingsOf(session).name]);
      // Players' addresses of another session open nothing here.
      const own: Session = { ...session, cueToken: new Map() };
      const rows = tableNames.flatMap((table) => [...own[table]].map(([key, row]) => creation(table, key, row)));
      await writeChanges(query, id, own, rows);
      await stillKept(rows);
    });

  return {
    create: (id, settings) => adopt(id, newSession(settings)),
    adopt,
    read: (id, work) =>
      inTurn(id, async () => {
        const state = await open(id);
        return state && work(state);
      }),
    // One batch of a session at a time: each is planned on what the one before left.
    carryOut: (id, batch, aside = false) => inTurn(id, () => carryOut(id, batch, aside)),
    follow: (id, base, listener, ended = () => {}) =>
      inTurn(id, async () => {
        const state = await open(id);
        const follower = { listener, ended };
        const list = followers.get(id) ?? new Set();
        followers.set(id, list.add(follower));
        const stop = () => {
          list.delete(follower);
          if (list.size === 0 && followers.get(id) === list) followers.delete(id);
        };
        const missed =
          state &&
          (await changesSince(database, state, base).catch((error: unknown) => {
            stop();
            throw error;
          }));
        return { missed: missed && missed.map((done) => ({ ...done, history: outlook(state.entries) })), stop };
      }),
    isFollowed: (id) => (followers.get(id)?.size ?? 0) > 0,
    between: (id, work) =>
      inTurn(id, async () => {
        const { result, ended } = await work();
        if (ended) endFor(id, ended);
        return result;
      }),
    exclusively: (work) => {
      const done = Promise.all([closed, ...[...queues.values()].map((queue) => queue.add(() => Promise.resolve()))]).then(async () => {
        const { result, ended } = await work();
        cache.clear();
        for (const [id, why] of ended) endFor(id, why);
        return result;
      });
      closed = done.catch(() => undefined);
      return done;
    }
  };
}

type PlannedMove = { readonly changes: readonly Change[]; readonly entries: Entry[] };

function planMove(state: OpenSession, batch: Batch): Result<PlannedMove> {
  if ('commands' in batch) {
    const planned = planBatch(state.session, batch.commands);
    if (!planned.ok) return planned;
    const { changes, label } = planned.value;
    if (changes.length === 0) return ok({ changes, entries: state.entries });
    const entry: Entry = { id: batch.id, gesture: batch.gesture ?? null, label, changes, undone: false };
    return ok({ changes, entries: record(state.entries, entry).slice(-HISTORY_LENGTH) });
  }
  const undoing = 'undo' in batch;
  const wanted = undoing ? batch.undo : batch.redo;
  const next = undoing ? outlook(state.entries).undo : outlook(state.entries).redo;
  if (next?.id !== wanted)
    return refuse(
      'overtaken',
      undoing ? 'That step was undone already, or something newer stands before it.' : 'That step cannot be redone any more.'
    );
  const entry = state.entries.find(({ id }) => id === wanted)!;
  const changes = step(state.session, entry);
  if (!changes.ok) return changes;
  const entries = state.entries.map((other) => (other === entry ? { ...entry, undone: undoing } : other));
  return ok({ changes: changes.value, entries });
}

/** Batches after `base`, oldest first; null where some of them are no longer known. */
async function changesSince(database: Database, state: OpenSession, base: number): Promise<Done[] | null> {
  if (base === state.revision) return [];
  if (base > state.revision) return null;
  const rows = await database.query('select revision, id, changes from batch where session_id = $1 and revision > $2 order by revision', [
    state.id,
    base
  ]);
  if (rows.length < state.revision - base || rows.some((row) => row.changes === null)) return null;
  return rows.map((row) => ({ revision: Number(row.revision), id: String(row.id), changes: decodeChanges(row.changes as Change[]) }));
}

async function readEntries(query: Query, sessionId: string): Promise<Entry[]> {
  const rows = await query('select id, gesture, label, changes, undone from history where session_id = $1 order by entry', [sessionId]);
  return rows.map((row) => ({
    id: String(row.id),
    gesture: row.gesture as string | null,
    label: String(row.label),
    changes: decodeChanges(row.changes as Change[]).map(whole),
    undone: Boolean(row.undone)
  }));
}

/** A row that is born or removed has every column, also those added after the entry was made. */
const whole = (change: Change): Change => {
  const { table, before, after } = change;
  if (before && after) return change;
  return { ...change, before: before && completed(table, before), after: after && completed(table, after) };
};

/** Writes the difference between two histories: what went, what was changed, what is new. */
async function writeEntries(query: Query, sessionId: string, before: readonly Entry[], after: readonly Entry[]): Promise<void> {
  const old = new Map(before.map((entry) => [entry.id, entry]));
  const kept = new Set(after.map((entry) => entry.id));
  const gone = before.filter((entry) => !kept.has(entry.id)).map((entry) => entry.id);
  if (gone.length)
    await query('delete from history where session_id = $1 and id in (select jsonb_array_elements_text($2::jsonb))', [
      sessionId,
      JSON.stringify(gone)
    ]);
  for (const entry of after) {
    const was = old.get(entry.id);
    if (was === entry) continue;
    const values = [sessionId, entry.id, entry.label, JSON.stringify(encodeChanges(entry.changes)), entry.undone];
    if (was) await query('update history set label = $3, changes = $4::jsonb, undone = $5 where session_id = $1 and id = $2', values);
    else
      await query('insert into history (session_id, id, label, changes, undone, gesture) values ($1, $2, $3, $4::jsonb, $5, $6)', [
        ...values,
        entry.gesture
      ]);
  }
}

// Print jobs: each renders a frozen revision in a thread of its own, one after another; reports progress, can be cancelled, and is listed
// for good with its files and their proof. A job's files are in a folder of its own.
import { randomUUID } from 'node:crypto';
import { existsSync, renameSync } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { isFileName } from '$core/fileName';
import { withRanges } from '$core/prints/ranges';
import { readOrder, type PlannedFile, type PrintKind, type PrintOrder } from '$core/prints/order';
import { ok, refuse, type Result } from '$core/result';
import { settingsOf } from '$core/session/entities';
import { encodeSession } from '$core/session/tables';
import { filesOf, type Printed } from '$files/prints/job';
import type { Null } from '$files/prints/proof';
import type { Recordings } from '$files/prints/recordings';
import type { Shape } from '$files/prints/report';
import type { Database } from './db/database';
import { DISK_FULL, isDiskFull } from './failures';
import type { MediaStore } from './media';
import { builtFile } from './paths';
import { beginRow, endRow, readJobs, readOnward, readShape, type Ending, type Print, type StoredOnward, type Under } from './printRows';
import type { Reading } from './sessions';
import type { PrintJob, PrintReport } from './threads/print';

export type Prints = {
  readonly list: (sessionId: string) => Promise<Print[]>;
  readonly get: (id: string) => Promise<Print | null>;
  /** Takes a job on, to begin when those before it have ended; `given` is the order as it was sent, or an earlier one. While it is read. */
  readonly start: (state: Reading, given: unknown) => Promise<Result<string>>;
  /** The session and the order of a job, to print it again. */
  readonly asked: (id: string) => Promise<{ readonly sessionId: string; readonly order: unknown } | null>;
  /** Stops a print that runs or waits; refused where there is no print of this id. */
  readonly cancel: (id: string) => Promise<Result<null>>;
  readonly remove: (id: string) => Promise<Result<null>>;
  /** Stops every print of a session that runs or waits. */
  readonly cancelAll: (sessionId: string) => Promise<void>;
  /** Whether no print runs or waits. */
  readonly isIdle: () => boolean;
  /** Recordings that prints under way read, by SHA-256. */
  readonly reading: () => readonly string[];
  /** Removes the folder of a job that is no longer known, once nobody reads it. */
  readonly sweep: (id: string) => Promise<void>;
  /** A finished job's file on disk; `name` is what it is called. */
  readonly file: (id: string, fileId: string) => Promise<{ readonly file: string; readonly name: string } | null>;
  readonly shape: (id: string, fileId: string) => Promise<Shape | null>;
  readonly onward: (id: string) => Promise<StoredOnward | null>;
  /** What is left over of a proof, 60 dB louder, by its place among them. */
  readonly residual: (id: string, place: number) => Promise<{ readonly file: string; readonly name: string } | null>;
  /** Keeps a job's files where they are while they are read, though it be deleted; until what is returned is called. */
  readonly hold: (id: string) => () => void;
  readonly close: () => Promise<void>;
};

export type Surroundings = {
  /** Hears of what went wrong where nobody waits for an answer. */
  readonly failed?: (error: unknown) => void;
  /** What is done with the files of an order that are to come back as tracks; what is said of it. */
  readonly take?: (sessionId: string, order: PrintOrder, printed: Printed, folder: string) => Promise<string[]>;
};

const unknown = () => refuse('not-found', 'There is no print of this id.');
/** How often an end that the database could not take is told it again. */
const RETRY_MS = 1000;
/** Jobs that may wait: each holds a session. */
const MOST_WAITING = 50;

type Waiting = { readonly id: string; readonly sessionId: string; readonly job: PrintJob };
type Running = Waiting & { readonly worker: Worker; share: number; readonly began: number };

/** "6 stems, mix-bus input, mix, 5 versions" */
function summary(files: readonly PlannedFile[]): string {
  const counted = (kind: PrintKind, one: string, many: string) => {
    const own = files.filter((file) => file.kind === kind);
    return own.length === 0 ? [] : [own.length === 1 ? (one === '' ? own[0].name : `${one} ${own[0].name}`) : `${own.length} ${many}`];
  };
  const parts = [
    ...counted('stem', 'stem', 'stems'),
    ...counted('input', '', 'inputs'),
    ...counted('mix', '', 'mixes'),
    ...counted('version', 'version', 'versions'),
    ...counted('chained', '', 'chained stems'),
    ...counted('raw', 'track', 'tracks'),
    ...counted('dry', 'dry', 'dry tracks'),
    ...counted('bus', '', 'buses'),
    ...counted('return', '', 'returns'),
    ...counted('cue', 'cue', 'cues')
  ];
  return parts.join(', ');
}

export async function openPrints(
  directory: string,
  database: Database,
  media: MediaStore,
  { failed = () => {}, take = () => Promise.resolve([]) }: Surroundings = {}
): Promise<Prints> {
  const home = path.join(directory, 'prints');
  for (const each of [home, path.join(directory, 'incoming')]) await mkdir(each, { recursive: true });
  await database.query(
    "update print_job set status = 'interrupted', message = 'Isotaxis was stopped before this print was done. Print again.', finished_at = now() where status = 'running'"
  );
  const folderOf = (id: string) => path.join(home, id);
  /** Where names from the database meet a path: what is not a file of the job's own is not there. */
  const fileIn = (id: string, name: unknown) => (isFileName(name) && isFileName(id) ? { file: path.join(folderOf(id), name), name } : null);
  await tidy(home, database);
  const waiting: Waiting[] = [];
  let running: Running | null = null;
  let closing = false;
  /** How many read a job's files, and jobs whose files go when nobody does any more. */
  const held = new Map<string, number>();
  const leaving = new Set<string>();
  const exists = async (id: string) => (await database.query('select 1 from print_job where id = $1', [id])).length > 0;

  const under = (id: string): Under | undefined => {
    if (running?.id === id) return { before: 0, share: running.share, began: running.began };
    const place = waiting.findIndex((each) => each.id === id);
    return place < 0 ? undefined : { before: place + (running ? 1 : 0), share: 0, began: null };
  };

  const underWay = (): readonly Waiting[] => (running ? [running, ...waiting] : waiting);

  /** The next begins once nothing runs. */
  const advance = () => {
    const next = running || closing ? undefined : waiting.shift();
    if (!next) return;
    const { id, sessionId, job } = next;
    const worker = new Worker(builtFile('threads/print.js'), { workerData: job });
    const own: Running = { ...next, worker, share: 0, began: Date.now() };
    running = own;
    /** The print is over once the database knows; while it is away it is asked again. */
    const end = async (ending: Ending): Promise<void> => {
      try {
        // Nothing comes between what the database knows and what is running: whoever sees the one may begin the next.
        if (ending.status !== 'done') await rm(folderOf(id), { recursive: true, force: true });
        // One whose session went meanwhile is known to nobody: nothing of it stays.
        if (!(await endRow(database, id, ending))) await clear(id);
        if (running === own) running = null;
        advance();
      } catch (error) {
        if (closing) return;
        failed(error);
        setTimeout(() => void end(ending), RETRY_MS);
      }
    };
    const done = async (printed: Printed) => {
      const ending: Ending = { status: 'done', message: '', printed, format: job.order.format };
      if (job.order.take === null) return end(ending);
      try {
        await end({ ...ending, notes: await take(sessionId, job.order, printed, job.folder) });
      } catch (error) {
        failed(error);
        await end({ ...ending, notes: [isDiskFull(error) ? DISK_FULL : 'It could not be brought back as a track. Its file is here.'] });
      }
    };
    worker.on('message', (message: PrintReport) => {
      if (message.kind === 'progress') own.share = message.share;
      else if (message.kind === 'done') void done(message.printed);
      else void end({ status: 'failed', message: message.message });
    });
    worker.on(
      'error',
      (error) => void end({ status: 'failed', message: isDiskFull(error) ? DISK_FULL : `The print stopped: ${error.message}` })
    );
  };

  /** Orders on their way into the queue. */
  let asking = 0;
  const start: Prints['start'] = async (state, given) => {
    const named = withRanges(state.session, given);
    if (!named.ok) return named;
    const order = readOrder(named.value);
    if (!order.ok) return order;
    const files = filesOf(state.session, order.value);
    if (!files.ok) return files;
    if (waiting.length + asking >= MOST_WAITING)
      return refuse('busy', `${MOST_WAITING} prints are waiting already. Wait for some of them, or cancel them.`);
    asking++;
    try {
      return await queue(state, order.value, summary(files.value));
    } finally {
      asking--;
    }
  };

  const queue = async (state: Reading, order: PrintOrder, what: string): Promise<Result<string>> => {
    // The session as it is now, whatever is done to it until its turn comes.
    const document = encodeSession(state.session);
    const { revision } = state;
    const { name, rate } = settingsOf(state.session);
    const recordings: Record<string, Recordings[string]> = {};
    for (const row of [...state.session.media.values()]) {
      const stored = await media.stored(row.sha256);
      if (!stored) return refuse('missing', `The audio of ${row.name} is gone from the store. Import it again.`);
      recordings[row.id] = stored;
    }
    const id = randomUUID();
    const job: PrintJob = {
      document,
      order,
      kernel: builtFile('kernel.wasm'),
      recordings,
      folder: folderOf(id),
      date: new Date().toISOString(),
      thread: builtFile('threads/render.js'),
      ahead: builtFile('threads/ahead.js'),
      keepResiduals: true
    };
    const title = `${name} – ${what}`;
    await beginRow(database, { id, sessionId: state.id, name: title, revision, order, rate: order.rate ?? rate });
    waiting.push({ id, sessionId: state.id, job });
    advance();
    return ok(id);
  };

  const cancel: Prints['cancel'] = async (id) => {
    const place = waiting.findIndex((each) => each.id === id);
    if (place >= 0) waiting.splice(place, 1);
    else if (running?.id === id) await running.worker.terminate();
    else return (await exists(id)) ? ok(null) : unknown();
    // One that ends at this moment is done, and keeps its files.
    if (await endRow(database, id, { status: 'cancelled', message: 'Cancelled.' }))
      await rm(folderOf(id), { recursive: true, force: true });
    if (running?.id === id) running = null;
    advance();
    return ok(null);
  };
  /** The folder of a job that is not known any more, once nobody reads it. */
  const clear = async (id: string): Promise<void> => {
    if (held.has(id)) return void leaving.add(id);
    leaving.delete(id);
    // It may have come back with a backup.
    if (await exists(id)) return;
    if (held.has(id)) return void leaving.add(id);
    const gone = path.join(directory, 'incoming', randomUUID());
    try {
      // At once, so that nothing that comes back meanwhile goes with it.
      renameSync(folderOf(id), gone);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return;
      throw error;
    }
    await rm(gone, { recursive: true, force: true });
  };

  return {
    list: (sessionId) => readJobs(database, 'session_id', sessionId, under),
    get: async (id) => (await readJobs(database, 'id', id, under))[0] ?? null,
    start,
    asked: async (id) => {
      const [row] = await database.query('select session_id, asked from print_job where id = $1', [id]);
      return row ? { sessionId: String(row.session_id), order: row.asked } : null;
    },
    cancel,
    remove: async (id) => {
      const stopped = await cancel(id);
      if (!stopped.ok) return stopped;
      await database.query('delete from print_job where id = $1', [id]);
      await clear(id);
      return ok(null);
    },
    cancelAll: async (sessionId) => {
      for (const { id } of underWay().filter((each) => each.sessionId === sessionId)) await cancel(id);
    },
    isIdle: () => underWay().length === 0,
    reading: () => underWay().flatMap(({ job }) => job.document.media.map(({ sha256 }) => String(sha256))),
    sweep: clear,
    file: async (id, fileId) => {
      const [row] = await database.query('select name from print_file where job_id = $1 and id = $2', [id, fileId]);
      return row ? fileIn(id, row.name) : null;
    },
    shape: (id, fileId) => readShape(database, id, fileId),
    onward: (id) => readOnward(database, id),
    residual: async (id, place) => {
      const [row] = await database.query('select proof from print_job where id = $1', [id]);
      const name = (row?.proof as { nulls?: readonly Null[] } | undefined)?.nulls?.[place]?.residual;
      return fileIn(id, name);
    },
    hold: (id) => {
      held.set(id, (held.get(id) ?? 0) + 1);
      let over = false;
      return () => {
        if (over) return;
        over = true;
        const left = held.get(id)! - 1;
        if (left > 0) return void held.set(id, left);
        held.delete(id);
        if (leaving.has(id)) clear(id).catch(failed);
      };
    },
    close: async () => {
      closing = true;
      await running?.worker.terminate();
    }
  };
}

/** What earlier versions and crashes left: single files go into folders of their jobs, what belongs to no finished job goes. */
async function tidy(home: string, database: Database): Promise<void> {
  const done = new Map(
    (
      await database.query(
        "select print_job.id, print_file.name from print_job left join print_file on job_id = print_job.id where status = 'done'"
      )
    ).map((row) => [String(row.id), row.name as string | null])
  );
  for (const entry of await readdir(home)) {
    const at = path.join(home, entry);
    const id = entry.replace(/\.wav(\.part)?$/, '');
    const name = done.get(id);
    if (entry === id && done.has(id)) {
      for (const inside of await readdir(at)) if (inside.startsWith('.making-')) await rm(path.join(at, inside), { recursive: true });
    } else if (entry === `${id}.wav` && name && !existsSync(path.join(home, id))) {
      await mkdir(path.join(home, id));
      await rename(at, path.join(home, id, name));
    } else await rm(at, { recursive: true, force: true });
  }
}

// Print jobs: each renders a frozen revision in a thread of its own, reports progress, can be cancelled, and is listed for good.
import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { ok, refuse, type Result } from '$core/result';
import { endOf } from '$core/session/select';
import { settingsOf } from '$core/session/entities';
import { encodeSession } from '$core/session/tables';
import { dbOf } from '$core/units';
import type { Database, Row } from './db/database';
import { DISK_FULL, isDiskFull } from './failures';
import type { MediaStore } from './media';
import { builtFile } from './paths';
import type { OpenSession } from './sessions';
import type { Recordings } from '$files/print';
import type { PrintJob, PrintReport } from './threads/print';

export type PrintStatus = 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
export type Print = {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly encoding: 's24' | 'f32';
  readonly status: PrintStatus;
  readonly message: string;
  readonly rate: number;
  readonly frames: number;
  /** dBFS; null is silence. */
  readonly peakDb: number | null;
  /** ISO 8601, UTC. */
  readonly startedAt: string;
  /** 0 … 1 while it runs. */
  readonly share: number;
  /** Seconds still to go, once it can be told. */
  readonly secondsLeft: number | null;
};

export type Prints = {
  readonly list: (sessionId: string) => Promise<Print[]>;
  readonly start: (state: OpenSession, encoding: 's24' | 'f32') => Promise<Result<string>>;
  /** Stops a print that runs; refused where there is no print of this id. */
  readonly cancel: (id: string) => Promise<Result<null>>;
  readonly remove: (id: string) => Promise<Result<null>>;
  readonly file: (id: string) => Promise<{ readonly file: string; readonly name: string } | null>;
  readonly close: () => Promise<void>;
};

const unknown = () => refuse('not-found', 'There is no print of this id.');
/** How often an end that the database could not take is told it again. */
const RETRY_MS = 1000;

type Job = { readonly worker: Worker; share: number; readonly began: number };

/** `failed` hears of what went wrong where nobody waits for an answer. */
export async function openPrints(
  directory: string,
  database: Database,
  media: MediaStore,
  failed: (error: unknown) => void = () => {}
): Promise<Prints> {
  const home = path.join(directory, 'prints');
  await mkdir(home, { recursive: true });
  await database.query(
    "update print set status = 'interrupted', message = 'Isotaxis was stopped during this print. Print again.', finished_at = now() where status = 'running'"
  );
  for (const name of await readdir(home)) if (name.endsWith('.part')) await rm(path.join(home, name));
  const running = new Map<string, Job>();
  const fileOf = (id: string) => path.join(home, `${id}.wav`);
  const exists = async (id: string) => (await database.query('select 1 from print where id = $1', [id])).length > 0;
  /** From the order to the job: one print at a time, however many are asked for at once. */
  let starting = false;
  let closing = false;

  const finish = (id: string, status: PrintStatus, message: string, frames = 0, peak = 0) =>
    database.query(
      `update print set status = $2, message = $3, frames = $4, peak_db = $5::text::double precision, finished_at = now()
       where id = $1 and status = 'running'`,
      [id, status, message, frames, peak > 0 ? String(dbOf(peak)) : '-Infinity']
    );

  const start: Prints['start'] = async (state, encoding) => {
    if (endOf(state.session) === 0) return refuse('empty', 'There is nothing to print yet. Import some audio first.');
    if (starting || running.size >= 1) return refuse('busy', 'A print is running. Wait for it, or cancel it.');
    starting = true;
    try {
      return await begin(state, encoding);
    } finally {
      starting = false;
    }
  };

  const begin: Prints['start'] = async (state, encoding) => {
    const recordings: Record<string, Recordings[string]> = {};
    for (const row of state.session.media.values()) {
      const stored = await media.stored(row.sha256);
      if (!stored) return refuse('missing', `The audio of ${row.name} is gone from the store. Import it again.`);
      recordings[row.id] = stored;
    }
    const id = randomUUID();
    const { name, rate } = settingsOf(state.session);
    await database.query(
      "insert into print (id, session_id, name, revision, encoding, status, rate) values ($1, $2, $3, $4, $5, 'running', $6)",
      [id, state.id, `${name} – mix`, state.revision, encoding, rate]
    );
    const order: PrintJob = {
      document: encodeSession(state.session),
      kernel: builtFile('kernel.wasm'),
      recordings,
      encoding,
      file: fileOf(id),
      date: new Date().toISOString()
    };
    const worker = new Worker(builtFile('threads/print.js'), { workerData: order });
    const job: Job = { worker, share: 0, began: Date.now() };
    running.set(id, job);
    /** The print is over once the database knows; while it is away it is asked again. */
    const end = async (...result: Parameters<typeof finish>): Promise<void> => {
      try {
        await finish(...result);
        running.delete(id);
      } catch (error) {
        if (closing) return;
        failed(error);
        setTimeout(() => void end(...result), RETRY_MS);
      }
    };
    worker.on('message', (message: PrintReport) => {
      if (message.kind === 'progress') job.share = message.share;
      else if (message.kind === 'done') void end(id, 'done', '', message.frames, message.peak);
      else void end(id, 'failed', message.message);
    });
    worker.on('error', (error) => void end(id, 'failed', isDiskFull(error) ? DISK_FULL : `The print stopped: ${error.message}`));
    return ok(id);
  };

  const cancel: Prints['cancel'] = async (id) => {
    const job = running.get(id);
    if (!job) return (await exists(id)) ? ok(null) : unknown();
    await job.worker.terminate();
    running.delete(id);
    await finish(id, 'cancelled', 'Cancelled.');
    await rm(`${fileOf(id)}.part`, { force: true });
    return ok(null);
  };

  return {
    list: async (sessionId) =>
      (
        await database.query(
          `select *, to_char(started_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as started from print where session_id = $1 order by started_at desc`,
          [sessionId]
        )
      ).map((row) => described(row, running.get(String(row.id)))),
    start,
    cancel,
    remove: async (id) => {
      const stopped = await cancel(id);
      if (!stopped.ok) return stopped;
      await database.query('delete from print where id = $1', [id]);
      await rm(fileOf(id), { force: true });
      return ok(null);
    },
    file: async (id) => {
      const [row] = await database.query("select name from print where id = $1 and status = 'done'", [id]);
      return row ? { file: fileOf(id), name: `${String(row.name)}.wav` } : null;
    },
    close: async () => {
      closing = true;
      for (const { worker } of running.values()) await worker.terminate();
    }
  };
}

function described(row: Row, job: Job | undefined): Print {
  const peakDb = Number(row.peak_db);
  const elapsed = job ? (Date.now() - job.began) / 1000 : 0;
  return {
    id: String(row.id),
    name: String(row.name),
    revision: Number(row.revision),
    encoding: row.encoding as Print['encoding'],
    status: row.status as PrintStatus,
    message: String(row.message),
    rate: Number(row.rate),
    frames: Number(row.frames),
    peakDb: Number.isFinite(peakDb) ? peakDb : null,
    startedAt: String(row.started),
    share: job?.share ?? (row.status === 'running' ? 0 : 1),
    secondsLeft: job && job.share > 0.05 ? (elapsed / job.share) * (1 - job.share) : null
  };
}

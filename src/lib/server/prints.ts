// Print jobs: each renders a frozen revision in a thread of its own, reports progress, can be cancelled, and is listed for good with its
// files and their proof. A job's files are in a folder of its own.
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { readOrder, type PlannedFile, type PrintKind, type PrintOrder } from '$core/prints/order';
import { ok, refuse, type Result } from '$core/result';
import { settingsOf } from '$core/session/entities';
import { encodeSession } from '$core/session/tables';
import { filesOf, type Printed } from '$files/prints/job';
import type { Null } from '$files/prints/proof';
import type { Recordings } from '$files/prints/recordings';
import type { Database, Row } from './db/database';
import { DISK_FULL, isDiskFull } from './failures';
import type { MediaStore } from './media';
import { builtFile } from './paths';
import type { OpenSession } from './sessions';
import type { PrintJob, PrintReport } from './threads/print';

export type PrintStatus = 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
export type PrintFile = {
  readonly id: string;
  readonly kind: PrintKind;
  /** With its ending. */
  readonly name: string;
  readonly format: PrintOrder['format'];
  readonly channels: number;
  readonly frames: number;
  readonly bytes: number;
  /** dBFS and dBTP; null is silence. */
  readonly peakDb: number | null;
  readonly truePeakDb: number | null;
  /** LUFS and LU; null where nothing is loud enough to count. */
  readonly lufs: number | null;
  readonly rangeLu: number | null;
  readonly sha256: string;
};
export type Print = {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly order: PrintOrder;
  readonly status: PrintStatus;
  readonly message: string;
  readonly rate: number;
  readonly frames: number;
  /** ISO 8601, UTC. */
  readonly startedAt: string;
  /** 0 … 1 while it runs. */
  readonly share: number;
  /** Seconds still to go, once it can be told. */
  readonly secondsLeft: number | null;
  readonly files: readonly PrintFile[];
  readonly nulls: readonly Null[];
  readonly notes: readonly string[];
};

export type Prints = {
  readonly list: (sessionId: string) => Promise<Print[]>;
  readonly get: (id: string) => Promise<Print | null>;
  /** Begins a job; `given` is the order as it was sent, or an earlier one. */
  readonly start: (state: OpenSession, given: unknown) => Promise<Result<string>>;
  /** The session and the order of a job, to print it again. */
  readonly asked: (id: string) => Promise<{ readonly sessionId: string; readonly order: unknown } | null>;
  /** Stops a print that runs; refused where there is no print of this id. */
  readonly cancel: (id: string) => Promise<Result<null>>;
  readonly remove: (id: string) => Promise<Result<null>>;
  /** A finished job's file on disk; `name` is what it is called. */
  readonly file: (id: string, fileId: string) => Promise<{ readonly file: string; readonly name: string } | null>;
  /** What is left over of a proof, 60 dB louder, by its place among them. */
  readonly residual: (id: string, place: number) => Promise<{ readonly file: string; readonly name: string } | null>;
  readonly close: () => Promise<void>;
};

const unknown = () => refuse('not-found', 'There is no print of this id.');
/** How often an end that the database could not take is told it again. */
const RETRY_MS = 1000;

type Job = { readonly worker: Worker; share: number; readonly began: number };

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
    ...counted('raw', 'track', 'tracks'),
    ...counted('dry', 'dry', 'dry tracks'),
    ...counted('bus', '', 'buses'),
    ...counted('return', '', 'returns'),
    ...counted('cue', 'cue', 'cues')
  ];
  return parts.join(', ');
}

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
    "update print_job set status = 'interrupted', message = 'Isotaxis was stopped during this print. Print again.', finished_at = now() where status = 'running'"
  );
  const folderOf = (id: string) => path.join(home, id);
  await tidy(home, database);
  const running = new Map<string, Job>();
  const exists = async (id: string) => (await database.query('select 1 from print_job where id = $1', [id])).length > 0;
  /** From the order to the job: one print at a time, however many are asked for at once. */
  let starting = false;
  let closing = false;

  const finish = async (id: string, status: PrintStatus, message: string, printed?: Printed, format = ''): Promise<void> => {
    const files = (printed?.files ?? []).map((file, position) => ({
      ...{ id: randomUUID(), position, kind: file.kind, name: file.name, channels: file.channels, frames: file.frames, bytes: file.bytes },
      ...{
        peak_db: finite(file.peakDb),
        true_peak_db: finite(file.truePeakDb),
        lufs: file.lufs,
        range_lu: file.rangeLu,
        sha256: file.sha256
      }
    }));
    const proof = printed ? { nulls: printed.nulls, notes: printed.notes } : {};
    await database.query(
      `with job as (
         update print_job set status = $2, message = $3, frames = $4, rate = coalesce($5, rate), proof = $6::jsonb, finished_at = now()
         where id = $1 and status = 'running' returning id
       )
       insert into print_file (id, job_id, position, kind, name, format, channels, frames, bytes, peak_db, true_peak_db, lufs, range_lu, sha256)
       select file.id, job.id, file.position, file.kind, file.name, $7, file.channels, file.frames, file.bytes, file.peak_db,
         file.true_peak_db, file.lufs, file.range_lu, file.sha256
       from job, jsonb_to_recordset($8::jsonb) as file (id text, position integer, kind text, name text, channels integer, frames bigint,
         bytes bigint, peak_db double precision, true_peak_db double precision, lufs double precision, range_lu double precision, sha256 text)`,
      [id, status, message, files[0]?.frames ?? 0, printed?.rate ?? null, JSON.stringify(proof), format, JSON.stringify(files)]
    );
  };

  const start: Prints['start'] = async (state, given) => {
    const order = readOrder(given);
    if (!order.ok) return order;
    const files = filesOf(state.session, order.value);
    if (!files.ok) return files;
    if (starting || running.size >= 1) return refuse('busy', 'A print is running. Wait for it, or cancel it.');
    starting = true;
    try {
      return await begin(state, order.value, summary(files.value));
    } finally {
      starting = false;
    }
  };

  const begin = async (state: OpenSession, order: PrintOrder, what: string): Promise<Result<string>> => {
    const recordings: Record<string, Recordings[string]> = {};
    for (const row of state.session.media.values()) {
      const stored = await media.stored(row.sha256);
      if (!stored) return refuse('missing', `The audio of ${row.name} is gone from the store. Import it again.`);
      recordings[row.id] = stored;
    }
    const id = randomUUID();
    const { name, rate } = settingsOf(state.session);
    await database.query(
      "insert into print_job (id, session_id, name, revision, asked, status, rate) values ($1, $2, $3, $4, $5::jsonb, 'running', $6)",
      [id, state.id, `${name} – ${what}`, state.revision, JSON.stringify(order), order.rate ?? rate]
    );
    const job: PrintJob = {
      document: encodeSession(state.session),
      order,
      kernel: builtFile('kernel.wasm'),
      recordings,
      folder: folderOf(id),
      date: new Date().toISOString(),
      thread: builtFile('threads/render.js'),
      ahead: builtFile('threads/ahead.js'),
      keepResiduals: true
    };
    const worker = new Worker(builtFile('threads/print.js'), { workerData: job });
    const own: Job = { worker, share: 0, began: Date.now() };
    running.set(id, own);
    /** The print is over once the database knows; while it is away it is asked again. */
    const end = async (...result: Parameters<typeof finish>): Promise<void> => {
      try {
        // Nothing comes between what the database knows and what is running: whoever sees the one may begin the next.
        if (result[1] !== 'done') await rm(folderOf(id), { recursive: true, force: true });
        await finish(...result);
        running.delete(id);
      } catch (error) {
        if (closing) return;
        failed(error);
        setTimeout(() => void end(...result), RETRY_MS);
      }
    };
    worker.on('message', (message: PrintReport) => {
      if (message.kind === 'progress') own.share = message.share;
      else if (message.kind === 'done') void end(id, 'done', '', message.printed, order.format);
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
    await rm(folderOf(id), { recursive: true, force: true });
    return ok(null);
  };

  const jobs = async (where: string, value: string): Promise<Print[]> => {
    const rows = await database.query(
      `select *, to_char(started_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as started from print_job where ${where} = $1 order by started_at desc`,
      [value]
    );
    const files = await database.query(
      `select print_file.* from print_file join print_job on print_job.id = job_id where print_job.${where} = $1 order by print_file.position`,
      [value]
    );
    return rows.map((row) =>
      described(
        row,
        files.filter(({ job_id }) => job_id === row.id),
        running.get(String(row.id))
      )
    );
  };

  return {
    list: (sessionId) => jobs('session_id', sessionId),
    get: async (id) => (await jobs('id', id))[0] ?? null,
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
      await rm(folderOf(id), { recursive: true, force: true });
      return ok(null);
    },
    file: async (id, fileId) => {
      const [row] = await database.query('select name from print_file where job_id = $1 and id = $2', [id, fileId]);
      return row ? { file: path.join(folderOf(id), String(row.name)), name: String(row.name) } : null;
    },
    residual: async (id, place) => {
      const [row] = await database.query('select proof from print_job where id = $1', [id]);
      const name = (row?.proof as { nulls?: readonly Null[] } | undefined)?.nulls?.[place]?.residual;
      return name ? { file: path.join(folderOf(id), name), name } : null;
    },
    close: async () => {
      closing = true;
      for (const { worker } of running.values()) await worker.terminate();
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

const finite = (value: number): number | null => (Number.isFinite(value) ? value : null);
const numberOf = (value: unknown): number | null => (value === null || value === undefined ? null : Number(value));

function described(row: Row, files: readonly Row[], job: Job | undefined): Print {
  const elapsed = job ? (Date.now() - job.began) / 1000 : 0;
  const proof = row.proof as { readonly nulls?: readonly Null[]; readonly notes?: readonly string[] };
  const order = readOrder(row.asked);
  if (!order.ok) throw new Error(order.error.message);
  return {
    id: String(row.id),
    name: String(row.name),
    revision: Number(row.revision),
    order: order.value,
    status: row.status as PrintStatus,
    message: String(row.message),
    rate: Number(row.rate),
    frames: Number(row.frames),
    startedAt: String(row.started),
    share: job?.share ?? (row.status === 'running' ? 0 : 1),
    secondsLeft: job && job.share > 0.05 ? (elapsed / job.share) * (1 - job.share) : null,
    files: files.map((file) => ({
      id: String(file.id),
      kind: file.kind as PrintKind,
      name: String(file.name),
      format: file.format as PrintOrder['format'],
      channels: Number(file.channels),
      frames: Number(file.frames),
      bytes: Number(file.bytes),
      peakDb: numberOf(file.peak_db),
      truePeakDb: numberOf(file.true_peak_db),
      lufs: numberOf(file.lufs),
      rangeLu: numberOf(file.range_lu),
      sha256: String(file.sha256)
    })),
    nulls: proof.nulls ?? [],
    notes: proof.notes ?? []
  };
}

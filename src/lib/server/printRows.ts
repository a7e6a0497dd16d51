// Print jobs and their files as the database keeps them.
import { randomUUID } from 'node:crypto';
import { isAdditive, type About, type FileFacts } from '$core/prints/delivery';
import type { Feed } from '$core/prints/onward';
import { readOrder, type PrintKind, type PrintOrder } from '$core/prints/order';
import type { SessionDocument } from '$core/session/tables';
import type { Printed } from '$files/prints/job';
import type { Null } from '$files/prints/proof';
import type { Shape } from '$files/prints/report';
import type { Database, Row } from './db/database';

export type PrintStatus = 'queued' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
export type PrintFile = FileFacts & {
  readonly id: string;
  readonly kind: PrintKind;
  /** The channel or version; empty of what was printed before this was kept. */
  readonly of: string;
  readonly title: string;
  /** What it is of, in words. */
  readonly made: string;
  /** Whether it and its like add up to the mix-bus input. */
  readonly additive: boolean;
  /** With its ending. */
  readonly name: string;
  readonly format: PrintOrder['format'];
};
export type Print = {
  readonly id: string;
  readonly sessionId: string;
  readonly name: string;
  readonly revision: number;
  readonly order: PrintOrder;
  readonly status: PrintStatus;
  readonly message: string;
  readonly rate: number;
  readonly frames: number;
  /** ISO 8601, UTC. */
  readonly startedAt: string;
  /** Jobs before it, while it waits for them. */
  readonly before: number;
  /** 0 … 1 while it runs. */
  readonly share: number;
  /** Seconds still to go, once it can be told. */
  readonly secondsLeft: number | null;
  readonly files: readonly PrintFile[];
  readonly nulls: readonly Null[];
  readonly notes: readonly string[];
  /** What the session was; null of what was printed before this was kept. */
  readonly about: About | null;
};
export type StoredOnward = { readonly document: SessionDocument; readonly feeds: readonly Feed[]; readonly end: number };

/** What is known of a job that has not ended. */
export type Under = { readonly before: number; readonly share: number; readonly began: number | null };

const JOB = `id, session_id, name, revision, asked, status, message, rate, frames, proof, about,
  to_char(started_at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as started`;
const FILE = `print_file.id, job_id, kind, source_id, title, made, print_file.name, format, channels, print_file.frames, bytes, peak_db,
  true_peak_db, lufs, range_lu, sha256`;

/** Jobs of a session, or one by its id, the latest first; `under` tells of those that have not ended. */
export async function readJobs(
  database: Database,
  where: 'session_id' | 'id',
  value: string,
  under: (id: string) => Under | undefined
): Promise<Print[]> {
  const rows = await database.query(`select ${JOB} from print_job where ${where} = $1 order by started_at desc`, [value]);
  const files = await database.query(
    `select ${FILE} from print_file join print_job on print_job.id = job_id where print_job.${where} = $1 order by print_file.position`,
    [value]
  );
  const byJob = new Map<string, Row[]>(rows.map(({ id }) => [String(id), []]));
  for (const file of files) byJob.get(String(file.job_id))?.push(file);
  return rows.map((row) => described(row, byJob.get(String(row.id)) ?? [], under(String(row.id))));
}

export async function beginRow(
  database: Database,
  job: {
    readonly id: string;
    readonly sessionId: string;
    readonly name: string;
    readonly revision: number;
    readonly order: PrintOrder;
    readonly rate: number;
  }
): Promise<void> {
  const { id, sessionId, name, revision, order, rate } = job;
  await database.query(
    "insert into print_job (id, session_id, name, revision, asked, status, rate) values ($1, $2, $3, $4, $5::jsonb, 'running', $6)",
    [id, sessionId, name, revision, JSON.stringify(order), rate]
  );
}

export type Ending = {
  readonly status: PrintStatus;
  readonly message: string;
  readonly printed?: Printed;
  readonly format?: string;
  /** Said besides what the print says. */
  readonly notes?: readonly string[];
};

/** Ends a job with its files, in one statement: whoever sees that it is done sees all of them. False where it had ended already. */
export async function endRow(
  database: Database,
  id: string,
  { status, message, printed, format = '', notes = [] }: Ending
): Promise<boolean> {
  const files = (printed?.files ?? []).map((file, position) => ({
    ...{ id: randomUUID(), position, kind: file.kind, source_id: file.id, title: file.title, made: file.made, name: file.name },
    ...{ channels: file.channels, frames: file.frames, bytes: file.bytes, sha256: file.sha256, shape: file.shape },
    ...{ peak_db: finite(file.peakDb), true_peak_db: finite(file.truePeakDb), lufs: file.lufs, range_lu: file.rangeLu }
  }));
  const proof = printed ? { nulls: printed.nulls, notes: [...printed.notes, ...notes] } : {};
  const ended = await database.query(
    `with job as (
       update print_job set status = $2, message = $3, frames = $4, rate = coalesce($5, rate), proof = $6::jsonb, about = $9::jsonb,
         onward = $10::jsonb, finished_at = now()
       where id = $1 and status = 'running' returning id
     ), file as (
     insert into print_file (id, job_id, position, kind, source_id, title, made, name, format, channels, frames, bytes, peak_db,
       true_peak_db, lufs, range_lu, sha256, shape)
     select each.id, job.id, each.position, each.kind, each.source_id, each.title, each.made, each.name, $7, each.channels, each.frames,
       each.bytes, each.peak_db, each.true_peak_db, each.lufs, each.range_lu, each.sha256, each.shape
     from job, jsonb_to_recordset($8::jsonb) as each (id text, position integer, kind text, source_id text, title text, made text,
       name text, channels integer, frames bigint, bytes bigint, peak_db double precision, true_peak_db double precision,
       lufs double precision, range_lu double precision, sha256 text, shape jsonb)
     ) select id from job`,
    [
      ...[id, status, message, files[0]?.frames ?? 0, printed?.rate ?? null, JSON.stringify(proof), format, JSON.stringify(files)],
      ...[printed ? JSON.stringify(printed.about) : null, printed ? JSON.stringify(printed.onward) : null]
    ]
  );
  return ended.length > 0;
}

export async function readShape(database: Database, id: string, fileId: string): Promise<Shape | null> {
  const [row] = await database.query('select shape from print_file where job_id = $1 and id = $2', [id, fileId]);
  return (row?.shape as Shape | null | undefined) ?? null;
}

export async function readOnward(database: Database, id: string): Promise<StoredOnward | null> {
  const [row] = await database.query('select onward from print_job where id = $1', [id]);
  return (row?.onward as StoredOnward | null | undefined) ?? null;
}

const finite = (value: number): number | null => (Number.isFinite(value) ? value : null);
const numberOf = (value: unknown): number | null => (value === null || value === undefined ? null : Number(value));

function described(row: Row, files: readonly Row[], under: Under | undefined): Print {
  const elapsed = under?.began ? (Date.now() - under.began) / 1000 : 0;
  const proof = row.proof as { readonly nulls?: readonly Null[]; readonly notes?: readonly string[] };
  const order = readOrder(row.asked);
  if (!order.ok) throw new Error(order.error.message);
  const open = row.status === 'running';
  return {
    id: String(row.id),
    sessionId: String(row.session_id),
    name: String(row.name),
    revision: Number(row.revision),
    order: order.value,
    status: open && under && under.began === null ? 'queued' : (row.status as PrintStatus),
    message: String(row.message),
    rate: Number(row.rate),
    frames: Number(row.frames),
    startedAt: String(row.started),
    before: under?.before ?? 0,
    share: open ? (under?.share ?? 0) : 1,
    secondsLeft: under?.began && under.share > 0.05 ? (elapsed / under.share) * (1 - under.share) : null,
    files: files.map((file) => ({
      id: String(file.id),
      kind: file.kind as PrintKind,
      of: String(file.source_id),
      title: String(file.title),
      made: String(file.made),
      additive: isAdditive(file.kind as PrintKind),
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
    nulls: (proof.nulls ?? []).map((each) => ({ ...each, range: each.range ?? 0 })),
    notes: proof.notes ?? [],
    about: (row.about as About | null | undefined) ?? null
  };
}

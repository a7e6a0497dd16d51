// The tables of a backup, before anything is made of them: every row is what a row of its table may be, every session is one that a package
// could bring, and nothing names what is not there. What has passed is written out anew, a session at a time.
import { appendFileSync, existsSync, writeFileSync } from 'node:fs';
import { mkdir, readdir } from 'node:fs/promises';
import path from 'node:path';
import * as yup from 'yup';
import { sessionOf } from '$core/formats/document';
import { ok, type Result } from '$core/result';
import { columnsOf, encodeSession, tableNames } from '$core/session/tables';
import type { TableName } from '$core/session/entities';
import type { Row } from '../db/database';
import { snake } from '../db/naming';
import { documentRow } from '../db/rows';
import { Refused } from '../failures';
import { rowsOf, spoilt } from './lines';
import { ownTables, SHAPES, type OwnTable } from './shapes';
import { tableFile } from './tables';

export type CheckedSession = {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  /** ISO 8601. */
  readonly changedAt: string;
  readonly removedAt: string | null;
};
export type Checked = {
  /** In their order a session's rows are in `sessionFile(out, place)` and beside it. */
  readonly sessions: readonly CheckedSession[];
  /** Ids of prints that are done. */
  readonly printed: readonly string[];
  /** Names of recordings by SHA-256. */
  readonly recordings: Readonly<Record<string, string>>;
};

/** What `checkTables` writes. */
export const sessionFile = (out: string, place: number): string => path.join(out, `${place}.json`);
export const rowsFile = (out: string, place: number, table: 'history' | 'batch'): string => path.join(out, `${place}.${table}.jsonl`);

const sessionTables = new Map<string, TableName>(tableNames.map((table) => [snake(table), table]));
const columnNames = new Map<string, readonly string[]>(
  tableNames.map((table) => [snake(table), ['session_id', ...Object.keys(columnsOf(table)).map(snake)]])
);
const entryOf = (table: string) => `tables/${tableFile(table)}`;

/** Rows of each session in a file of its own, written in portions. */
function createSpool(out: string) {
  const PORTION = 1 << 20;
  const waiting = new Map<string, { place: number; lines: string[]; length: number }>();
  const flush = (own: { place: number; lines: string[]; length: number }) => {
    appendFileSync(path.join(out, `${own.place}.rows`), own.lines.join(''));
    own.lines = [];
    own.length = 0;
  };
  return {
    begin: (id: string) => waiting.set(id, { place: waiting.size, lines: [], length: 0 }),
    put: (id: string, table: string, row: Row): boolean => {
      const own = waiting.get(id);
      if (!own) return false;
      const line = `${JSON.stringify({ table, row })}\n`;
      own.lines.push(line);
      own.length += line.length;
      if (own.length > PORTION) flush(own);
      return true;
    },
    end: () => waiting.forEach(flush)
  };
}

/** Checks the tables in `folder`, which holds `tables/`'s files, and writes what they hold into `out`. */
export async function checkTables(folder: string, out: string, counts: Readonly<Record<string, number>>): Promise<Result<Checked>> {
  try {
    return ok(await checked(folder, out, counts));
  } catch (error) {
    if (error instanceof Refused) return { ok: false, error: error.refusal };
    throw error;
  }
}

async function checked(folder: string, out: string, counts: Readonly<Record<string, number>>): Promise<Checked> {
  await mkdir(out, { recursive: true });
  const known = new Set([...ownTables, ...sessionTables.keys()].map(tableFile));
  const strange = (await readdir(folder)).find((name) => !known.has(name));
  if (strange !== undefined) throw spoilt(`tables/${strange}`, 'is no table');
  const lacking = [...known].find((name) => !existsSync(path.join(folder, name)));
  if (lacking !== undefined) throw spoilt(`tables/${lacking}`, 'is not in it');

  const sessions: CheckedSession[] = [];
  const spool = createSpool(out);
  const read = async (table: string, each: (row: Row) => void) => {
    let rows = 0;
    for await (const row of rowsOf(path.join(folder, tableFile(table)), entryOf(table))) {
      rows++;
      if (table in SHAPES) fitting(table as OwnTable, row, rows);
      each(row);
    }
    if (counts[table] !== undefined && counts[table] !== rows)
      throw spoilt(entryOf(table), `has ${rows} rows and should have ${counts[table]}`);
  };
  const once = (table: string) => {
    const ids = new Set<string>();
    return (id: string) => {
      if (ids.has(id)) throw spoilt(entryOf(table), `has “${id}” twice`);
      ids.add(id);
      return ids;
    };
  };

  const sessionIds = once('session');
  await read('session', (row) => {
    sessionIds(String(row.id));
    spool.begin(String(row.id));
    sessions.push({
      ...{ id: String(row.id), name: String(row.name), revision: Number(row.revision) },
      ...{ changedAt: String(row.changed_at), removedAt: row.removed_at as string | null }
    });
    spool.put(String(row.id), 'session', row);
  });
  for (const table of ['history', 'batch', ...sessionTables.keys()])
    await read(table, (row) => {
      const columns = columnNames.get(table);
      const names = Object.keys(row);
      const odd = columns && (names.find((name) => !columns.includes(name)) ?? columns.find((name) => !Object.hasOwn(row, name)));
      if (odd !== undefined)
        throw spoilt(entryOf(table), `has a row ${Object.hasOwn(row, odd) ? 'with' : 'without'} “${odd.slice(0, 80)}”`);
      if (!spool.put(String(row.session_id), table, row)) throw spoilt(entryOf(table), 'has a row of a session that is not there');
    });
  spool.end();

  let jobs: ReadonlySet<string> = new Set();
  const jobIds = once('print_job');
  const printed: string[] = [];
  const own = new Set(sessions.map(({ id }) => id));
  const copied = (table: string, row: Row) => appendFileSync(path.join(out, tableFile(table)), `${JSON.stringify(row)}\n`);
  await read('print_job', (row) => {
    jobs = jobIds(String(row.id));
    if (!own.has(String(row.session_id))) throw spoilt(entryOf('print_job'), 'has a print of a session that is not there');
    if (row.status === 'done') printed.push(String(row.id));
    copied('print_job', row);
  });
  const fileIds = once('print_file');
  const fileNames = once('print_file');
  await read('print_file', (row) => {
    fileIds(String(row.id));
    fileNames(`${String(row.job_id)}/${String(row.name)}`);
    if (!jobs.has(String(row.job_id))) throw spoilt(entryOf('print_file'), 'has a file of a print that is not there');
    copied('print_file', row);
  });
  const kept = once('library');
  await read('library', (row) => {
    kept(`${String(row.kind)} ${String(row.name)}`);
    copied('library', row);
  });

  const recordings: Record<string, string> = {};
  const tokens = once('cue_token');
  for (const [place, { name }] of sessions.entries()) {
    const session = await oneSession(out, place, name);
    for (const media of session.media) recordings[String(media.sha256)] ??= String(media.name);
    for (const token of session.cueToken) tokens(String(token.id));
  }
  return { sessions, printed, recordings };
}

function fitting(table: OwnTable, row: Row, place: number): void {
  try {
    SHAPES[table].validateSync(row, { strict: true, abortEarly: true });
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    throw spoilt(entryOf(table), `has in line ${place} a row that is none: ${error.message.slice(0, 300)}`);
  }
}

/** A session's rows as one document through the gate, and its history beside it. */
async function oneSession(out: string, place: number, name: string) {
  const document: Record<string, Row[]> = Object.fromEntries(tableNames.map((table) => [table, []]));
  const files = { history: [] as Row[], batch: [] as Row[] };
  let row: Row = {};
  for await (const line of rowsOf(path.join(out, `${place}.rows`), `rows of “${name}”`)) {
    const { table, row: own } = line as { table: string; row: Row };
    const known = sessionTables.get(table);
    if (known) document[known].push(documentRow(known, own));
    else if (table === 'session') row = own;
    else files[table as keyof typeof files].push(own);
  }
  const read = sessionOf(document);
  if (!read.ok) {
    const table = /\/session\/(\w+)\//.exec(read.error.message)?.[1] ?? /row of (\w+)|rows of (\w+)/.exec(read.error.message)?.[1];
    throw spoilt(
      table && (tableNames as string[]).includes(table) ? entryOf(snake(table)) : 'tables',
      `holds a session, “${name}”, that cannot be one: ${read.error.message}`
    );
  }
  const checked = encodeSession(read.value);
  writeFileSync(sessionFile(out, place), JSON.stringify({ row, document: checked }));
  files.history.sort((a, b) => Number(a.entry) - Number(b.entry));
  for (const table of ['history', 'batch'] as const)
    writeFileSync(rowsFile(out, place, table), files[table].map((each) => `${JSON.stringify(each)}\n`).join(''));
  return checked;
}

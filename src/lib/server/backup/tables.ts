// Whole tables of the database as lines of JSON, one row a line, and back: the same from the embedded database and from a server.
import { createReadStream, existsSync } from 'node:fs';
import { open } from 'node:fs/promises';
import path from 'node:path';
import { createInterface } from 'node:readline';
import type { Query, Row } from '../db/database';

/** Rows at a time. */
const AT_ONCE = 500;
const MOST_CHARACTERS = 4_000_000;
/** What the database keeps of itself. */
const OWN = ['migration'];

export const tableFile = (table: string): string => `${table}.jsonl`;
/** With its schema: a row's type is called as its table, and PostgreSQL has a “point” of its own. */
export const named = (table: string): string => `public."${table}"`;

/** All tables, each after those that it refers to. */
export async function tablesInOrder(query: Query): Promise<string[]> {
  const names = (
    await query("select relname from pg_class where relkind = 'r' and relnamespace = 'public'::regnamespace order by relname")
  ).map(({ relname }) => String(relname));
  const links = await query(
    `select c.relname as of, r.relname as on from pg_constraint k join pg_class c on c.oid = k.conrelid join pg_class r on r.oid = k.confrelid
     where k.contype = 'f' and c.relnamespace = 'public'::regnamespace and k.conrelid <> k.confrelid`
  );
  const order: string[] = [];
  const visit = (table: string, above: readonly string[]): void => {
    if (order.includes(table) || above.includes(table) || OWN.includes(table)) return;
    for (const link of links) if (link.of === table) visit(String(link.on), [...above, table]);
    order.push(table);
  };
  for (const name of names) visit(name, []);
  return order;
}

/** Writes every table into `folder`; rows of each. Call within a transaction: all are of one moment. */
export async function writeTables(query: Query, folder: string): Promise<Record<string, number>> {
  const counts: Record<string, number> = {};
  for (const table of await tablesInOrder(query)) {
    const handle = await open(path.join(folder, tableFile(table)), 'wx');
    try {
      await query(`declare dumped no scroll cursor for select row_to_json(t)::text as line from ${named(table)} t`);
      counts[table] = 0;
      for (let rows: Row[]; (rows = await query(`fetch ${AT_ONCE} from dumped`)).length > 0;) {
        await handle.appendFile(rows.map(({ line }) => `${String(line)}\n`).join(''));
        counts[table] += rows.length;
      }
      await query('close dumped');
    } finally {
      await handle.close();
    }
  }
  return counts;
}

/** The rows of a table's file, some at a time; none where there is no such file: an older Isotaxis had no such table. */
export async function* rowsIn(folder: string, table: string): AsyncGenerator<Row[]> {
  if (!existsSync(path.join(folder, tableFile(table)))) return;
  let lines: string[] = [];
  let length = 0;
  const taken = () => {
    const rows = JSON.parse(`[${lines.join(',')}]`) as Row[];
    lines = [];
    length = 0;
    return rows;
  };
  for await (const line of createInterface({ input: createReadStream(path.join(folder, tableFile(table))), crlfDelay: Infinity })) {
    if (!line) continue;
    lines.push(line);
    length += line.length;
    if (lines.length >= AT_ONCE || length > MOST_CHARACTERS) yield taken();
  }
  if (lines.length) yield taken();
}

/** Writes rows into a table, ids that the database would give included; what is there already is left as it is. */
export async function insertRows(query: Query, table: string, rows: readonly Row[]): Promise<void> {
  if (rows.length === 0) return;
  const columns = Object.keys(rows[0])
    .map((name) => `"${name}"`)
    .join(', ');
  await query(
    `insert into ${named(table)} (${columns}) overriding system value
     select ${columns} from json_populate_recordset(null::${named(table)}, $1::json) on conflict do nothing`,
    [JSON.stringify(rows)]
  );
}

/** Numbers that the database gives go on after those that came in. */
export async function settleNumbers(query: Query): Promise<void> {
  await query(
    "select setval(pg_get_serial_sequence('history', 'entry'), greatest(1, (select coalesce(max(entry), 0) from history) + 1), false)"
  );
}

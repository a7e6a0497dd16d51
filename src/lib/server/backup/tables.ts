// Whole tables of the database as lines of JSON, one row a line, and back: the same from the embedded database and from a server.
import { open } from 'node:fs/promises';
import path from 'node:path';
import type { Query, Row } from '../db/database';

/** Rows at a time. */
const AT_ONCE = 500;
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

/** Writes rows into a table, of these columns and no others; what is there already is left as it is. */
export async function insertRows(query: Query, table: string, columns: readonly string[], rows: readonly Row[]): Promise<void> {
  if (rows.length === 0) return;
  const list = columns.map((name) => `"${name}"`).join(', ');
  await query(
    `insert into ${named(table)} (${list}) overriding system value
     select ${list} from json_populate_recordset(null::${named(table)}, $1::json) on conflict do nothing`,
    [JSON.stringify(rows)]
  );
}

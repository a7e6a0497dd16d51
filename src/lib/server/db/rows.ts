// Rows of a session between memory and SQL, driven by the one description of the tables.
import { columnsOf, decodeSession, encodeFields, idColumns, tableNames, type SessionDocument } from '$core/session/tables';
import type { Change } from '$core/session/changes';
import type { Session, TableName } from '$core/session/entities';
import type { Query, Row } from './database';
import { quoted, snake } from './naming';

const rename = (row: Row, table: TableName): Row =>
  Object.fromEntries(Object.keys(columnsOf(table)).map((name) => [name, row[snake(name)]]));

/** Upserts by whole rows, deletions by key: two statements a table, however many rows. */
const statementsFor = (table: TableName) => {
  const columns = Object.keys(columnsOf(table));
  // With its schema: a row’s type is called as its table, and PostgreSQL has a “point” of its own.
  const name = `public.${quoted(table)}`;
  const keys = idColumns(table);
  const list = columns.map(quoted).join(', ');
  const rest = columns.filter((column) => !keys.includes(column)).map((column) => `${quoted(column)} = excluded.${quoted(column)}`);
  return {
    upsert: `insert into ${name} (session_id, ${list})
             select $1, ${list} from jsonb_populate_recordset(null::${name}, $2::jsonb)
             on conflict (session_id, ${keys.map(quoted).join(', ')}) ${rest.length ? `do update set ${rest.join(', ')}` : 'do nothing'}`,
    remove: `delete from ${name} t using jsonb_populate_recordset(null::${name}, $2::jsonb) gone
             where t.session_id = $1 and ${keys.map((key) => `t.${quoted(key)} = gone.${quoted(key)}`).join(' and ')}`
  };
};
const sql = Object.fromEntries(tableNames.map((table) => [table, statementsFor(table)])) as Record<
  TableName,
  ReturnType<typeof statementsFor>
>;

const asJson = (table: TableName, fields: object): Row =>
  Object.fromEntries(
    Object.entries(encodeFields(table, fields as Row)).map(([name, value]) => [
      snake(name),
      value === '-inf' && columnsOf(table)[name]?.type === 'db' ? '-Infinity' : value
    ])
  );

/** Writes the rows that `changes` touched, as they stand in `session` after the commit. */
export async function writeChanges(query: Query, sessionId: string, session: Session, changes: readonly Change[]): Promise<void> {
  for (const table of tableNames) {
    const mine = changes.filter((change) => change.table === table);
    const kept = [...new Set(mine.map((change) => change.key))].flatMap((key) => session[table].get(key) ?? []);
    const gone = mine.filter((change) => !session[table].has(change.key) && change.before !== null);
    if (kept.length) await query(sql[table].upsert, [sessionId, JSON.stringify(kept.map((row) => asJson(table, row)))]);
    if (gone.length) await query(sql[table].remove, [sessionId, JSON.stringify(gone.map(({ before }) => asJson(table, before!)))]);
  }
}

/** A row as the database has it, as one of a document. */
export function documentRow(table: TableName, row: Row): Row {
  const fields = rename(row, table);
  const columns = columnsOf(table);
  for (const name of Object.keys(fields)) if (columns[name].type === 'db' && fields[name] === '-Infinity') fields[name] = '-inf';
  return fields;
}

/** A session as it stands in the database. */
export async function readSession(query: Query, sessionId: string): Promise<Session> {
  const document: Record<string, Row[]> = {};
  for (const table of tableNames) {
    const rows = await query(`select to_jsonb(t) as row from public.${quoted(table)} t where session_id = $1`, [sessionId]);
    document[table] = rows.map(({ row }) => documentRow(table, row as Row));
  }
  return decodeSession(document as unknown as SessionDocument);
}

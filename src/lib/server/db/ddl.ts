// SQL from the one description of the tables: what a new table is created with, and what migrated ones have to come to. Migrations are
// written by hand, with `npm run sql -- TABLE` as a beginning; a test compares a migrated database with this.
import type { Column, JsonSchema } from '$core/session/column';
import { columnsOf, described, idColumns, tableNames } from '$core/session/tables';
import type { TableName } from '$core/session/entities';
import { quoted, snake } from './naming';

/** Names of all tables, for `npm run sql`. */
export const describedTables: readonly string[] = tableNames;

const LARGEST_INT = 2 ** 31 - 1;
const isWhole = (schema: JsonSchema) =>
  schema.type === 'integer' || ((schema.enum as unknown[] | undefined)?.every((value) => Number.isInteger(value)) ?? false);

export function sqlType({ type, schema }: Column): string {
  if (type === 'text') return 'text';
  if (type === 'bool') return 'boolean';
  if (type === 'json') return 'jsonb';
  if (type === 'db' || !isWhole(schema)) return 'double precision';
  return ((schema.maximum as number | undefined) ?? 0) > LARGEST_INT ? 'bigint' : 'integer';
}

const literal = (value: unknown): string =>
  value === -Infinity
    ? `'-infinity'`
    : typeof value === 'string'
      ? `'${value.replaceAll("'", "''")}'`
      : typeof value === 'object'
        ? `'${JSON.stringify(value)}'`
        : String(value);

/** The condition that a column's values keep, or null where its type says all. */
export function checkOf(name: string, { type, schema, grows }: Column): string | null {
  const x = quoted(name);
  if (type === 'bool' || type === 'json' || grows) return null;
  const parts: string[] = [];
  if (schema.const !== undefined) parts.push(`${x} = ${literal(schema.const)}`);
  if (schema.enum) parts.push(`${x} in (${(schema.enum as unknown[]).map(literal).join(', ')})`);
  if (type === 'text') {
    if (schema.minLength) parts.push(`${x} <> ''`);
    if (schema.maxLength) parts.push(`char_length(${x}) <= ${String(schema.maxLength)}`);
    // Of patterns those that mean the same to PostgreSQL as to JavaScript; the gate checks them all.
    const pattern = schema.pattern as string | undefined;
    if (pattern && !schema.maxLength && !pattern.includes('\\')) parts.push(`${x} ~ ${literal(pattern)}`);
  }
  const range = (type === 'db' ? (schema.anyOf as JsonSchema[])[0] : schema) as Record<string, number | undefined>;
  const { minimum, maximum, exclusiveMaximum, multipleOf } = range;
  const low = minimum === undefined || minimum === -Number.MAX_VALUE ? null : `${x} >= ${minimum}`;
  if (low) parts.push(type === 'db' ? `(${low} or ${x} = '-infinity')` : low);
  if (maximum !== undefined && maximum !== Number.MAX_VALUE) parts.push(`${x} <= ${maximum}`);
  if (exclusiveMaximum !== undefined) parts.push(`${x} < ${exclusiveMaximum}`);
  if (multipleOf !== undefined) parts.push(`${x} % ${multipleOf} = 0`);
  return parts.length ? parts.join(' and ') : null;
}

const columnSql = (name: string, column: Column): string => {
  const check = checkOf(name, column);
  return [
    quoted(name),
    sqlType(column),
    column.nullable ? '' : 'not null',
    column.since && column.default !== null ? `default ${literal(column.default)}` : '',
    check ? `constraint ${snake(name)}_fits check (${check})` : ''
  ]
    .filter(Boolean)
    .join(' ');
};

/** `create table` and its indexes; `schema` is put before the tables' names. */
export function createTable(table: TableName, schema = ''): string[] {
  const { conditions = [], unique } = described(table);
  const named = (name: string) => (schema ? `${schema}.${quoted(name)}` : quoted(name));
  const columns = Object.entries(columnsOf(table));
  const foreign = columns.flatMap(([name, { reference }]) =>
    reference && (reference.removed === 'goes' || reference.removed === 'routed')
      ? [`foreign key (session_id, ${quoted(name)}) references ${named(reference.to)} deferrable initially deferred`]
      : []
  );
  const lines = [
    'session_id text not null references session on delete cascade',
    ...columns.map(([name, column]) => columnSql(name, column)),
    `primary key (session_id, ${idColumns(table).map(quoted).join(', ')})`,
    ...conditions.map((condition) => `check (${condition})`),
    ...foreign
  ];
  return [
    `create table ${named(table)} (\n  ${lines.join(',\n  ')}\n)`,
    ...(unique
      ? [`create unique index ${snake(table)}_${unique.map(snake).join('_')} on ${named(table)} (${unique.map(quoted).join(', ')})`]
      : [])
  ];
}

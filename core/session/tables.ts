// Every table of a session, a line each, and what follows from their descriptions for the wire.
import type { Column, RowOf, Table } from './column.ts';
import { channel } from './tables/channel.ts';
import { clip } from './tables/clip.ts';
import { cueToken } from './tables/cueToken.ts';
import { divider } from './tables/divider.ts';
import { insert } from './tables/insert.ts';
import { lane } from './tables/lane.ts';
import { link } from './tables/link.ts';
import { linkMember } from './tables/linkMember.ts';
import { marker } from './tables/marker.ts';
import { media } from './tables/media.ts';
import { point } from './tables/point.ts';
import { range } from './tables/range.ts';
import { send } from './tables/send.ts';
import { settings } from './tables/settings.ts';
import { showing } from './tables/showing.ts';
import { vcaMember } from './tables/vcaMember.ts';
import { version } from './tables/version.ts';

export const tables = {
  settings,
  channel,
  send,
  insert,
  clip,
  media,
  divider,
  showing,
  cueToken,
  vcaMember,
  link,
  linkMember,
  version,
  marker,
  range,
  lane,
  point
} as const;

export type TableName = keyof typeof tables;
export type Tables = { readonly [T in TableName]: RowOf<(typeof tables)[T]> };
export type Session = { readonly [T in TableName]: Map<string, Tables[T]> };

export const tableNames = Object.keys(tables) as TableName[];

/** A table's description without the types of its rows. */
export const described = (table: TableName): Table => tables[table] as unknown as Table;
export const columnsOf = (table: TableName): Readonly<Record<string, Column>> => described(table).columns;

/** Columns that make up a row's key. */
export const idColumns = (table: TableName): readonly string[] => described(table).key ?? ['id'];

type Fields = Readonly<Record<string, unknown>>;

/** Key of any row in its table's map. A line feed cannot occur in an id. */
export const rowId = <T extends TableName>(table: T, row: Tables[T]): string =>
  idColumns(table)
    .map((name) => (row as Fields)[name])
    .join('\n');

/** All columns of which something holds, as `table.column` pairs by table. */
export const columnsWhere = (holds: (column: Column) => boolean): { readonly [T in TableName]: ReadonlySet<string> } =>
  Object.fromEntries(
    tableNames.map((name) => [
      name,
      new Set(
        Object.entries(columnsOf(name))
          .filter(([, column]) => holds(column))
          .map(([column]) => column)
      )
    ])
  ) as unknown as { readonly [T in TableName]: ReadonlySet<string> };

/** A whole row with a default for each column that it lacks and that rows from before lack. */
const addedDefaults = Object.fromEntries(
  tableNames.map((name) => [
    name,
    Object.fromEntries(
      Object.entries(columnsOf(name))
        .filter(([, { since }]) => since)
        .map(([column, { default: value }]) => [column, value])
    )
  ])
) as Record<TableName, Fields>;
export const completed = (table: TableName, row: Fields): Fields => ({ ...addedDefaults[table], ...row });

/** The version of the document: the last that brought something. */
export const DOCUMENT_VERSION = Math.max(
  1,
  ...tableNames.flatMap((name) => [described(name).since ?? 1, ...Object.values(columnsOf(name)).map(({ since = 1 }) => since)])
);

/** Tables that later versions added. */
export const ADDED_TABLES: readonly TableName[] = tableNames.filter((name) => described(name).since);

type Defaulted<C> = { [N in keyof C]: C[N] extends { readonly default: unknown } ? N : never }[keyof C];
/** What a new row must be given: what has no default; the rest may be. */
export type Given<T extends TableName> = Partial<Tables[T]> & Omit<Tables[T], Defaulted<(typeof tables)[T]['columns']>>;

const defaultsOf = Object.fromEntries(
  tableNames.map((name) => [
    name,
    Object.fromEntries(
      Object.entries(columnsOf(name)).flatMap(([column, { default: value }]) => (value === undefined ? [] : [[column, value]]))
    )
  ])
) as Record<TableName, Fields>;
/** A row with defaults for all that is not given: `newRow('divider', { id: 'd', caption: 'Verse', position: 1 })`. */
export const newRow = <T extends TableName>(table: T, given: Given<T>): Tables[T] =>
  ({ ...defaultsOf[table], ...given }) as unknown as Tables[T];

/** Fields of the moment, as a copy of a row, or a template, begins with them. */
const passingOf = (table: TableName, ...kinds: readonly unknown[]): Fields =>
  Object.fromEntries(
    Object.entries(columnsOf(table)).flatMap(([name, { passing, default: value }]) => (kinds.includes(passing) ? [[name, value]] : []))
  );
export const freshInCopies = (table: TableName): Fields => passingOf(table, 'copies', 'copies and templates');
export const freshInTemplates = (table: TableName): Fields => passingOf(table, 'copies and templates');

const encodeValue = (column: Column | undefined, value: unknown): unknown =>
  column?.type === 'db' && value === -Infinity ? '-inf' : value;
const decodeValue = (column: Column | undefined, value: unknown): unknown =>
  column?.type === 'db' && value === '-inf' ? -Infinity : value;

const mapFields = (table: TableName, row: Fields, each: typeof encodeValue): Record<string, unknown> => {
  const columns = columnsOf(table);
  return Object.fromEntries(Object.entries(row).map(([name, value]) => [name, each(columns[name], value)]));
};

/** A row, or some of its fields, as JSON can carry it. */
export const encodeFields = (table: TableName, row: Fields): Record<string, unknown> => mapFields(table, row, encodeValue);
/** The inverse of `encodeFields`. */
export const decodeFields = (table: TableName, row: Fields): Record<string, unknown> => mapFields(table, row, decodeValue);

/** A session as JSON can carry it: each table a list of rows. */
export type SessionDocument = { readonly [T in TableName]: readonly Record<string, unknown>[] };

export const encodeSession = (session: Session): SessionDocument =>
  Object.fromEntries(
    tableNames.map((table) => [table, [...session[table].values()].map((row) => encodeFields(table, row as Fields))])
  ) as unknown as SessionDocument;

export const decodeSession = (document: SessionDocument): Session =>
  Object.fromEntries(
    tableNames.map((table) => [
      table,
      new Map(
        (document[table] ?? []).map((fields) => {
          const row = decodeFields(table, fields) as unknown as Tables[typeof table];
          return [rowId(table, row), row];
        })
      )
    ])
  ) as unknown as Session;

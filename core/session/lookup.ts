// Look-ups that are made once and then kept up to date by every commit: rows by what a column of theirs holds, and channels in order.
// They belong to a table's map; whoever fills a map by hand does so before the first look.
import type { Session, TableName, Tables } from './tables.ts';

type Row = Readonly<Record<string, unknown>>;
type Rows = Map<string, Row>;
/** Keys of the rows that agree in a column, and the same sorted once somebody asked. */
type Group = { readonly keys: Set<string>; sorted: readonly string[] | null };
type Lookups = {
  /** By column, then by value. */
  readonly groups: Map<string, Map<unknown, Group>>;
  /** Keys by `position` and `born`, of channels; null where that has to be done again. */
  order: readonly string[] | null;
};

const lookups = new WeakMap<Rows, Lookups>();
const rowsOf = (session: Session, table: TableName) => session[table] as unknown as Rows;

function lookupsOf(rows: Rows): Lookups {
  let found = lookups.get(rows);
  if (!found) lookups.set(rows, (found = { groups: new Map(), order: null }));
  return found;
}

const NOBODY: readonly string[] = [];

/**
 * Keys of the rows whose `column` holds `value`, in the order of the keys; O(1) but for the first time.
 * `idsBy(session, 'insert', 'channelId', 'vox')`
 */
export function idsBy<T extends TableName>(
  session: Session,
  table: T,
  column: keyof Tables[T] & string,
  value: unknown
): readonly string[] {
  const rows = rowsOf(session, table);
  const { groups } = lookupsOf(rows);
  let byValue = groups.get(column);
  if (!byValue) {
    groups.set(column, (byValue = new Map()));
    for (const [key, row] of rows) enter(byValue, row[column], key);
  }
  const group = byValue.get(value);
  if (!group) return NOBODY;
  return (group.sorted ??= [...group.keys].sort());
}

/** The keys in no order: of groups of tens of thousands that are put into another order anyway. */
export function keysBy<T extends TableName>(
  session: Session,
  table: T,
  column: keyof Tables[T] & string,
  value: unknown
): Iterable<string> {
  const group = lookupsOf(rowsOf(session, table)).groups.get(column)?.get(value);
  return group ? group.keys : idsBy(session, table, column, value);
}

/** The rows themselves. */
export const rowsBy = <T extends TableName>(session: Session, table: T, column: keyof Tables[T] & string, value: unknown): Tables[T][] =>
  idsBy(session, table, column, value).map((key) => session[table].get(key)!);

/** Ids of all channels by position, equals by birth. */
export function orderedIds(session: Session): readonly string[] {
  const own = lookupsOf(rowsOf(session, 'channel'));
  return (own.order ??= [...session.channel.values()].sort((a, b) => a.position - b.position || a.born - b.born).map(({ id }) => id));
}

function enter(byValue: Map<unknown, Group>, value: unknown, key: string): void {
  const group = byValue.get(value);
  if (!group) byValue.set(value, { keys: new Set([key]), sorted: null });
  else if (!group.keys.has(key)) {
    group.keys.add(key);
    group.sorted = null;
  }
}

function leave(byValue: Map<unknown, Group>, value: unknown, key: string): void {
  const group = byValue.get(value);
  if (!group?.keys.delete(key)) return;
  group.sorted = null;
  if (group.keys.size === 0) byValue.delete(value);
}

/** Tells the look-ups that a row was `before` and is `after`; null where there was or is none. Called by `commit` alone. */
export function moveRow(rows: object, key: string, before: Row | null, after: Row | null): void {
  const own = lookups.get(rows as Rows);
  if (!own) return;
  own.order = null;
  for (const [column, byValue] of own.groups) {
    if (before !== null) leave(byValue, before[column], key);
    if (after !== null) enter(byValue, after[column], key);
  }
}

/** Tells them that some fields of a row changed: most of the time none that anybody looks rows up by. Called by `commit` alone. */
export function moveFields(rows: object, key: string, before: Row, fields: Row): void {
  const own = lookups.get(rows as Rows);
  if (!own) return;
  for (const column in fields) {
    if (column === 'position' || column === 'born') own.order = null;
    const byValue = own.groups.get(column);
    if (!byValue || before[column] === fields[column]) continue;
    leave(byValue, before[column], key);
    enter(byValue, fields[column], key);
  }
}

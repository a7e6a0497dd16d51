// Change sets: a session is only ever changed by committing a list of row changes.
import equal from 'fast-deep-equal';
import type { Session, TableName } from './entities.ts';
import { noteChanges } from './facts.ts';
import { moveFields, moveRow } from './lookup.ts';
import { decodeFields, encodeFields, tableNames } from './tables.ts';

export type Fields = Readonly<Record<string, unknown>>;

/**
 * One row's change. Birth: `before` null, `after` the whole row. Removal: the reverse.
 * Update: both hold just the fields that changed.
 */
export type Change = {
  readonly table: TableName;
  readonly key: string;
  readonly before: Fields | null;
  readonly after: Fields | null;
};

const rowsOf = (session: Session, table: TableName) => session[table] as unknown as Map<string, Fields>;

/** Applies `changes` in place, O(changes); returns the list that takes them back. Look-ups and derived facts follow. */
export function commit(session: Session, changes: readonly Change[]): Change[] {
  for (const { table, key, before, after } of changes) {
    const rows = rowsOf(session, table);
    const was = rows.get(key) ?? null;
    if (before !== null && after !== null && was !== null) {
      rows.set(key, { ...was, ...after });
      moveFields(rows, key, was, after);
      continue;
    }
    if (after === null) rows.delete(key);
    else rows.set(key, after);
    moveRow(rows, key, was, after);
  }
  noteChanges(session, changes);
  return inverse(changes);
}

/** The changes that take `changes` back, last first. */
export const inverse = (changes: readonly Change[]): Change[] =>
  changes.map(({ table, key, before, after }) => ({ table, key, before: after, after: before })).reverse();

/** An update of some fields of a row, or nothing where all of them have these values already. */
export function update(session: Session, table: TableName, key: string, fields: Fields): Change[] {
  const row = rowsOf(session, table).get(key);
  if (!row) return [];
  const names = Object.keys(fields).filter((name) => !same(row[name], fields[name]));
  if (names.length === 0) return [];
  const pick = (from: Fields) => Object.fromEntries(names.map((name) => [name, from[name]]));
  return [{ table, key, before: pick(row), after: pick(fields) }];
}

export const creation = (table: TableName, key: string, row: object): Change => ({
  table,
  key,
  before: null,
  after: row as Fields
});

export const removal = (session: Session, table: TableName, key: string): Change => ({
  table,
  key,
  before: rowsOf(session, table).get(key)!,
  after: null
});

/** Equality of field values: numbers, strings, null, and records and lists of them. */
export const same: (a: unknown, b: unknown) => boolean = equal;

/** The changes that make of one session another, in some tables or in all; rows that are one object cost next to nothing. */
export function differences(from: Session, to: Session, tables: readonly TableName[] = tableNames): Change[] {
  return tables.flatMap((table) => {
    const [was, is] = [rowsOf(from, table), rowsOf(to, table)];
    if (was === is) return [];
    const gone = [...was.keys()].filter((key) => !is.has(key)).map((key) => removal(from, table, key));
    const rest = [...is].flatMap(([key, row]): Change[] => {
      const before = was.get(key);
      return before === row ? [] : before ? update(from, table, key, row) : [creation(table, key, row)];
    });
    return [...gone, ...rest];
  });
}

/** A session of its own with the same rows, so that what is committed to one is not in the other. */
export const fork = (session: Session): Session =>
  ({ ...session, ...Object.fromEntries(tableNames.map((table) => [table, new Map(rowsOf(session, table))])) }) as Session;

/** Whether every field still has the change's `before`, so that the change can be made. */
export const applies = (session: Session, changes: readonly Change[]): boolean =>
  changes.every(({ table, key, before }) => {
    const row = rowsOf(session, table).get(key);
    if (before === null) return row === undefined;
    return row !== undefined && Object.entries(before).every(([name, value]) => same(row[name], value));
  });

/** Two change lists, one after the other, as one list with at most one change a row. */
export function merge(first: readonly Change[], second: readonly Change[]): Change[] {
  const byRow = new Map<string, Change>();
  for (const change of [...first, ...second]) {
    const id = `${change.table}\n${change.key}`;
    const earlier = byRow.get(id);
    if (!earlier) byRow.set(id, change);
    else if (earlier.before === null && change.after === null) byRow.delete(id);
    else byRow.set(id, joined(earlier, change));
  }
  return [...byRow.values()];
}

function joined(first: Change, second: Change): Change {
  const { table, key } = first;
  if (second.after === null) return { table, key, before: { ...second.before, ...first.before }, after: null };
  if (first.before === null) return { table, key, before: null, after: { ...first.after, ...second.after } };
  if (first.after === null) return { table, key, before: first.before, after: second.after };
  return { table, key, before: { ...second.before, ...first.before }, after: { ...first.after, ...second.after } };
}

export const encodeChanges = (changes: readonly Change[]): Change[] => changes.map(mapChange(encodeFields));
export const decodeChanges = (changes: readonly Change[]): Change[] => changes.map(mapChange(decodeFields));

const mapChange =
  (each: typeof encodeFields) =>
  ({ table, key, before, after }: Change): Change => ({
    table,
    key,
    before: before && each(table, before as Record<string, unknown>),
    after: after && each(table, after as Record<string, unknown>)
  });

/** Ids of the lanes that changes touch, by themselves or in their points. */
export const lanesTouched = (changes: readonly Change[]): Set<string> =>
  new Set(changes.flatMap(({ table, key }) => (table === 'point' ? [key.slice(0, key.indexOf('\n'))] : table === 'lane' ? [key] : [])));

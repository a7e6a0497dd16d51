// What follows when channels are removed or copied: told by the references that the tables' descriptions name.
import { creation, removal, update, type Change } from './changes.ts';
import type { Session, TableName } from './entities.ts';
import { idsBy } from './lookup.ts';
import { columnsOf, idColumns, rowId, tableNames } from './tables.ts';
import type { Reference } from './column.ts';

type Referring = Reference & { readonly table: TableName; readonly column: string };
type Row = Readonly<Record<string, unknown>>;

const REFERENCES: readonly Referring[] = tableNames.flatMap((table) =>
  Object.entries(columnsOf(table)).flatMap(([column, { reference }]) => (reference ? [{ ...reference, table, column }] : []))
);
const rowOf = (session: Session, table: TableName, key: string) => session[table].get(key) as unknown as Row;
const keysNaming = (session: Session, { table, column }: Referring, id: string) => idsBy(session, table, column as never, id);

/** Removals of all rows that go with channels, and updates of lists that they leave; the channels themselves are left to the caller. */
export function removedWith(session: Session, gone: ReadonlySet<string>): Change[] {
  const removed = new Map<TableName, Set<string>>();
  const changes: Change[] = [];
  const remove = (table: TableName, key: string) => {
    const keys = removed.get(table) ?? new Set();
    if (keys.has(key)) return;
    removed.set(table, keys.add(key));
    changes.push(removal(session, table, key));
  };
  const toChannels = REFERENCES.filter(({ to }) => to === 'channel');
  for (const reference of toChannels.filter((each) => each.removed === 'goes'))
    for (const id of gone) for (const key of keysNaming(session, reference, id)) remove(reference.table, key);
  for (const { table, column } of toChannels.filter((each) => each.removed === 'leaves'))
    for (const [key, row] of session[table] as ReadonlyMap<string, object>) {
      const list = (row as Row)[column] as readonly string[] | null;
      const left = list?.filter((id) => !gone.has(id)) ?? null;
      if (left?.length === 0) remove(table, key);
      else if (left && left.length < list!.length) changes.push(...update(session, table, key, { [column]: left }));
    }
  // What is counted goes with the last that names it.
  for (const reference of REFERENCES.filter(({ counted }) => counted)) {
    const keys = removed.get(reference.table) ?? new Set<string>();
    const named = new Set([...keys].map((key) => rowOf(session, reference.table, key)[reference.column] as string));
    for (const id of named) if (keysNaming(session, reference, id).every((key) => keys.has(key))) remove(reference.to as TableName, id);
  }
  return changes;
}

/**
 * Births of copies of all rows that stand on channels, for copies of these: `copyOf` says of each its copy. References within what is
 * copied stay within it. `nameOf` makes an id of the copy's channel, the row and a running number.
 */
export function copiedWith(
  session: Session,
  copyOf: ReadonlyMap<string, string>,
  {
    without = [],
    nameOf = (channelId, table, _row, count) => `${channelId}:${table[0]}${count}`
  }: {
    readonly without?: readonly TableName[];
    readonly nameOf?: (channelId: string, table: TableName, row: Row, count: number) => string;
  } = {}
): Change[] {
  const changes: Change[] = [];
  let count = 0;
  for (const owner of REFERENCES.filter(({ copied, table }) => copied === 'with' && !without.includes(table)))
    for (const [id, copy] of copyOf)
      for (const key of keysNaming(session, owner, id)) {
        const row = rowOf(session, owner.table, key);
        const own: Record<string, unknown> = { ...row, ...within(owner.table, row, copyOf), [owner.column]: copy };
        if (idColumns(owner.table).includes('id')) own.id = nameOf(copy, owner.table, row, count++);
        changes.push(creation(owner.table, rowId(owner.table, own as never), own));
      }
  return changes;
}

/** Fields of a row that name what is copied too, naming the copies. */
export function within(table: TableName, row: object, copyOf: ReadonlyMap<string, string>): Row {
  const fields: Record<string, unknown> = {};
  for (const { table: own, column, copied } of REFERENCES) {
    const named = copied === 'within' && own === table ? copyOf.get((row as Row)[column] as string) : undefined;
    if (named !== undefined) fields[column] = named;
  }
  return fields;
}

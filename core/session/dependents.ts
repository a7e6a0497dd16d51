// What follows when rows are removed or copied, of whatever table and however many steps away: told by the references that the tables'
// descriptions name.
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

/**
 * Removals of all rows that go with rows of a table, channels if nothing is said, and updates of lists that they leave; the rows
 * themselves are left to the caller.
 */
export function removedWith(session: Session, gone: ReadonlySet<string>, from: TableName = 'channel'): Change[] {
  const removed = new Map<TableName, Set<string>>();
  const changes: Change[] = [];
  const remove = (table: TableName, key: string): boolean => {
    const keys = removed.get(table) ?? new Set();
    if (keys.has(key) || (table === from && gone.has(key))) return false;
    removed.set(table, keys.add(key));
    changes.push(removal(session, table, key));
    return true;
  };
  const queue: { readonly to: TableName; readonly ids: Iterable<string> }[] = [{ to: from, ids: gone }];
  for (const { to, ids } of queue)
    for (const reference of REFERENCES.filter((each) => each.to === to && each.removed === 'goes'))
      for (const id of ids) {
        const keys = [...keysNaming(session, reference, id)].filter((key) => remove(reference.table, key));
        if (keys.length) queue.push({ to: reference.table, ids: keys });
      }
  for (const { table, column } of REFERENCES.filter(({ to, removed: how }) => to === from && how === 'leaves'))
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
 * Creations of copies of all rows that stand on channels, and on what is copied with these: `copyOf` says of each channel its copy.
 * References within what is copied stay within it. `nameOf` makes an id of the owner's copy, the row and a running number.
 */
export function copiedWith(
  session: Session,
  copyOf: ReadonlyMap<string, string>,
  {
    without = [],
    nameOf = (ownerId, table, _row, count) => `${ownerId}:${table[0]}${count}`
  }: {
    readonly without?: readonly TableName[];
    readonly nameOf?: (ownerId: string, table: TableName, row: Row, count: number) => string;
  } = {}
): Change[] {
  const changes: Change[] = [];
  const copies = new Map<TableName, Map<string, string>>([['channel', new Map(copyOf)]]);
  let count = 0;
  for (const [to, made] of copies)
    for (const owner of REFERENCES.filter((each) => each.to === to && each.copied === 'with' && !without.includes(each.table))) {
      const fresh = copies.get(owner.table) ?? new Map<string, string>();
      for (const [id, copy] of made)
        for (const key of keysNaming(session, owner, id)) {
          const row = rowOf(session, owner.table, key);
          const own: Record<string, unknown> = { ...row, ...within(owner.table, row, copies), [owner.column]: copy };
          if (idColumns(owner.table).includes('id')) own.id = nameOf(copy, owner.table, row, count++);
          const copied = rowId(owner.table, own as never);
          changes.push(creation(owner.table, copied, own));
          fresh.set(key, copied);
        }
      copies.set(owner.table, fresh);
    }
  return changes;
}

/** Fields of a row that name what is copied too, naming the copies; these by table. */
export function within(table: TableName, row: object, copies: ReadonlyMap<TableName, ReadonlyMap<string, string>>): Row {
  const fields: Record<string, unknown> = {};
  for (const { table: own, to, column, copied } of REFERENCES) {
    if (copied !== 'within' || own !== table) continue;
    const named = copies.get(to as TableName)?.get((row as Row)[column] as string);
    if (named !== undefined) fields[column] = named;
  }
  return fields;
}

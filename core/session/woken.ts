// Whom a list of changes wakes: what of a page, and which derived facts, have to be looked at again.
import type { Aspect } from './column.ts';
import type { Change } from './changes.ts';
import type { Session, TableName } from './entities.ts';
import { columnsOf, columnsWhere, described, tableNames } from './tables.ts';
import { withHeld } from './vcas.ts';

const ROUTING = columnsWhere(({ routing }) => routing === 'always');
const SILENCE = columnsWhere(({ routing }) => routing === 'silence');
const SHOWN = Object.fromEntries(
  tableNames.map((table) => [
    table,
    new Map(Object.entries(columnsOf(table)).flatMap(([name, { shown }]) => (shown ? [[name, shown] as const] : [])))
  ])
) as unknown as Record<TableName, ReadonlyMap<string, readonly Aspect[]>>;

/** The aspects of a session that changes touch. */
export function woken(changes: Iterable<Change>): Set<Aspect> {
  const found = new Set<Aspect>();
  /** Points that came, less those that went: by a drag there are neither more nor fewer. */
  let points = 0;
  for (const { table, before, after } of changes) {
    if (table === 'point') {
      points += Number(before === null) - Number(after === null);
      if (decides(before?.value) || decides(after?.value)) found.add('routing');
    }
    const { shown = [], always = [] } = described(table);
    for (const aspect of always) found.add(aspect);
    if (before === null || after === null) for (const aspect of shown) found.add(aspect);
    else
      for (const name of Object.keys(after)) {
        for (const aspect of SHOWN[table].get(name) ?? []) found.add(aspect);
        if (ROUTING[table].has(name)) found.add('routing');
        if (SILENCE[table].has(name) && (after[name] === -Infinity) !== (before[name] === -Infinity)) found.add('routing');
      }
  }
  if (points !== 0) found.add('routing');
  return found;
}
/** Whether a point's value can decide who is heard: −∞, and what switches say. */
const decides = (value: unknown): boolean => value === -Infinity || value === 0 || value === 1;

/** By table, the column that says on which channel a row stands: it is copied with that channel. */
const OWNER = Object.fromEntries(
  tableNames.map((table) => [
    table,
    Object.keys(columnsOf(table)).find((name) => {
      const reference = columnsOf(table)[name].reference;
      return reference?.to === 'channel' && reference.copied === 'with';
    })
  ])
) as Record<TableName, string | undefined>;

/** What is woken of single rows: each changed row by itself, and all rows of its table on the same channel. */
export const rowSignal = (table: TableName, key: string): string => `${table} ${key}`;
export const ownedSignal = (table: TableName, channelId: string): string => `${table} of ${channelId}`;

/** The signals of rows that changes touch; `session` is as it is with them. */
export function rowsWoken(session: Session, changes: Iterable<Change>): Set<string> {
  const found = new Set<string>();
  for (const { table, key, before, after } of changes) {
    found.add(rowSignal(table, key));
    // What a VCA does, or who is in it, is seen on everything beneath it.
    const moved = table === 'vcaMember' ? ((after ?? before)!.channelId as string) : key;
    if (table === 'vcaMember' || (table === 'channel' && session.channel.get(key)?.kind === 'vca'))
      for (const id of withHeld(session, [moved])) found.add(rowSignal('channel', id));
    const owner = OWNER[table];
    if (!owner) continue;
    const now = session[table].get(key) as Readonly<Record<string, unknown>> | undefined;
    for (const id of [before?.[owner], after?.[owner], now?.[owner]]) if (typeof id === 'string') found.add(ownedSignal(table, id));
  }
  return found;
}

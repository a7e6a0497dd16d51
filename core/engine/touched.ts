// What a list of changes means for a running plan: a new shape, other edges open, or just some values.
import type { Change } from '../session/changes.ts';
import type { TableName } from '../session/entities.ts';

/** Fields that decide the plan's shape, by table. */
const SHAPE: Partial<Record<TableName, readonly string[]>> = {
  channel: ['outputId', 'outputPair', 'width', 'born', 'resting', 'panRight', 'spread'],
  send: ['tap', 'mono'],
  insert: ['keyId', 'keyTap', 'position', 'type']
};
/** Fields that decide what is open or how everything is read. */
const OPEN: Partial<Record<TableName, readonly string[]>> = {
  channel: ['mute', 'solo', 'soloSafe'],
  insert: ['bypass'],
  settings: ['panLaw', 'muteClosesPre', 'muteClosesCue', 'soloDimDb', 'bpm', 'beatsPerBar']
};

export type Touched = {
  readonly shape: boolean;
  readonly open: boolean;
  readonly clips: boolean;
  readonly patterns: boolean;
  readonly tempo: boolean;
  readonly channels: ReadonlySet<string>;
  readonly sends: ReadonlySet<string>;
  readonly inserts: ReadonlySet<string>;
};

export function touchedBy(changes: readonly Change[]): Touched {
  const keys = (table: TableName) => new Set(changes.flatMap((change) => (change.table === table ? [change.key] : [])));
  const any = (fields: typeof SHAPE) =>
    changes.some(({ table, after }) => after !== null && (fields[table] ?? []).some((field) => Object.hasOwn(after, field)));
  const born = changes.some(({ table, before, after }) => table in SHAPE && (before === null || after === null));
  // A send's pan is a value, but having one of its own or not is a matter of shape.
  const ownPan = changes.some(
    ({ table, before, after }) => table === 'send' && before && after && (before.pan === null) !== (after.pan === null)
  );
  // How late an outside device comes is a parameter of its own.
  const later = changes.some(({ table, before, after }) => table === 'insert' && latencyOf(before) !== latencyOf(after));
  const shape = born || ownPan || later || any(SHAPE);
  return {
    shape,
    open: shape || any(OPEN),
    clips: keys('clip').size > 0,
    patterns: changes.some(({ table, after }) => table === 'channel' && after !== null && 'pattern' in after),
    tempo: changes.some(({ table, after }) => table === 'settings' && after !== null && ('bpm' in after || 'beatsPerBar' in after)),
    channels: keys('channel'),
    sends: keys('send'),
    inserts: keys('insert')
  };
}

const latencyOf = (fields: Change['after']) => (fields?.params as Record<string, number> | undefined)?.latency;

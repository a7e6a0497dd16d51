// What a list of changes means for a running plan: a new shape, other edges open, or just some values.
import { LATENCY_PARAMS } from '../processors/index.ts';
import { lanesTouched, type Change } from '../session/changes.ts';
import type { Sound } from '../session/column.ts';
import type { TableName } from '../session/entities.ts';
import { columnsWhere } from '../session/tables.ts';

/** Columns by what a change of them is to a running plan. */
const by = (...sounds: readonly Sound[]) => columnsWhere(({ sound }) => sound !== undefined && sounds.includes(sound));
const SHAPE = by('shape');
const OPEN = by('open', 'tempo');
const OWN = by('own');
const CLIPS = by('clips');
const PATTERN = by('pattern');
const TEMPO = by('tempo');

export type Touched = {
  readonly shape: boolean;
  readonly open: boolean;
  readonly clips: boolean;
  readonly patterns: boolean;
  readonly tempo: boolean;
  readonly channels: ReadonlySet<string>;
  readonly sends: ReadonlySet<string>;
  readonly inserts: ReadonlySet<string>;
  /** Lanes that came, went or go another way. */
  readonly lanes: ReadonlySet<string>;
  /** Channels of those that came or went. */
  readonly owners: ReadonlySet<string>;
};

export function touchedBy(changes: readonly Change[]): Touched {
  const keys = (table: TableName) => new Set(changes.flatMap((change) => (change.table === table ? [change.key] : [])));
  const any = (columns: typeof SHAPE) =>
    changes.some(({ table, after }) => after !== null && Object.keys(after).some((name) => columns[table].has(name)));
  const came = (columns: typeof SHAPE) =>
    changes.some(({ table, before, after }) => columns[table].size > 0 && (before === null || after === null));
  const born = came(SHAPE);
  // A send's pan is a value, but having one of its own or not is a matter of shape.
  const owned = changes.some(
    ({ table, before, after }) =>
      before && after && Object.keys(after).some((name) => OWN[table].has(name) && (before[name] === null) !== (after[name] === null))
  );
  // How late some processors are is a parameter of theirs.
  const later = changes.some(({ table, before, after }) => table === 'insert' && latencyOf(before) !== latencyOf(after));
  const shape = born || owned || later || any(SHAPE);
  return {
    shape,
    open: shape || any(OPEN) || came(OPEN),
    clips: any(CLIPS) || came(CLIPS),
    patterns: any(PATTERN),
    tempo: any(TEMPO),
    channels: keys('channel'),
    sends: keys('send'),
    inserts: keys('insert'),
    lanes: lanesTouched(changes),
    owners: new Set(
      changes.flatMap(({ table, before, after }) => {
        const owner = table === 'lane' ? (after?.channelId ?? before?.channelId) : undefined;
        return typeof owner === 'string' ? [owner] : [];
      })
    )
  };
}

const latencyOf = (fields: Change['after']) => {
  const params = fields?.params as Record<string, number> | undefined;
  return LATENCY_PARAMS.map((name) => params?.[name]).join();
};

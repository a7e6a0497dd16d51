// Four channels to a register: which inserts share an instance, and in which of its lanes they are.
import { isMono, type Builder, type Entry, type Pair } from './processor.ts';

export type Lane = { readonly entry: Entry; readonly from: number; readonly to: number; readonly key: number };

/**
 * Stereo first, so that two sides are always lanes 0 and 1 or 2 and 3; then first fit, four lanes a group. A mono signal with a
 * key of two sides takes two lanes, whose results are made one again.
 */
export function packLanes(builder: Builder, entries: readonly Entry[]): { groups: Lane[][]; results: Pair[] } {
  const sidesOf = ({ pair, key }: Entry) => (isMono(pair) && isMono(key ?? pair) ? 1 : 2);
  const results = new Map<Entry, Pair>();
  const groups: Lane[][] = [];
  for (const entry of entries.toSorted((a, b) => sidesOf(b) - sidesOf(a))) {
    const sides = sidesOf(entry);
    const to = Array.from({ length: sides }, builder.buffer);
    results.set(entry, [to[0], to.at(-1)!]);
    const lanes = to.map((address, side): Lane => ({
      entry,
      from: entry.pair[side],
      to: address,
      key: (entry.key ?? entry.pair)[side]
    }));
    const fits = groups.find((group) => group.length + sides <= 4);
    if (fits) fits.push(...lanes);
    else groups.push(lanes);
  }
  return { groups, results: entries.map((entry) => results.get(entry)!) };
}

/** A group's lane numbers by insert. */
export const lanesOf = (group: readonly Lane[], entry: Entry): number[] => group.flatMap((lane, i) => (lane.entry === entry ? [i] : []));

/** The lane that the `i`-th of an insert goes on from: of one that was mono both sides do. */
export const laneBefore = (before: readonly number[], i: number): number => before[Math.min(i, before.length - 1)];

export const entriesOf = (group: readonly Lane[]): Entry[] => [...new Set(group.map((lane) => lane.entry))];

/** Words of an op on four lanes: code, four in, four out, instance. */
export const laneOp = ({ silence, trash }: Builder, code: number, group: readonly Lane[], at: number): number[] => [
  code,
  ...[0, 1, 2, 3].map((i) => group[i]?.from ?? silence),
  ...[0, 1, 2, 3].map((i) => group[i]?.to ?? trash),
  at
];

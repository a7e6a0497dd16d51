// Four channels to a register: which inserts share an instance, and in which of its lanes they are.
import { isMono, type Builder, type Entry, type Pair, type Standing } from './processor.ts';

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

/**
 * Where a group's signals stand: where the same four stood side by side already when they left the processor before, nothing else reads
 * them there, and the way through planar buffers is spared on both sides.
 */
export function standing(builder: Builder, group: readonly Lane[]): Standing {
  const name = (side: 'from' | 'to') => [0, 1, 2, 3].map((i) => group[i]?.[side]).join();
  const own: Standing = { lanes: 0, gathers: true, scatters: true };
  const before = group.every(({ from, key }) => key === from) ? builder.stood.get(name('from')) : undefined;
  if (before) {
    before.lanes ||= builder.lanes();
    Object.assign(before, { scatters: false });
    Object.assign(own, { lanes: before.lanes, gathers: false });
  }
  builder.stood.set(name('to'), own);
  return own;
}

const NONE = [0, 0, 0, 0];
/** Four addresses that a group comes from, and four that it goes to; zeros where it stands in lanes. */
export const sourcesOf = ({ silence }: Builder, group: readonly Lane[], { gathers }: Standing): number[] =>
  NONE.map((none, i) => (gathers ? (group[i]?.from ?? silence) : none));
export const resultsOf = ({ trash }: Builder, group: readonly Lane[], { scatters }: Standing): number[] =>
  NONE.map((none, i) => (scatters ? (group[i]?.to ?? trash) : none));

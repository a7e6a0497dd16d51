// Strips of a level that are emitted together. Few at a time, so that what one op leaves is still near when the next one wants it; but
// processors work on four signals at once, two of them side by side, so that those with the same inserts go by eights.
import type { Strip } from '../topology.ts';

const MOST = 8;
const sidesOf = ({ channel }: Strip): number => channel.width;

/**
 * Eights (fours in stereo) of strips with the same types of inserts, in their order; then what is left over of all of them, together.
 * 20 mono strips with an equaliser and 3 with none: 8, 8, 4 and 3.
 */
export function batchesOf(level: readonly Strip[]): Strip[][] {
  const open = new Map<string, Strip[]>();
  const full: Strip[][] = [];
  for (const strip of level) {
    const key = strip.inserts.map(({ type }) => type).join();
    const group = open.get(key) ?? [];
    const sides = group.reduce((sum, each) => sum + sidesOf(each), sidesOf(strip));
    if (sides <= MOST) open.set(key, [...group, strip]);
    else {
      full.push(group);
      open.set(key, [strip]);
    }
  }
  const plain = open.get('') ?? [];
  open.delete('');
  return [...full, plain, [...open.values()].flat()].filter((batch) => batch.length > 0);
}

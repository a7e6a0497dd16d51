// Which stems hold something of another's tracks: what of a stem goes on sounding in a version that leaves it out.
import { fact } from '../session/facts.ts';
import type { Session } from '../session/entities.ts';
import { reach } from '../routing/graph.ts';
import { flowOf } from './flow.ts';
import { homeOf, stemsOf } from './soundness.ts';

/** By stem, the other stems in which its own tracks have a part. `sharesOf(session).get('voices')` → `['effects']` */
export function sharesOf(session: Session): ReadonlyMap<string, readonly string[]> {
  const stems = stemsOf(session);
  const isStem = new Set(stems.map(({ id }) => id));
  const flow = flowOf(session);
  const next = (id: string) => (isStem.has(id) ? [] : (flow.from.get(id) ?? []).map(({ to }) => to));
  const shares = new Map<string, Set<string>>(stems.map(({ id }) => [id, new Set()]));
  for (const id of flow.sources) {
    const home = homeOf(session, id, isStem);
    if (home === null || home === id) continue;
    for (const station of reach([id], next)) if (isStem.has(station) && station !== home) shares.get(home)!.add(station);
  }
  return new Map([...shares].map(([id, others]) => [id, stems.flatMap((stem) => (others.has(stem.id) ? [stem.id] : []))]));
}

/** The same, worked out once a revision. */
export const shares = fact(['routing', 'clips'], sharesOf);

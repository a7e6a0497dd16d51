// What a selection touches: everything before and after it.
import { keyEdges } from '../routing/graph.ts';
import type { Session } from '../session/entities.ts';

/** A selection with all that it touches: everything before and after it along outputs, sends and keys. */
export function touchedBy(session: Session, selected: ReadonlySet<string>): Set<string> {
  const next = new Map<string, Set<string>>();
  const before = new Map<string, Set<string>>();
  const link = (from: string, to: string) => {
    (next.get(from) ?? next.set(from, new Set()).get(from)!).add(to);
    (before.get(to) ?? before.set(to, new Set()).get(to)!).add(from);
  };
  for (const { id, outputId } of session.channel.values()) if (outputId !== null) link(id, outputId);
  for (const { sourceId, targetId } of session.send.values()) link(sourceId, targetId);
  for (const { from, to } of keyEdges(session)) link(from, to);
  const found = new Set(selected);
  for (const along of [next, before]) {
    const queue = [...selected];
    const seen = new Set(queue);
    for (let head = 0; head < queue.length; head++)
      for (const there of along.get(queue[head]) ?? [])
        if (!seen.has(there)) {
          seen.add(there);
          found.add(there);
          queue.push(there);
        }
  }
  return found;
}

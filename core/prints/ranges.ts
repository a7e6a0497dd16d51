// Ranges of an order that are said by their names in the session.
import { ok, refuse, type Result } from '../result.ts';
import { called } from '../session/called.ts';
import type { Range, Session } from '../session/entities.ts';

/** The session's first range that a name means; an id will do too. */
export const rangeNamed = (session: Session, name: string): Range | undefined => called(session.range.values(), name)[0];

/**
 * An order, as it was given, with the frames of each range that has only a name: `{ ranges: [{ name: 'Chorus' }] }`. What is otherwise
 * wrong with it `readOrder` says.
 */
export function withRanges(session: Session, given: unknown): Result<unknown> {
  const list = (given as { ranges?: unknown } | null)?.ranges;
  if (!Array.isArray(list)) return ok(given);
  const ranges: unknown[] = [];
  for (const each of list as unknown[]) {
    const { name, from, to } = (each ?? {}) as { name?: unknown; from?: unknown; to?: unknown };
    if (typeof name !== 'string' || from !== undefined || to !== undefined) {
      ranges.push(each);
      continue;
    }
    const range = rangeNamed(session, name);
    if (!range) {
      const known = [...session.range.values()].map((row) => `“${row.name}”`);
      const there = known.length ? `There are ${known.join(', ')}.` : 'The session has no ranges yet.';
      return refuse('not-found', `There is no range called “${name}”. ${there}`, { name });
    }
    ranges.push({ name: range.name, from: range.start, to: range.start + range.length });
  }
  return ok({ ...(given as object), ranges });
}

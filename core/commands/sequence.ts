// Steps planned one upon another inside one command.
import { ok, type Result } from '../result.ts';
import { commit, merge, type Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';

/** The changes of all steps as one list; each step sees what those before it did. The session is left as it was. */
export function inSequence<T>(session: Session, steps: Iterable<T>, each: (step: T) => Result<Change[]>): Result<Change[]> {
  const undo: Change[][] = [];
  let changes: Change[] = [];
  try {
    for (const step of steps) {
      const planned = each(step);
      if (!planned.ok) return planned;
      undo.push(commit(session, planned.value));
      changes = merge(changes, planned.value);
    }
  } finally {
    for (const back of undo.reverse()) commit(session, back);
  }
  return ok(changes);
}

// One named history per session: which entry is undone or redone next, and how moves of one gesture become one entry.
import { ok, refuse, type Result } from '../result.ts';
import { applies, inverse, merge, type Change } from './changes.ts';
import type { Session } from './entities.ts';

export type Entry = {
  readonly id: string;
  /** Moves with the same gesture, one right after the other, are one entry. */
  readonly gesture: string | null;
  readonly label: string;
  readonly changes: readonly Change[];
  readonly undone: boolean;
};

/** What the page shows: the next entry in each direction. */
export type Outlook = {
  readonly undo: { readonly id: string; readonly label: string } | null;
  readonly redo: { readonly id: string; readonly label: string } | null;
};

/** `entries` oldest first; undone ones stand at the end. */
export const outlook = (entries: readonly Entry[]): Outlook => {
  const brief = (entry: Entry | undefined) => (entry ? { id: entry.id, label: entry.label } : null);
  return { undo: brief(entries.findLast((entry) => !entry.undone)), redo: brief(entries.find((entry) => entry.undone)) };
};

/** The history after a new move: what was undone is gone, moves of one gesture join. */
export function record(entries: readonly Entry[], entry: Entry): Entry[] {
  const kept = entries.filter((earlier) => !earlier.undone);
  const last = kept.at(-1);
  if (last && entry.gesture !== null && last.gesture === entry.gesture)
    return [...kept.slice(0, -1), { ...last, label: entry.label, changes: merge(last.changes, entry.changes) }];
  return [...kept, entry];
}

/** The changes that undo or redo an entry, or why they no longer fit. */
export function step(session: Session, entry: Entry): Result<Change[]> {
  const changes = entry.undone ? [...entry.changes] : inverse(entry.changes);
  if (applies(session, changes)) return ok(changes);
  const verb = entry.undone ? 'redone' : 'undone';
  return refuse('overtaken', `“${entry.label}” cannot be ${verb}: something it touched was changed since.`);
}

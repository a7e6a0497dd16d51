// Moves of one gesture as one: what a drag did while it waited to be sent.
import { same } from '../session/changes.ts';
import type { Command } from './index.ts';

type Moving = { readonly lead: { readonly from: unknown; readonly was: unknown; readonly to: unknown } };
const isMoving = (command: Command): command is Command & Moving => 'lead' in command && typeof command.lead === 'object';

/** Two moves that follow each other in one gesture, of the same things: the first's `was` and the last's `to`; null where they are no such. */
function joined(first: Command, next: Command): Command | null {
  if (!isMoving(first) || !isMoving(next)) return null;
  if (!same({ ...first, lead: first.lead.from }, { ...next, lead: next.lead.from })) return null;
  return { ...next, lead: { ...next.lead, was: first.lead.was } } as Command;
}

/** Commands one after the other, with as few moves as come to the same. */
export function coalesced(first: readonly Command[], next: readonly Command[]): Command[] {
  if (first.length !== next.length) return [...first, ...next];
  const both = first.map((command, i) => joined(command, next[i]));
  return both.every((command) => command !== null) ? both : [...first, ...next];
}

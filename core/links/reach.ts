// What would move if something were moved: followers in link groups, and what a VCA holds.
import type { Attribute, Session } from '../session/entities.ts';
import { withHeld } from '../session/vcas.ts';
import { followers } from './follow.ts';

/** What a VCA passes on to all beneath it. */
const HELD: ReadonlySet<Attribute> = new Set(['level', 'mute', 'solo']);

/** All that moves with channels when an attribute of theirs does, these left out: `reachOf(session, ['low'], 'level')`. */
export function reachOf(session: Session, ids: readonly string[], attribute: Attribute): Set<string> {
  const linked = [...ids, ...followers(session, ids, attribute).map(({ id }) => id)];
  const found = HELD.has(attribute) ? withHeld(session, linked) : new Set(linked);
  for (const id of ids) found.delete(id);
  return found;
}

/** VCAs in a link group of levels with what they hold: there a move is heard more than once. By VCA, how many. */
export function heldInGroup(session: Session, members: readonly string[]): { readonly vcaId: string; readonly held: number }[] {
  const inside = new Set(members);
  return members.flatMap((vcaId) => {
    const held = [...withHeld(session, [vcaId])].filter((id) => id !== vcaId && inside.has(id)).length;
    return held ? [{ vcaId, held }] : [];
  });
}

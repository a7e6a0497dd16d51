// Who moves with whom: the members of all active groups that hold a touched channel and link the attribute, each once.
import { settingsOf, type Attribute, type Link, type Session } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';

export type Follower = {
  readonly id: string;
  /** The touched channel that it follows: of those it is linked with the one born first. */
  readonly lead: string;
  /** The group by which it does; of several the first by id. */
  readonly linkId: string;
  /** Whether its pan goes the other way. */
  readonly mirrored: boolean;
  /** Whether it becomes what the lead becomes, instead of keeping its distance. */
  readonly alike: boolean;
};

/** Groups at work that hold a channel and link an attribute. */
const linksOf = (session: Session, channelId: string, attribute: Attribute): Link[] =>
  rowsBy(session, 'linkMember', 'channelId', channelId)
    .flatMap(({ linkId }) => session.link.get(linkId) ?? [])
    .filter(({ active, attributes }) => active && attributes.includes(attribute));

/**
 * Members that follow touched channels, in the order of their ids; the order of `touched` and of the groups does not matter, and groups of
 * members that are not touched do not count. `followers(session, ['low'], 'level')`
 */
export function followers(session: Session, touched: Iterable<string>, attribute: Attribute): Follower[] {
  if (session.link.size === 0 || settingsOf(session).linksPaused) return [];
  const moved = new Set([...touched].filter((id) => session.channel.has(id)));
  const born = (id: string) => session.channel.get(id)!.born;
  const firstOf = new Map<string, string>();
  for (const id of moved)
    for (const { id: linkId } of linksOf(session, id, attribute)) {
      const first = firstOf.get(linkId);
      if (first === undefined || born(id) < born(first)) firstOf.set(linkId, id);
    }
  const found = new Map<string, Follower>();
  for (const [linkId, lead] of [...firstOf].sort(([a, first], [b, other]) => born(first) - born(other) || (a < b ? -1 : 1))) {
    const members = rowsBy(session, 'linkMember', 'linkId', linkId);
    const leadMirrored = members.find(({ channelId }) => channelId === lead)!.mirrored;
    const alike = session.link.get(linkId)!.mode === 'alike';
    for (const { channelId: id, mirrored } of members)
      if (!moved.has(id) && !found.has(id)) found.set(id, { id, lead, linkId, alike, mirrored: mirrored !== leadMirrored });
  }
  return [...found.values()].sort((a, b) => (a.id < b.id ? -1 : 1));
}

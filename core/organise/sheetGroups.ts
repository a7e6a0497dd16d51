// The track sheet's columns of groups: the VCAs and link groups that a row is in, by name.
import type { Command } from '../commands/index.ts';
import type { Channel, Session } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { canBeHeld, heldAlong, holdersOf } from '../session/vcas.ts';

/** The VCAs and link groups that a channel is in directly, in the order of the session. */
export const vcasOf = (session: Session, { id }: Channel) =>
  holdersOf(session, id)
    .map((vca) => session.channel.get(vca)!)
    .sort((a, b) => a.position - b.position);
export const groupsOf = (session: Session, { id }: Channel) =>
  rowsBy(session, 'linkMember', 'channelId', id)
    .map(({ linkId }) => session.link.get(linkId)!)
    .sort((a, b) => a.position - b.position);
/** Names as one cell holds them. */
export const named = (list: readonly { readonly name: string }[]) => list.map(({ name }) => name.replaceAll(';', ',')).join('; ');

/** The commands that put a channel into the groups named and out of the others, or why they cannot be. */
export function membershipFor(session: Session, channel: Channel, column: 'vca' | 'links', to: string): Command[] | string {
  const all: readonly { readonly id: string; readonly name: string }[] =
    column === 'vca' ? rowsBy(session, 'channel', 'kind', 'vca') : [...session.link.values()];
  const now = column === 'vca' ? vcasOf(session, channel) : groupsOf(session, channel);
  const wanted = to
    .split(';')
    .map((name) => name.trim())
    .filter(Boolean);
  const ids = new Set<string>();
  for (const name of wanted) {
    const found = all.filter((group) => named([group]).toLowerCase() === name.toLowerCase());
    if (found.length !== 1)
      return `${found.length || 'no'} ${column === 'vca' ? 'VCA' : 'link group'}${found.length > 1 ? 's are' : ' is'} called “${name}”.`;
    ids.add(found[0].id);
  }
  if (column === 'vca' && ids.size && !canBeHeld(channel)) return 'a VCA cannot hold it.';
  const way = column === 'vca' ? [...ids].find((vca) => heldAlong(session, channel.id, vca)) : undefined;
  if (way) return `it would hold itself by ${session.channel.get(way)!.name}.`;
  const of = column === 'vca' ? ('vcas.members' as const) : ('links.members' as const);
  return [
    ...now.filter(({ id }) => !ids.has(id)).map(({ id }): Command => ({ do: of, id, remove: [channel.id] })),
    ...[...ids].filter((id) => !now.some((group) => group.id === id)).map((id): Command => ({ do: of, id, add: [channel.id] }))
  ];
}

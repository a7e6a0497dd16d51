// The columns of Links: VCAs, then link groups; what a tick in one is, and the command that makes or takes it.
import type { Command } from '$core/commands/index';
import type { Session } from '$core/session/entities';
import { rowId } from '$core/session/tables';
import { canBeHeld } from '$core/session/vcas';

/** Pixels: a column, and what stands left of them all. */
export const COLUMN = 80;
export const FIXED = 304;

export type Tick = 'in' | 'out' | 'cannot';

/** Whether a channel is in a group, or could not be. */
export function tickOf(session: Session, channelId: string, groupId: string): Tick {
  if (session.channel.get(groupId)?.kind === 'vca') {
    const channel = session.channel.get(channelId);
    if (!channel || channelId === groupId || !canBeHeld(channel)) return 'cannot';
    return session.vcaMember.has(rowId('vcaMember', { vcaId: groupId, channelId })) ? 'in' : 'out';
  }
  return session.linkMember.has(`${groupId}\n${channelId}`) ? 'in' : 'out';
}

/** The command that puts channels into a group or takes them out. */
export function tick(session: Session, channelIds: readonly string[], groupId: string, into: boolean): Command {
  const how = into ? { add: [...channelIds] } : { remove: [...channelIds] };
  return { do: session.channel.get(groupId)?.kind === 'vca' ? 'vcas.members' : 'links.members', id: groupId, ...how };
}

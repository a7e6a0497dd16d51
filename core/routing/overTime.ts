// Whether something is ever heard, lanes included: able to carry a signal at any moment.
import { everHolds } from '../lanes/points.ts';
import type { Channel, Send, Session } from '../session/entities.ts';
import { vcasAbove } from '../session/vcas.ts';
import { levelOf, mutedOf } from './level.ts';

const audible = (level: number) => level > -Infinity;

/** Whether a channel's level ever rises above −∞: its own, and those of the VCAs above it, each by itself. */
export function everLoud(session: Session, channel: Pick<Channel, 'id' | 'faderDb'>): boolean {
  if (session.lane.size === 0) return audible(levelOf(session, channel));
  return (
    [channel.id, ...vcasAbove(session, channel.id)].every(
      (id) => everHolds(session, { channelId: id, of: 'fader' }, audible) ?? audible(session.channel.get(id)?.faderDb ?? 0)
    ) && everHolds(session, { channelId: channel.id, of: 'faderTrim' }, audible) !== false
  );
}

/** Whether it is muted all the time. */
export const alwaysMuted = (session: Session, channel: Pick<Channel, 'id' | 'mute'>): boolean =>
  mutedOf(session, channel) ||
  [channel.id, ...vcasAbove(session, channel.id)].some(
    (id) => everHolds(session, { channelId: id, of: 'mute' }, (value) => value < 0.5) === false
  );

/** Whether a send ever lets something through, as far as it goes by itself. */
export function everSent(
  session: Session,
  { sourceId, targetId, on, levelDb }: Pick<Send, 'sourceId' | 'targetId' | 'on' | 'levelDb'>
): boolean {
  if (session.lane.size === 0) return on && audible(levelDb);
  const asked = (of: 'sendLevel' | 'sendTrim' | 'sendOn') => ({ channelId: sourceId, of, targetId });
  return (
    (everHolds(session, asked('sendOn'), (value) => value >= 0.5) ?? on) &&
    (everHolds(session, asked('sendLevel'), audible) ?? audible(levelDb)) &&
    everHolds(session, asked('sendTrim'), audible) !== false
  );
}

// Small look-ups that commands share: find or refuse, in words that name what is missing.
import { ok, refuse, type Result } from '../result.ts';
import { POSITION_STEP } from './birth.ts';
import type { Channel, Insert, Session } from './entities.ts';

export function channelsOf(session: Session, ids: readonly string[]): Result<Channel[]> {
  const found: Channel[] = [];
  for (const id of new Set(ids)) {
    const channel = session.channel.get(id);
    if (!channel) return refuse('not-found', 'One of these channels is no longer in the session. Select again.', { id });
    found.push(channel);
  }
  return ok(found);
}

export function insertOf(session: Session, id: string): Result<Insert> {
  const insert = session.insert.get(id);
  return insert ? ok(insert) : refuse('not-found', 'This insert is no longer in the session.', { id });
}

/** "Lead voice", or "12 channels". */
export const counted = (session: Session, ids: readonly string[], noun = 'channel'): string =>
  ids.length === 1 ? (session.channel.get(ids[0])?.name ?? `1 ${noun}`) : `${ids.length} ${noun}s`;

/** Channels in the order of the session. */
export const inOrder = (session: Session): Channel[] =>
  [...session.channel.values()].sort((a, b) => a.position - b.position || a.born - b.born);

/** Inserts of a channel in their order. */
export const insertsOf = (session: Session, channelId: string): Insert[] =>
  [...session.insert.values()].filter((insert) => insert.channelId === channelId).sort((a, b) => a.position - b.position);

/** Level as people write it: "−4.5", "+1.0", "0.0", "−∞". */
export const dbText = (db: number): string =>
  db === -Infinity ? '−∞' : `${db > 0.0499 ? '+' : db < -0.0499 ? '−' : ''}${Math.abs(db).toFixed(1)}`;

/** A position between a channel and the one before it. */
export function positionBefore(session: Session, id: string): number {
  const order = inOrder(session);
  const index = order.findIndex((channel) => channel.id === id);
  const low = order[index - 1]?.position ?? order[index].position - 2 * POSITION_STEP;
  return (low + order[index].position) / 2;
}

/** A position between a channel and the one after it. */
export function positionAfter(session: Session, id: string): number {
  const order = inOrder(session);
  const index = order.findIndex((channel) => channel.id === id);
  const high = order[index + 1]?.position ?? order[index].position + 2 * POSITION_STEP;
  return (order[index].position + high) / 2;
}

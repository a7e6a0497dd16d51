// Small look-ups that commands share: find or refuse, in words that name what is missing.
import { ok, refuse, type Result } from '../result.ts';
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

/** Inserts of a channel in their order. */
export const insertsOf = (session: Session, channelId: string): Insert[] =>
  [...session.insert.values()].filter((insert) => insert.channelId === channelId).sort((a, b) => a.position - b.position);

/** Level as people write it: "−4.5", "+1.0", "0.0", "−∞". */
export const dbText = (db: number): string =>
  db === -Infinity ? '−∞' : `${db > 0.0499 ? '+' : db < -0.0499 ? '−' : ''}${Math.abs(db).toFixed(1)}`;

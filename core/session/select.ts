// Small look-ups that commands share: find or refuse, in words that name what is missing.
import { ok, refuse, type Result } from '../result.ts';
import { POSITION_STEP } from './create.ts';
import { update, type Change } from './changes.ts';
import type { Channel, Insert, Session } from './entities.ts';
import type { Frames } from '../units.ts';
import { orderedIds, rowsBy } from './lookup.ts';

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
export const inOrder = (session: Session): Channel[] => orderedIds(session).map((id) => session.channel.get(id)!);

/** Inserts of a channel in their order. */
export const insertsOf = (session: Session, channelId: string): Insert[] =>
  rowsBy(session, 'insert', 'channelId', channelId).sort((a, b) => a.position - b.position);

/** Level as people write it: "−4.5", "+1.0", "0.0", "−∞". */
export const dbText = (db: number): string =>
  db === -Infinity ? '−∞' : `${db > 0.0499 ? '+' : db < -0.0499 ? '−' : ''}${Math.abs(db).toFixed(1)}`;

/** Places for new channels, and what has to move so that there is room: nothing as long as neighbours are far enough apart. */
export type Room = { readonly positions: readonly number[]; readonly moved: readonly Change[] };

/** Less than this between neighbours and halving it further would soon make them equal. */
const LEAST_GAP = 1e-6;

/** Room for `count` channels before a channel, or, with null, after all. */
export function roomBefore(session: Session, id: string | null, count = 1): Room {
  const order = inOrder(session);
  const index = id === null ? order.length : order.findIndex((channel) => channel.id === id);
  const width = POSITION_STEP * (count + 1);
  const low = order[index - 1]?.position ?? (order[index]?.position ?? 0) - width;
  const high = order[index]?.position ?? low + width;
  const step = (high - low) / (count + 1);
  if (step > LEAST_GAP) return { positions: Array.from({ length: count }, (_, i) => low + step * (i + 1)), moved: [] };
  const places: (Channel | null)[] = [...order.slice(0, index), ...Array<null>(count).fill(null), ...order.slice(index)];
  return {
    positions: places.flatMap((channel, i) => (channel ? [] : [(i + 1) * POSITION_STEP])),
    moved: renumbered(session, places)
  };
}

/** Room for `count` channels behind a channel. */
export function roomAfter(session: Session, id: string, count = 1): Room {
  const order = inOrder(session);
  return roomBefore(session, order[order.findIndex((channel) => channel.id === id) + 1]?.id ?? null, count);
}

/** Channels, with gaps for those to come, numbered in this order; dividers stay before the channel they stand before. */
export function renumbered(session: Session, places: readonly (Channel | null)[]): Change[] {
  const place = new Map(places.map((channel, i) => [channel?.id, (i + 1) * POSITION_STEP]));
  const order = inOrder(session);
  const dividers = [...session.divider.values()].sort((a, b) => a.position - b.position);
  return [
    ...order.flatMap(({ id }) => update(session, 'channel', id, { position: place.get(id)! })),
    ...dividers.flatMap((divider, i) => {
      const below = order.find(({ position }) => position > divider.position);
      const at = below ? place.get(below.id)! : (places.length + 1) * POSITION_STEP;
      return update(session, 'divider', divider.id, { position: at - POSITION_STEP / 2 + i / dividers.length });
    })
  ];
}

/** Last frame of any clip plus one. */
export const endOf = (session: Session): Frames => {
  let end = 0;
  for (const clip of session.clip.values()) end = Math.max(end, clip.start + clip.length);
  return end;
};

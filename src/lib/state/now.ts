// What lanes that play make of values at the moment that is heard: for rows that show them moving.
import { valueAt } from '$core/lanes/course';
import { kindOf } from '$core/lanes/kinds';
import type { Asked } from '$core/lanes/points';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';

export type Now = ReturnType<typeof createNow>;

export function createNow(store: SessionStore, transport: Transport) {
  /** A value whose lane plays; null of others, which then follow no position. */
  const of = (asked: Asked): number | null => {
    const lane = store.playingLane(asked);
    const kind = lane && kindOf(store.session, lane);
    return lane && kind ? valueAt(store.points(lane.id), kind.scale, transport.position) : null;
  };
  return {
    of,
    fader: (channelId: string) => of({ channelId, of: 'fader' }),
    pan: (channelId: string) => of({ channelId, of: 'pan' }),
    send: (channelId: string, targetId: string) => of({ channelId, of: 'sendLevel', targetId }),
    muted: (channelId: string) => of({ channelId, of: 'mute' }) === 1
  };
}

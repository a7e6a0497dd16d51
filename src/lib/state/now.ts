// What lanes that play make of values at the moment that is heard: for rows that show them moving.
import { valueAt } from '$core/lanes/course';
import { kindOf } from '$core/lanes/kinds';
import type { Asked } from '$core/lanes/points';
import type { Insert } from '$core/session/entities';
import { vcasAbove } from '$core/session/vcas';
import type { Db, Frames } from '$core/units';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';

export type Now = ReturnType<typeof createNow>;

/** So many times a second what is worked out anew from the position is. */
const A_SECOND = 5;

export function createNow(store: SessionStore, transport: Transport) {
  /** A value whose lane plays; null of others, which then follow no position. */
  const of = (asked: Asked): number | null => {
    const lane = store.playingLane(asked);
    const kind = lane && kindOf(store.session, lane);
    return lane && kind ? valueAt(store.points(lane.id), kind.scale, transport.position) : null;
  };
  return {
    of,
    /** The frame that is heard, in steps while it plays, for what takes too long to follow each; null where nothing is automated. */
    place: (): Frames | null => {
      if (store.allLanes.length === 0) return null;
      const step = transport.playing ? Math.round(transport.rate / A_SECOND) : 1;
      return Math.floor(transport.position / step) * step;
    },
    fader: (channelId: string) => of({ channelId, of: 'fader' }),
    /** Its level with its VCAs and its trim, dB; null where no lane moves any of these. */
    level: (channelId: string): Db | null => {
      if (store.allLanes.length === 0) return null;
      store.watchGroups();
      const faders = [channelId, ...vcasAbove(store.session, channelId)].map((id) => ({ id, moving: of({ channelId: id, of: 'fader' }) }));
      const trim = of({ channelId, of: 'faderTrim' });
      if (trim === null && faders.every(({ moving }) => moving === null)) return null;
      const sum = faders.reduce((level, { id, moving }) => level + (moving ?? store.channel(id)?.faderDb ?? 0), trim ?? 0);
      return Math.round(sum * 1e9) / 1e9;
    },
    pan: (channelId: string) => of({ channelId, of: 'pan' }),
    send: (channelId: string, targetId: string) => of({ channelId, of: 'sendLevel', targetId }),
    /** An insert with the values and the bypass that its lanes play. */
    insert: (insert: Insert): Insert => {
      const { channelId, id: insertId } = insert;
      if (store.allLanes.length === 0) return insert;
      const bypass = of({ channelId, of: 'bypass', insertId });
      const params = store
        .lanes(channelId)
        .filter((lane) => lane.of === 'param' && lane.insertId === insertId)
        .flatMap(({ param }) => {
          const value = of({ channelId, of: 'param', insertId, param });
          return value === null ? [] : [[param!, value] as const];
        });
      if (bypass === null && params.length === 0) return insert;
      return {
        ...insert,
        bypass: bypass === null ? insert.bypass : bypass >= 0.5,
        params: { ...insert.params, ...Object.fromEntries(params) }
      };
    },
    muted: (channelId: string) => of({ channelId, of: 'mute' }) === 1
  };
}

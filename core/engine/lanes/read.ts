// The curves of a session's lanes, each made once until it changes; and what lanes of an insert move.
import type { Kernel } from '../../kernel/kernel.ts';
import { kindOf } from '../../lanes/kinds.ts';
import { lanesOf, playingLane, plays, pointsOf, type Asked } from '../../lanes/points.ts';
import type { Lane, PanLaw, Session } from '../../session/entities.ts';
import { curveOf, pinned, type Curve } from './curve.ts';

/** What lanes move of an insert: its values by parameter, and whether it is bypassed, from 0.5 up. */
export type Led = { readonly params: ReadonlyMap<string, Curve>; readonly bypass: Curve | null };

export type Curves = {
  /** The curve of something whose lane is at work, or null. */
  readonly of: (asked: Asked) => Curve | null;
  /** The gain of a side by a pin whose lane is at work. */
  readonly pin: (asked: Asked, side: 'left' | 'right', law: PanLaw) => Curve | null;
  readonly insert: (insertId: string) => Led | null;
  /** These lanes, or all, are other ones now. */
  readonly forget: (lanes?: Iterable<string>) => void;
};

export function createCurves(session: Session, math: Kernel): Curves {
  const made = new Map<string, Curve>();
  const pins = new WeakMap<Curve, Map<string, Curve>>();
  const curve = (lane: Lane): Curve | null => {
    const known = made.get(lane.id);
    if (known) return known;
    const kind = kindOf(session, lane);
    if (!kind) return null;
    const own = curveOf(pointsOf(session, lane.id), kind.scale, math, lane.of === 'mute');
    made.set(lane.id, own);
    return own;
  };
  return {
    of: (asked) => {
      const lane = playingLane(session, asked);
      return lane ? curve(lane) : null;
    },
    pin: (asked, side, law) => {
      const lane = playingLane(session, asked);
      const own = lane && curve(lane);
      if (!own) return null;
      // One curve for all that follow it: it is read once.
      const name = `${side} ${law}`;
      const sides = pins.get(own) ?? new Map<string, Curve>();
      pins.set(own, sides);
      const known = sides.get(name) ?? pinned(own, side, law, math);
      sides.set(name, known);
      return known;
    },
    insert: (insertId) => {
      const channelId = session.insert.get(insertId)?.channelId;
      if (channelId === undefined || session.lane.size === 0) return null;
      const own = lanesOf(session, channelId).filter((lane) => lane.insertId === insertId && plays(session, lane));
      if (own.length === 0) return null;
      const params = new Map<string, Curve>();
      let bypass: Curve | null = null;
      for (const lane of own) {
        const found = curve(lane);
        if (found && lane.of === 'bypass') bypass = found;
        else if (found && lane.param !== null) params.set(lane.param, found);
      }
      return { params, bypass };
    },
    forget: (lanes) => {
      if (!lanes) made.clear();
      else for (const id of lanes) made.delete(id);
    }
  };
}

// A pass: what a hand does to one value while it plays, put together into points; it takes the place of what the lane did there.
import type { Frames } from '../units.ts';
import { valueAt } from './course.ts';
import { thinned, withPointsAt, type Place } from './edit.ts';
import type { LaneKind } from './kinds.ts';

/** A value that stood still for longer than this goes from there at once, over a control period, rather than slowly. */
const STILL: Frames = 128;
const PERIOD: Frames = 64;

export type Pass = {
  /** What the hand says at a frame: by time, each later than the one before. Answers what is new of it. */
  readonly note: (at: Frames, value: number) => readonly Place[];
  /** Frame of the last thing noted. */
  readonly last: () => Frames;
  /** The points from where it began, once it has ended at a frame: thinned, gliding back to what the lane was. */
  readonly ended: (at: Frames, glide: Frames) => readonly Place[];
  readonly began: Frames;
};

/** A pass over a lane that had these points, from a frame on. `points` may be none: then the value stood at `resting`. */
export function passOver(points: readonly Place[], kind: LaneKind, began: Frames, resting: number): Pass {
  const shape = kind.scale === 'steps' ? 'hold' : 'linear';
  const before = points.length ? points : [{ at: 0, value: resting, shape } as const];
  const was = (at: Frames) => valueAt(before, kind.scale, at);
  const stroke: Place[] = [{ at: began, value: was(began), shape }];
  return {
    began,
    last: () => stroke[stroke.length - 1].at,
    note: (at, value) => {
      const { at: from, value: stood } = stroke[stroke.length - 1];
      if (at <= from) {
        stroke[stroke.length - 1] = { at: from, value, shape };
        return [stroke[stroke.length - 1]];
      }
      const more: Place[] = shape === 'linear' && value !== stood && at - from > STILL ? [{ at: at - PERIOD, value: stood, shape }] : [];
      more.push({ at, value, shape });
      stroke.push(...more);
      return more;
    },
    ended: (at, glide) => {
      const last = stroke[stroke.length - 1];
      const own = at > last.at ? [...stroke, { at, value: last.value, shape } as Place] : stroke;
      const kept = shape === 'hold' ? own.filter((place, i) => i === 0 || place.value !== own[i - 1].value) : thinned(own, kind);
      const end = own[own.length - 1].at;
      if (!points.length) return kept;
      const back = end + Math.max(1, glide);
      const rest = withPointsAt(before, kind, [back]).filter((place) => place.at >= back);
      // A switch goes back at once.
      if (shape === 'hold') return [...kept, { at: end + 1, value: was(end + 1), shape }, ...before.filter((place) => place.at > end + 1)];
      return [...kept, ...rest];
    }
  };
}

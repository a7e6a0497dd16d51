// Edits of a lane's points, as changes: a stretch becomes another, and what lies beside it goes on as it did.
import { creation, removal, update, type Change } from '../session/changes.ts';
import type { Lane, Point, Session } from '../session/entities.ts';
import { newRow, rowId } from '../session/tables.ts';
import type { Frames } from '../units.ts';
import { between, valueAt } from './course.ts';
import { kindOf, clampTo, type LaneKind, type Scale } from './kinds.ts';
import { pointsOf } from './points.ts';

export type Place = Pick<Point, 'at' | 'value' | 'shape'>;

/** Added points come as near as this to what they stand for: dB, or a share of the value's range. */
const NEAR_DB = 0.01;
const NEAR = 0.001;
/** Levels under this need not agree. */
const UNHEARD_DB = -100;
/** Closer than this no point is put beside another. */
const LEAST: Frames = 16;

const keyOf = (laneId: string, at: Frames) => rowId('point', { laneId, at } as Point);

/** The changes that make of a lane's points from `from` to `to`, both included, those given. */
export function stretchChanges(session: Session, laneId: string, from: Frames, to: Frames, next: readonly Place[]): Change[] {
  const wanted = new Map(next.map((place) => [place.at, place]));
  const gone = pointsOf(session, laneId).filter(({ at }) => at >= from && at <= to && !wanted.has(at));
  return [
    ...gone.map(({ at }) => removal(session, 'point', keyOf(laneId, at))),
    ...[...wanted.values()].flatMap(({ at, value, shape }): Change[] => {
      const key = keyOf(laneId, at);
      return session.point.has(key)
        ? update(session, 'point', key, { value, shape })
        : [creation('point', key, newRow('point', { laneId, at, value, shape }))];
    })
  ];
}

/** How far two values of a scale are apart, by what added points are measured with: 1 is just near enough. */
function apart({ scale, min, max }: Pick<LaneKind, 'scale' | 'min' | 'max'>, a: number, b: number): number {
  if (a === b) return 0;
  if (scale === 'level') return Math.max(a, b) < UNHEARD_DB ? 0 : Math.abs(a - b) / NEAR_DB;
  if (scale === 'ratio') return Math.abs(Math.log(a / b)) / Math.log(max / min) / NEAR;
  return Math.abs(a - b) / (max - min) / NEAR;
}

/**
 * Points, joined by straight segments, that follow a function from one frame to another, both included, as near as 0.01 dB or a
 * thousandth of the range; halved wherever they do not. `bends` are frames where it turns.
 */
export function followed(kind: LaneKind, of: (at: Frames) => number, from: Frames, to: Frames, bends: readonly Frames[] = []): Place[] {
  const found: Place[] = [];
  const put = (at: Frames, value: number) => found.push({ at, value, shape: kind.scale === 'steps' ? 'hold' : 'linear' });
  const halve = (a: Frames, va: number, b: Frames, vb: number): void => {
    const off = [0.25, 0.5, 0.75].some((share) => {
      const at = Math.round(a + (b - a) * share);
      return apart(kind, of(at), between(kind.scale, va, vb, (at - a) / (b - a))) > 1;
    });
    if (!off || b - a < 2 * LEAST) return;
    const middle = (a + b) >> 1;
    const value = of(middle);
    halve(a, va, middle, value);
    put(middle, value);
    halve(middle, value, b, vb);
  };
  const stations = [...new Set([from, ...bends.filter((at) => at > from && at < to), to])].sort((a, b) => a - b);
  stations.forEach((at, i) => {
    const value = of(at);
    if (i > 0 && kind.scale !== 'steps') halve(stations[i - 1], of(stations[i - 1]), at, value);
    put(at, value);
  });
  return found;
}

/**
 * A lane's points with ones at these frames, where its course goes on as it did: an eased segment that is cut becomes straight ones that
 * follow it.
 */
export function withPointsAt(points: readonly Place[], kind: LaneKind, frames: readonly Frames[]): Place[] {
  let list = [...points];
  for (const at of frames) {
    if (list.length === 0 || list.some((point) => point.at === at)) continue;
    const before = list.findLast((point) => point.at < at);
    const after = list.find((point) => point.at > at);
    const value = valueAt(list, kind.scale, at);
    if (before?.shape === 'eased' && after && before.value !== after.value) {
      const own = list;
      const straight = followed(kind, (frame) => valueAt(own, kind.scale, frame), before.at, after.at, [at]).slice(0, -1);
      list = [...list.filter((point) => point.at < before.at), ...straight, ...list.filter((point) => point.at >= after.at)];
    } else
      list = [
        ...list.filter((point) => point.at < at),
        { at, value, shape: kind.scale === 'steps' ? 'hold' : (before?.shape ?? 'linear') },
        ...list.filter((point) => point.at > at)
      ];
  }
  return list;
}

/** Frames in which a stretch goes over into what lies beside it, where nothing else is said. */
export const edgeFrames = (rate: number): Frames => Math.round(rate / 100);

/**
 * A lane's points where from one frame to another they become others: beyond an edge before and after, its course is what it was. What
 * is at hand replaces all that was there.
 */
export function replaced(points: readonly Place[], kind: LaneKind, stroke: readonly Place[], edge: Frames): Place[] {
  if (stroke.length === 0) return [...points];
  if (points.length === 0) return [...stroke];
  const from = stroke[0].at;
  const to = stroke[stroke.length - 1].at;
  const [into, out] = [Math.max(0, from - edge), to + edge];
  const kept = withPointsAt(points, kind, [...(from > 0 ? [into] : []), out]);
  const last = stroke[stroke.length - 1];
  return [
    ...kept.filter(({ at }) => at < from && at <= into),
    ...stroke.slice(0, -1),
    { ...last, shape: kind.scale === 'steps' ? 'hold' : 'linear' },
    ...kept.filter(({ at }) => at > to && at >= out)
  ];
}

/** The changes that make of all of a lane's points those given; clamped to what the lane can be. */
export function pointChanges(session: Session, lane: Lane, next: readonly Place[]): Change[] {
  const kind = kindOf(session, lane)!;
  return stretchChanges(
    session,
    lane.id,
    0,
    Infinity,
    next.map((place) => ({ ...place, value: clampTo(kind, place.value) }))
  );
}

/** What moving a value by a difference makes of it: dB, units, or, of a ratio, so many per cent. */
export function moved(scale: Scale, value: number, by: number): number {
  return scale === 'ratio' ? value * (1 + by / 100) : value + by;
}

/**
 * Fewer points for the same course: none is kept whose removal changes it by no more than a tolerance, 0.1 dB or 0.5 % of the range.
 * Farthest first, after Ramer, Douglas and Peucker.
 */
export function thinned(points: readonly Place[], kind: LaneKind): Place[] {
  const tolerance = kind.scale === 'level' ? 10 : 5;
  const keep = new Set([0, points.length - 1]);
  const queue: [number, number][] = [[0, points.length - 1]];
  for (const [a, b] of queue) {
    let [worst, most] = [-1, tolerance];
    for (let i = a + 1; i < b; i++) {
      const share = (points[i].at - points[a].at) / (points[b].at - points[a].at);
      const off = apart(kind, points[i].value, between(kind.scale, points[a].value, points[b].value, share));
      if (off > most) [worst, most] = [i, off];
    }
    if (worst < 0) continue;
    keep.add(worst);
    queue.push([a, worst], [worst, b]);
  }
  return points.filter((_, i) => keep.has(i));
}

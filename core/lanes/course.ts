// The course of a lane between its points, as numbers that people read. The engine follows the same rules with the kernel's own functions.
import type { Point, Shape } from '../session/entities.ts';
import { firstAfter } from '../session/timeline.ts';
import { dbOf, gainOf, type Frames } from '../units.ts';
import type { Scale } from './kinds.ts';

type Place = Pick<Point, 'at' | 'value' | 'shape'>;

/** The share of the way from a point to the next, 0 … 1 of 0 … 1. */
export const shaped = (shape: Shape, share: number): number =>
  shape === 'hold' ? 0 : shape === 'eased' ? share * share * (3 - 2 * share) : share;

/** Between two values, at a share of the way: in dB, by ratio or by difference; in amplitude where an end is at −∞. */
export function between(scale: Scale, from: number, to: number, share: number): number {
  if (share === 0 || from === to || scale === 'steps') return from;
  if (scale === 'ratio') return from * (to / from) ** share;
  if (scale === 'level' && (from === -Infinity || to === -Infinity)) return dbOf(gainOf(from) + (gainOf(to) - gainOf(from)) * share);
  return from + (to - from) * share;
}

/**
 * A lane's value at a frame, in its unit; before the first point that one's, after the last that one's. `points` by time, one at least.
 * `valueAt([{ at: 0, value: -6, shape: 'linear' }, { at: 100, value: 0, shape: 'hold' }], 'level', 50)` is −3.
 */
export function valueAt(points: readonly Place[], scale: Scale, at: Frames): number {
  const next = firstAfter(points, at, (point) => point.at);
  if (next === 0) return points[0].value;
  const from = points[next - 1];
  const to = points[next];
  if (!to) return from.value;
  return between(scale, from.value, to.value, shaped(from.shape, (at - from.at) / (to.at - from.at)));
}

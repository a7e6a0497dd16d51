// Parameters that move: a value that steps linearly to its target over whole control periods.
import { PERIOD } from '../kernel/period.ts';

/** Periods a parameter takes to its target: 16 × 64 frames are 21 ms at 48 kHz. */
export const GLIDE_PERIODS = 16;

export type Glide = { value: number; target: number; left: number };

export const glideAt = (value: number): Glide => ({ value, target: value, left: 0 });

export function aim(glide: Glide, target: number, snap: boolean): void {
  if (snap) Object.assign(glide, glideAt(target));
  else if (target !== glide.target) Object.assign(glide, { target, left: GLIDE_PERIODS });
}

/** What was aimed at just now is there after one period: of values that follow a lane. */
export function hasten(parts: Iterable<object>): void {
  for (const part of parts) if ('left' in part && 'target' in part && part.left === GLIDE_PERIODS) part.left = 1;
}

/** One period further; whether it moved. */
export function advance(glide: Glide): boolean {
  if (glide.left === 0) return false;
  glide.value = glide.left === 1 ? glide.target : glide.value + (glide.target - glide.value) / glide.left;
  glide.left -= 1;
  return true;
}

/** A fade's share as it is heard, without corners where it begins and ends: 0 … 1 of 0 … 1. */
export const eased = (share: number): number => share * share * (3 - 2 * share);

/** Glides by name, all at one value. */
export const glidesAt = <N extends string>(names: readonly N[], value: (name: N) => number): Record<N, Glide> =>
  Object.fromEntries(names.map((name) => [name, glideAt(value(name))])) as Record<N, Glide>;

/** Writes a ramp { value, step per frame } of one period at a byte address. */
export function writeRamp(f32: Float32Array, at: number, from: number, to: number): void {
  f32[at >> 2] = from;
  f32[(at >> 2) + 1] = (to - from) / PERIOD;
}

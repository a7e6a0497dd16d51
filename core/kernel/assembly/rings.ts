// Rings by the absolute frame: what was written stays where it is, so that a snapshot of the engine need not copy it. A period at a time.
import { PERIOD } from './layout';

/**
 * Where the period from any frame on is: in a ring of `mask + 1` floats, a power of two no smaller than a period, or, where it goes round
 * the end or what is before the frame `since` is to be silence, copied to `spare`.
 */
export function periodAt(ring: usize, mask: i32, frame: i64, since: i64, spare: usize): usize {
  const first = (<i32>frame) & mask;
  const whole = min<i32>(PERIOD, mask + 1 - first);
  if (whole == PERIOD && frame >= since) return ring + <usize>first * 4;
  memory.copy(spare, ring + <usize>first * 4, <usize>whole * 4);
  memory.copy(spare + <usize>whole * 4, ring, <usize>(PERIOD - whole) * 4);
  if (frame < since) memory.fill(spare, 0, <usize>min<i64>(PERIOD, since - frame) * 4);
  return spare;
}

/** Where a period of its own is to be written: it never goes round the end. */
export function ownAt(ring: usize, mask: i32, frame: i64): usize {
  return ring + <usize>((<i32>frame) & mask) * 4;
}

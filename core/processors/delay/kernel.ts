// Delay: up to eight taps of two rings, feedback through a high- and a low-pass; straight, crossing or ping-pong. Where times change, both
// the old and the new are read, and one goes over into the other: what is heard and what goes round alike, so that there is no hole in it.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { flushed, kept } from '../../kernel/assembly/filters';
import { PERIOD } from '../../kernel/assembly/layout';

// The instance, in bytes from its start. A ramp is a value and its step.
/** Address of the ring, its mask. */
export const DELAY_RING: usize = 0;
const MASK: usize = 4;
export const DELAY_TAPS: usize = 8;
/** Whether times go over into others, and how far: a ramp. */
export const DELAY_MOVES: usize = 12;
export const DELAY_SHARE: usize = 16;
export const DELAY_FEEDBACK: usize = 24;
export const DELAY_HIGH: usize = 32;
export const DELAY_LOW: usize = 36;
export const DELAY_WET: usize = 40;
export const DELAY_DRY: usize = 48;
/** How much of what goes round stays on its side, and how much of what comes in begins left: ramps. */
export const DELAY_STAYS: usize = 56;
export const DELAY_LEFT: usize = 64;
/** States of high-pass and low-pass, left and right. */
export const DELAY_STATES: usize = 72;
/** Eight taps: frames left and right, and those that they come from; gains left and right, ramps. The first one's times go round. */
export const DELAY_TAP: usize = 88;
export const DELAY_FROM: usize = 8;
export const DELAY_GAINS: usize = 16;
export const DELAY_TAP_BYTES: usize = 32;
export const DELAY_BYTES: usize = 344;

function delay(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const ring: usize = load<u32>(at + DELAY_RING);
  const mask = load<i32>(at + MASK);
  const taps = at + DELAY_TAP + <usize>load<i32>(at + DELAY_TAPS) * DELAY_TAP_BYTES;
  const moves = load<i32>(at + DELAY_MOVES);
  if (!moves && stands(at, taps) && reaches((<i32>frame) & mask, mask, at + DELAY_TAP, taps)) return standing(op, <i32>frame, taps);
  const high = load<f32>(at + DELAY_HIGH);
  const low = load<f32>(at + DELAY_LOW);
  let highL = load<f32>(at + DELAY_STATES);
  let highR = load<f32>(at + DELAY_STATES + 4);
  let lowL = load<f32>(at + DELAY_STATES + 8);
  let lowR = load<f32>(at + DELAY_STATES + 12);
  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>frame + n;
    const share = moves ? along(at + DELAY_SHARE, n) : 1;
    const inL = load<f32>(srcL + <usize>n * 4);
    const inR = load<f32>(srcR + <usize>n * 4);
    const backL = back(ring, mask, now, at + DELAY_TAP, moves, share);
    const backR = back(ring + 4, mask, now, at + DELAY_TAP + 4, moves, share);
    highL += high * (backL - highL);
    highR += high * (backR - highR);
    lowL += low * (backL - highL - lowL);
    lowR += low * (backR - highR - lowR);
    const feedback = along(at + DELAY_FEEDBACK, n);
    const l = lowL * feedback;
    const r = lowR * feedback;
    const stays = along(at + DELAY_STAYS, n);
    const left = along(at + DELAY_LEFT, n);
    const both = (inL + inR) * 0.5;
    const into = ring + <usize>(now & mask) * 8;
    store<f32>(into, kept(inL + (both - inL) * left + (r + (l - r) * stays)));
    store<f32>(into, kept(inR - inR * left + (l + (r - l) * stays)), 4);
    let outL: f32 = 0;
    let outR: f32 = 0;
    for (let tap = at + DELAY_TAP; tap < taps; tap += DELAY_TAP_BYTES) {
      outL += back(ring, mask, now, tap, moves, share) * along(tap + DELAY_GAINS, n);
      outR += back(ring + 4, mask, now, tap + 4, moves, share) * along(tap + DELAY_GAINS + 8, n);
    }
    const wet = along(at + DELAY_WET, n);
    const dry = along(at + DELAY_DRY, n);
    store<f32>(dstL + <usize>n * 4, inL * dry + outL * wet);
    store<f32>(dstR + <usize>n * 4, inR * dry + outR * wet);
  }
  store<f32>(at + DELAY_STATES, kept(highL));
  store<f32>(at + DELAY_STATES + 4, kept(highR));
  store<f32>(at + DELAY_STATES + 8, kept(lowL));
  store<f32>(at + DELAY_STATES + 12, kept(lowR));
}

/** Whether no ramp moves in this period. */
function stands(at: usize, taps: usize): bool {
  let steps = load<f32>(at, DELAY_FEEDBACK + 4) == 0 && load<f32>(at, DELAY_WET + 4) == 0 && load<f32>(at, DELAY_DRY + 4) == 0;
  steps = steps && load<f32>(at, DELAY_STAYS + 4) == 0 && load<f32>(at, DELAY_LEFT + 4) == 0;
  for (let tap = at + DELAY_TAP; steps && tap < taps; tap += DELAY_TAP_BYTES)
    steps = load<f32>(tap, DELAY_GAINS + 4) == 0 && load<f32>(tap, DELAY_GAINS + 12) == 0;
  return steps;
}

/** Whether all that this period reads lies in one piece of the ring, and two frames at a time at least as far back. */
function reaches(place: i32, mask: i32, first: usize, taps: usize): bool {
  for (let tap = first; tap < taps; tap += DELAY_TAP_BYTES)
    for (let side: usize = 0; side < 8; side += 4) {
      const frames = load<i32>(tap + side);
      if (frames < 2 || ((place - frames) & mask) > mask + 1 - PERIOD) return false;
    }
  return true;
}

/** The same where nothing moves: two frames of both sides at a time, as they lie in the ring. */
function standing(op: usize, frame: i32, taps: usize): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const ring: usize = load<u32>(at + DELAY_RING);
  const mask = load<i32>(at + MASK);
  const high = f32x4.splat(load<f32>(at + DELAY_HIGH));
  const low = f32x4.splat(load<f32>(at + DELAY_LOW));
  const feedback = f32x4.splat(load<f32>(at + DELAY_FEEDBACK));
  const stays = f32x4.splat(load<f32>(at + DELAY_STAYS));
  const left = f32x4.splat(load<f32>(at + DELAY_LEFT));
  const wet = f32x4.splat(load<f32>(at + DELAY_WET));
  const dry = f32x4.splat(load<f32>(at + DELAY_DRY));
  const begun = ring + <usize>(frame & mask) * 8;
  // Left and right in the first two lanes.
  let highs = v128.load64_zero(at + DELAY_STATES);
  let lows = v128.load64_zero(at + DELAY_STATES, 8);
  const firstL = pastOf(ring, mask, frame, at + DELAY_TAP);
  const firstR = pastOf(ring, mask, frame, at + DELAY_TAP + 4);
  for (let n: usize = 0; n < <usize>PERIOD * 4; n += 8) {
    const both = v128.shuffle<f32>(v128.load64_zero(srcL + n), v128.load64_zero(srcR + n), 0, 4, 1, 5);
    const past = v128.shuffle<f32>(v128.load(firstL + n * 2), v128.load(firstR + n * 2), 0, 5, 2, 7);
    highs = f32x4.add(highs, f32x4.mul(high, f32x4.sub(past, highs)));
    lows = f32x4.add(lows, f32x4.mul(low, f32x4.sub(f32x4.sub(past, highs), lows)));
    const one = lows;
    const next = v128.shuffle<f32>(past, past, 2, 3, 2, 3);
    highs = f32x4.add(highs, f32x4.mul(high, f32x4.sub(next, highs)));
    lows = f32x4.add(lows, f32x4.mul(low, f32x4.sub(f32x4.sub(next, highs), lows)));
    const round = f32x4.mul(v128.shuffle<f32>(one, lows, 0, 1, 4, 5), feedback);
    const crossed = v128.shuffle<f32>(round, round, 1, 0, 3, 2);
    // Left gets (left + right) / 2, right nothing, as far as all begins left.
    const swapped = v128.shuffle<f32>(both, both, 1, 0, 3, 2);
    const begins = f32x4.mul(f32x4.mul(f32x4.add(both, swapped), f32x4(0.5, 0, 0.5, 0)), left);
    const comes = f32x4.add(f32x4.sub(both, f32x4.mul(both, left)), begins);
    const goes = f32x4.add(crossed, f32x4.mul(f32x4.sub(round, crossed), stays));
    v128.store(begun + n * 2, flushed(f32x4.add(comes, goes)));
    let out = f32x4.splat(0);
    for (let tap = at + DELAY_TAP; tap < taps; tap += DELAY_TAP_BYTES) {
      const l = v128.load(pastOf(ring, mask, frame, tap) + n * 2);
      const r = v128.load(pastOf(ring, mask, frame, tap + 4) + n * 2);
      const gainL = load<f32>(tap + DELAY_GAINS);
      const gainR = load<f32>(tap + DELAY_GAINS + 8);
      const gains = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(gainL), 1, gainR), 3, gainR);
      out = f32x4.add(out, f32x4.mul(v128.shuffle<f32>(l, r, 0, 5, 2, 7), gains));
    }
    const result = f32x4.add(f32x4.mul(both, dry), f32x4.mul(out, wet));
    v128.store64_lane(dstL + n, v128.shuffle<f32>(result, result, 0, 2, 0, 2), 0);
    v128.store64_lane(dstR + n, v128.shuffle<f32>(result, result, 1, 3, 1, 3), 0);
  }
  v128.store64_lane(at + DELAY_STATES, flushed(highs), 0);
  v128.store64_lane(at + DELAY_STATES + 8, flushed(lows), 0);
}

/** Where in the ring a tap's side begins to read this period. */
function pastOf(ring: usize, mask: i32, frame: i32, tap: usize): usize {
  return ring + <usize>((frame - load<i32>(tap)) & mask) * 8;
}

/** A ramp's value n frames on. */
function along(at: usize, n: i32): f32 {
  return load<f32>(at) + load<f32>(at, 4) * <f32>n;
}

/** One side's ring as long ago as a tap says. */
function back(ring: usize, mask: i32, now: i32, tap: usize, moves: i32, share: f32): f32 {
  const to = load<f32>(ring + <usize>((now - load<i32>(tap)) & mask) * 8);
  if (!moves) return to;
  const from = load<f32>(ring + <usize>((now - load<i32>(tap, DELAY_FROM)) & mask) * 8);
  return from + (to - from) * share;
}

export function delayOp(): i32 {
  const run = delay;
  return run.index;
}

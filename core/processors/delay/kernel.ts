// Delay: up to eight taps of two rings, feedback through a high- and a low-pass; straight, crossing or ping-pong. Where times change, both
// the old and the new are read, and one goes over into the other: what is heard and what goes round alike, so that there is no hole in it.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { kept } from '../../kernel/assembly/filters';
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

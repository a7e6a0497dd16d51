// Delay: up to eight taps of two rings, feedback through a high- and a low-pass; straight, crossing or ping-pong.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { kept } from '../../kernel/assembly/filters';
import { PERIOD } from '../../kernel/assembly/layout';

// The instance, in bytes from its start.
/** Address of the ring, its mask. */
export const DELAY_RING: usize = 0;
const MASK: usize = 4;
export const DELAY_TAPS: usize = 8;
/** 0 straight, 1 crossing, 2 ping-pong. */
export const DELAY_MODE: usize = 12;
/** Value, step. */
export const DELAY_FEEDBACK: usize = 16;
export const DELAY_HIGH: usize = 24;
export const DELAY_LOW: usize = 28;
export const DELAY_WET: usize = 32;
export const DELAY_DRY: usize = 40;
/** States of high-pass and low-pass, left and right. */
export const DELAY_STATES: usize = 48;
/** Feedback frames left, right. */
export const DELAY_BACK: usize = 64;
/** Gain into the rings: value, step. */
export const DELAY_DOOR: usize = 72;
/** Eight taps: frames left, frames right, gain left, gain right. */
export const DELAY_TAP: usize = 80;
export const DELAY_TAP_BYTES: usize = 16;
export const DELAY_BYTES: usize = 208;

function delay(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const ring: usize = load<u32>(at + DELAY_RING);
  const mask = load<i32>(at + MASK);
  const taps = load<i32>(at + DELAY_TAPS);
  const mode = load<i32>(at + DELAY_MODE);
  let feedback = load<f32>(at + DELAY_FEEDBACK);
  const feedbackStep = load<f32>(at + DELAY_FEEDBACK + 4);
  const high = load<f32>(at + DELAY_HIGH);
  const low = load<f32>(at + DELAY_LOW);
  let wet = load<f32>(at + DELAY_WET);
  const wetStep = load<f32>(at + DELAY_WET + 4);
  let dry = load<f32>(at + DELAY_DRY);
  const dryStep = load<f32>(at + DELAY_DRY + 4);
  let highL = load<f32>(at + DELAY_STATES);
  let highR = load<f32>(at + DELAY_STATES + 4);
  let lowL = load<f32>(at + DELAY_STATES + 8);
  let lowR = load<f32>(at + DELAY_STATES + 12);
  let door = load<f32>(at + DELAY_DOOR);
  const doorStep = load<f32>(at + DELAY_DOOR + 4);
  const backL = load<i32>(at + DELAY_BACK);
  const backR = load<i32>(at + DELAY_BACK + 4);
  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>frame + n;
    const inL = load<f32>(srcL + <usize>n * 4);
    const inR = load<f32>(srcR + <usize>n * 4);
    let l = load<f32>(ring + <usize>((now - backL) & mask) * 8);
    let r = load<f32>(ring + <usize>((now - backR) & mask) * 8 + 4);
    highL += high * (l - highL);
    highR += high * (r - highR);
    lowL += low * (l - highL - lowL);
    lowR += low * (r - highR - lowR);
    l = lowL * feedback;
    r = lowR * feedback;
    const fedL = inL * door;
    const fedR = inR * door;
    if (mode == 0) {
      l += fedL;
      r += fedR;
    } else if (mode == 1) {
      const swap = l;
      l = fedL + r;
      r = fedR + swap;
    } else {
      const swap = l;
      l = (fedL + fedR) * 0.5 + r;
      r = swap;
    }
    store<f32>(ring + <usize>(now & mask) * 8, kept(l));
    store<f32>(ring + <usize>(now & mask) * 8 + 4, kept(r));
    let outL: f32 = 0;
    let outR: f32 = 0;
    for (let i = 0; i < taps; i++) {
      const tap = at + DELAY_TAP + <usize>i * DELAY_TAP_BYTES;
      outL += load<f32>(ring + <usize>((now - load<i32>(tap)) & mask) * 8) * load<f32>(tap + 8);
      outR += load<f32>(ring + <usize>((now - load<i32>(tap + 4)) & mask) * 8 + 4) * load<f32>(tap + 12);
    }
    store<f32>(dstL + <usize>n * 4, inL * dry + outL * wet);
    store<f32>(dstR + <usize>n * 4, inR * dry + outR * wet);
    feedback += feedbackStep;
    wet += wetStep;
    dry += dryStep;
    door += doorStep;
  }
  store<f32>(at + DELAY_STATES, kept(highL));
  store<f32>(at + DELAY_STATES + 4, kept(highR));
  store<f32>(at + DELAY_STATES + 8, kept(lowL));
  store<f32>(at + DELAY_STATES + 12, kept(lowR));
}

export function delayOp(): i32 {
  const run = delay;
  return run.index;
}

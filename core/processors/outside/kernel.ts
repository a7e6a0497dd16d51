// Outside device: a delay for the way out and back, a unit (a wire, a spring, something tape-like) and a noise floor.
// Rings and noise go by the absolute frame, so that a snapshot of the engine need not copy them.
import { kept } from '../../kernel/assembly/filters';
import { PERIOD } from '../../kernel/assembly/layout';

// One side's instance, in bytes from its start.
/** Address of the delay's ring, its mask, address of the spring's ring, its mask. */
export const OUTSIDE_RING: usize = 0;
const MASK: usize = 4;
const SPRING_RING: usize = 8;
const SPRING_MASK: usize = 12;
/** 0 a wire, 1 a spring, 2 tape; then latency, frames along the spring, seed of the noise. */
export const OUTSIDE_UNIT: usize = 16;
export const OUTSIDE_LATENCY: usize = 20;
const LONG: usize = 24;
const SEED: usize = 28;
/** Value, step. */
export const OUTSIDE_DRIVE: usize = 32;
export const OUTSIDE_WET: usize = 40;
export const OUTSIDE_DRY: usize = 48;
export const OUTSIDE_NOISE: usize = 56;
/** Low-pass coefficient, its state. */
export const OUTSIDE_LOW: usize = 64;
export const OUTSIDE_STATE: usize = 68;
/** The spring's share back, its level, its all-passes' coefficient. */
export const OUTSIDE_SPRING: usize = 72;
/** Value, step. */
export const OUTSIDE_FADE: usize = 84;
/** States of the all-passes, two each. */
export const OUTSIDE_STATES: usize = 96;
const PASSES: i32 = 32;
export const OUTSIDE_BYTES: usize = OUTSIDE_STATES + <usize>PASSES * 8;

/** op: in, out, instance. */
function outside(op: usize, frame: i64): void {
  const src: usize = load<u32>(op + 4);
  const dst: usize = load<u32>(op + 8);
  const at: usize = load<u32>(op + 12);
  const ring: usize = load<u32>(at + OUTSIDE_RING);
  const mask = load<i32>(at + MASK);
  const spring: usize = load<u32>(at + SPRING_RING);
  const springMask = load<i32>(at + SPRING_MASK);
  const unit = load<i32>(at + OUTSIDE_UNIT);
  const latency = load<i32>(at + OUTSIDE_LATENCY);
  const long = load<i32>(at + LONG);
  const seed = load<u32>(at + SEED);
  const low = load<f32>(at + OUTSIDE_LOW);
  const back = load<f32>(at + OUTSIDE_SPRING);
  const level = load<f32>(at + OUTSIDE_SPRING + 4);
  let drive = load<f32>(at + OUTSIDE_DRIVE);
  let wet = load<f32>(at + OUTSIDE_WET);
  let dry = load<f32>(at + OUTSIDE_DRY);
  let noise = load<f32>(at + OUTSIDE_NOISE);
  let fade = load<f32>(at + OUTSIDE_FADE);
  let lowed = load<f32>(at + OUTSIDE_STATE);
  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>frame + n;
    store<f32>(ring + <usize>(now & mask) * 4, load<f32>(src + <usize>n * 4));
    const there = load<f32>(ring + <usize>((now - latency) & mask) * 4);
    let x = there;
    if (unit == 1) {
      const echo = load<f32>(spring + <usize>((now - long) & springMask) * 4);
      // With the fade: what begins at full level would come back as an edge.
      lowed += low * (there * drive * fade + back * echo - lowed);
      store<f32>(spring + <usize>(now & springMask) * 4, spread(at, kept(lowed)));
      x = echo * level;
    } else if (unit == 2) {
      const hot = there * drive;
      lowed += low * (hot / sqrt<f32>(<f32>1 + hot * hot) - lowed);
      lowed = kept(lowed);
      x = lowed / drive;
    }
    store<f32>(dst + <usize>n * 4, there * dry + (x * fade + hiss((<u32>now) ^ seed) * noise) * wet);
    drive += load<f32>(at + OUTSIDE_DRIVE + 4);
    wet += load<f32>(at + OUTSIDE_WET + 4);
    dry += load<f32>(at + OUTSIDE_DRY + 4);
    noise += load<f32>(at + OUTSIDE_NOISE + 4);
    fade += load<f32>(at + OUTSIDE_FADE + 4);
  }
  store<f32>(at + OUTSIDE_STATE, kept(lowed));
}

/** A chain of first-order all-passes: high and low arrive at different times, as along a coiled wire. */
function spread(at: usize, input: f32): f32 {
  const a = load<f32>(at + OUTSIDE_SPRING + 8);
  let x = input;
  for (let i = 0; i < PASSES; i++) {
    const state = at + OUTSIDE_STATES + <usize>i * 8;
    const y = a * (x - load<f32>(state + 4)) + load<f32>(state);
    store<f32>(state, x);
    store<f32>(state + 4, kept(y));
    x = kept(y);
  }
  return x;
}

/** White noise −1 … 1 from a frame's number (the finaliser of MurmurHash3): no state, the same wherever one begins. */
function hiss(frame: u32): f32 {
  let x = frame * 0x9e3779b1;
  x ^= x >> 16;
  x *= 0x85ebca6b;
  x ^= x >> 13;
  x *= 0xc2b2ae35;
  x ^= x >> 16;
  return <f32>((<i32>x) >> 8) * (1.0 / 8388608.0);
}

export function outsideOp(): i32 {
  const run = outside;
  return run.index;
}

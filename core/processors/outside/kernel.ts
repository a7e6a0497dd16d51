// Outside device: a delay for the way out and back, a unit (a wire, a spring, something tape-like) and a noise floor.
// Rings and noise go by the absolute frame, so that a snapshot of the engine need not copy them.
import { flushed, kept } from '../../kernel/assembly/filters';
import { LANES_BYTES } from '../../kernel/assembly/lanes';
import { PERIOD, PERIOD_BYTES } from '../../kernel/assembly/layout';
import { downFour, FOUR_BYTES, OVERSAMPLE_BYTES, upFour } from '../../kernel/assembly/oversample';
import { ownAt, periodAt } from '../../kernel/assembly/rings';

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
/** Low-pass coefficient; its state in the spring. */
export const OUTSIDE_LOW: usize = 64;
export const OUTSIDE_STATE: usize = 68;
/** The spring's share back, its level, its all-passes' coefficient. */
export const OUTSIDE_SPRING: usize = 72;
/** Value, step. */
export const OUTSIDE_FADE: usize = 84;
/** What came out of each all-pass last, and what went in; the bent wave's last point, of both sides; its oversampler, of both sides. */
export const OUTSIDE_STATES: usize = 96;
const PASSES: usize = 32;
const CAME: usize = OUTSIDE_STATES;
const WENT: usize = CAME + PASSES * 4;
const LAST: usize = WENT + PASSES * 4;
const OVER: usize = LAST + 16;
/** The latency that goes over into the present one, and how far: value, step. */
export const OUTSIDE_WAS: usize = OVER + OVERSAMPLE_BYTES;
export const OUTSIDE_SHARE: usize = OUTSIDE_WAS + 4;
/** The tape's low-pass. */
const TAPE_STATE: usize = OUTSIDE_SHARE + 8;
export const OUTSIDE_BYTES: usize = OUTSIDE_WAS + 16;

// A period each, right after left: what came through the device's delay, the spring's echo, and what the unit makes; lanes of it, and at
// four times the rate.
const THERE = memory.data(512, 16);
const WAS = memory.data(256, 16);
const ECHO = memory.data(256, 16);
const MADE = memory.data(512, 16);
const LANES = memory.data(1024, 16);
const FOUR = memory.data(4096, 16);

/** op: left, right in; left, right out; instances of both, the right one 0 where there is one side. */
function outside(op: usize, frame: i64): void {
  const left: usize = load<u32>(op + 20);
  const right: usize = load<u32>(op + 24);
  const thereL = back(left, load<u32>(op + 4), frame, THERE);
  const thereR = right ? back(right, load<u32>(op + 8), frame, THERE + PERIOD_BYTES) : thereL;
  const unit = load<i32>(left + OUTSIDE_UNIT);
  let madeL = thereL;
  let madeR = thereR;
  if (unit != 1) {
    still(left, frame);
    if (right) still(right, frame);
  }
  if (unit == 1) {
    madeL = sprung(left, frame, thereL, MADE);
    if (right) madeR = sprung(right, frame, thereR, MADE + PERIOD_BYTES);
  } else if (unit == 2) {
    taped(left, right, thereL, thereR);
    madeL = MADE;
    madeR = MADE + PERIOD_BYTES;
  }
  mixed(left, frame, thereL, madeL, load<u32>(op + 12));
  if (right) mixed(right, frame, thereR, madeR, load<u32>(op + 16));
}

/** What comes back from the device: what went to it a latency ago. While that changes it goes over: a spring would throw back the edge. */
function back(at: usize, src: usize, frame: i64, into: usize): usize {
  const ring: usize = load<u32>(at + OUTSIDE_RING);
  const mask = load<i32>(at + MASK);
  memory.copy(ownAt(ring, mask, frame), src, PERIOD_BYTES);
  const there = periodAt(ring, mask, frame - load<i32>(at + OUTSIDE_LATENCY), 0, into);
  if (load<f32>(at + OUTSIDE_SHARE) == 1) return there;
  const before = periodAt(ring, mask, frame - load<i32>(at + OUTSIDE_WAS), 0, WAS);
  let share = ramp(at + OUTSIDE_SHARE);
  for (let n: usize = 0; n < PERIOD_BYTES; n += 16) {
    const old = v128.load(before + n);
    v128.store(into + n, f32x4.add(old, f32x4.mul(share, f32x4.sub(v128.load(there + n), old))));
    share = f32x4.add(share, step(at + OUTSIDE_SHARE));
  }
  return into;
}

/** A spring that nobody hears comes to rest: what it held when it was heard last would sound again. */
function still(at: usize, frame: i64): void {
  memory.fill(ownAt(load<u32>(at + SPRING_RING), load<i32>(at + SPRING_MASK), frame), 0, PERIOD_BYTES);
  store<f32>(at + OUTSIDE_STATE, 0);
  memory.fill(at + CAME, 0, LAST - CAME);
}

/** Wet and noisy beside dry. */
function mixed(at: usize, frame: i64, there: usize, made: usize, dst: usize): void {
  const seed = i32x4.splat(load<i32>(at + SEED));
  const four = i32x4.splat(4);
  let now = i32x4.add(i32x4.splat(<i32>frame), i32x4(0, 1, 2, 3));
  let wet = ramp(at + OUTSIDE_WET);
  let dry = ramp(at + OUTSIDE_DRY);
  let noise = ramp(at + OUTSIDE_NOISE);
  let fade = ramp(at + OUTSIDE_FADE);
  for (let n: usize = 0; n < PERIOD_BYTES; n += 16) {
    const hissed = f32x4.mul(hiss(v128.xor(now, seed)), noise);
    const direct = f32x4.mul(v128.load(there + n), dry);
    v128.store(dst + n, f32x4.add(direct, f32x4.mul(f32x4.add(f32x4.mul(v128.load(made + n), fade), hissed), wet)));
    now = i32x4.add(now, four);
    wet = f32x4.add(wet, step(at + OUTSIDE_WET));
    dry = f32x4.add(dry, step(at + OUTSIDE_DRY));
    noise = f32x4.add(noise, step(at + OUTSIDE_NOISE));
    fade = f32x4.add(fade, step(at + OUTSIDE_FADE));
  }
}

/** The first four values of a ramp, and how far it goes in four frames. */
function ramp(at: usize): v128 {
  return f32x4.add(v128.load32_splat(at), f32x4.mul(v128.load32_splat(at, 4), f32x4(0, 1, 2, 3)));
}
function step(at: usize): v128 {
  return f32x4.splat(load<f32>(at, 4) * 4);
}

/** The echo along a spring; and what goes into it: low-passed, and spread by all-passes, since high and low travel at different speeds. */
function sprung(at: usize, frame: i64, there: usize, made: usize): usize {
  const ring: usize = load<u32>(at + SPRING_RING);
  const mask = load<i32>(at + SPRING_MASK);
  const low = load<f32>(at + OUTSIDE_LOW);
  const back = load<f32>(at + OUTSIDE_SPRING);
  const level = load<f32>(at + OUTSIDE_SPRING + 4);
  const echo = periodAt(ring, mask, frame - load<i32>(at + LONG), 0, ECHO);
  let drive = load<f32>(at + OUTSIDE_DRIVE);
  let fade = load<f32>(at + OUTSIDE_FADE);
  let lowed = load<f32>(at + OUTSIDE_STATE);
  for (let n: usize = 0; n < <usize>PERIOD; n++) {
    const came = load<f32>(echo + n * 4);
    // With the fade: what begins at full level would come back as an edge.
    lowed += low * (load<f32>(there + n * 4) * drive * fade + back * came - lowed);
    lowed = kept(lowed);
    // All passes at once, each a frame behind the one before: what comes out of the last belongs to a frame that long ago.
    const at31 = (<i32>frame + <i32>n - <i32>(PASSES - 1)) & mask;
    store<f32>(made + n * 4, came * level);
    store<f32>(ring + <usize>at31 * 4, spread(at, lowed));
    drive += load<f32>(at + OUTSIDE_DRIVE + 4);
    fade += load<f32>(at + OUTSIDE_FADE + 4);
  }
  store<f32>(at + OUTSIDE_STATE, lowed);
  for (let i: usize = CAME; i < LAST; i += 16) v128.store(at + i, flushed(v128.load(at + i)));
  return made;
}

/** One step of a chain of first-order all-passes, a·(x − y₁) + x₁, four to a register. */
function spread(at: usize, input: f32): f32 {
  const a = v128.load32_splat(at + OUTSIDE_SPRING + 8);
  let state = at + CAME + (PASSES - 4) * 4;
  let came = v128.load(state);
  for (; state > at + CAME; state -= 16) {
    const before = v128.load(state - 16);
    const x = v128.shuffle<f32>(before, came, 3, 4, 5, 6);
    v128.store(state, f32x4.add(f32x4.mul(a, f32x4.sub(x, came)), v128.load(state, WENT - CAME)));
    v128.store(state, x, WENT - CAME);
    came = before;
  }
  const x = v128.shuffle<f32>(f32x4.splat(input), came, 3, 4, 5, 6);
  v128.store(state, f32x4.add(f32x4.mul(a, f32x4.sub(x, came)), v128.load(state, WENT - CAME)));
  v128.store(state, x, WENT - CAME);
  return load<f32>(at + CAME + (PASSES - 1) * 4);
}

/**
 * x/√(1 + x²) at four times the rate, by the mean of it over each step (J. Parker, V. Zavalishin, E. Le Bivic, "Reducing the aliasing of
 * nonlinear waveshaping using continuous-time convolution", DAFx 2016): its integral is √(1 + x²), so that the mean is
 * (x₁ + x₀)/(√(1 + x₁²) + √(1 + x₀²)). Then a low-pass. Both sides go through the left one's oversampler; where there is one it is
 * both, so that it can become two.
 */
function taped(at: usize, right: usize, thereL: usize, thereR: usize): void {
  let drive = load<f32>(at + OUTSIDE_DRIVE);
  const driveStep = load<f32>(at + OUTSIDE_DRIVE + 4);
  for (let n: usize = 0; n < <usize>PERIOD; n++) {
    const both = f32x4.replace_lane(v128.load32_zero(thereL + n * 4), 1, load<f32>(thereR + n * 4));
    v128.store(LANES + n * 16, f32x4.mul(both, f32x4.splat(drive)));
    drive += driveStep;
  }
  upFour(at + OVER, LANES, FOUR);
  const one = f32x4.splat(1);
  let last = v128.load(at + LAST);
  let lastRoot = f32x4.sqrt(f32x4.add(one, f32x4.mul(last, last)));
  for (let i: usize = 0; i < FOUR_BYTES; i += 16) {
    const x = v128.load(FOUR + i);
    const root = f32x4.sqrt(f32x4.add(one, f32x4.mul(x, x)));
    v128.store(FOUR + i, f32x4.div(f32x4.add(x, last), f32x4.add(root, lastRoot)));
    last = x;
    lastRoot = root;
  }
  v128.store(at + LAST, flushed(last));
  downFour(at + OVER, FOUR, LANES);
  const low = f32x4.splat(load<f32>(at + OUTSIDE_LOW));
  const other = right ? right : at;
  let lowed = f32x4.replace_lane(v128.load32_zero(at + TAPE_STATE), 1, load<f32>(other + TAPE_STATE));
  drive = load<f32>(at + OUTSIDE_DRIVE);
  for (let n: usize = 0; n < LANES_BYTES; n += 16) {
    lowed = flushed(f32x4.add(lowed, f32x4.mul(low, f32x4.sub(v128.load(LANES + n), lowed))));
    const made = f32x4.div(lowed, f32x4.splat(drive));
    v128.store32_lane(MADE + n / 4, made, 0);
    v128.store32_lane(MADE + PERIOD_BYTES + n / 4, made, 1);
    drive += driveStep;
  }
  v128.store32_lane(at + TAPE_STATE, lowed, 0);
  v128.store32_lane(other + TAPE_STATE, lowed, 1);
}

/** White noise −1 … 1 from frames' numbers (the finaliser of MurmurHash3): no state, the same wherever one begins. */
function hiss(frames: v128): v128 {
  let x = i32x4.mul(frames, i32x4.splat(0x9e3779b1));
  x = v128.xor(x, i32x4.shr_u(x, 16));
  x = i32x4.mul(x, i32x4.splat(0x85ebca6b));
  x = v128.xor(x, i32x4.shr_u(x, 13));
  x = i32x4.mul(x, i32x4.splat(0xc2b2ae35));
  x = v128.xor(x, i32x4.shr_u(x, 16));
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(x, 8)), f32x4.splat(1.0 / 8388608.0));
}

export function outsideOp(): i32 {
  const run = outside;
  return run.index;
}

// Reverb: pre-delay, low cut, four all-passes a side, sixteen delay lines mixed by a Hadamard matrix, damping, width. No line and no
// all-pass is shorter than a period, so that each step is done for a whole period at once, four frames or four lines side by side.
import { flushed } from '../../kernel/assembly/filters';
import { gather, LANES_BYTES, scatter } from '../../kernel/assembly/lanes';
import { PERIOD_BYTES, TINY } from '../../kernel/assembly/layout';
import { ownAt, periodAt } from '../../kernel/assembly/rings';

// The instance's header, in bytes from its start.
export const REVERB_PRE_DELAY: usize = 0;
/** Lengths of the lines, and of four all-passes a side, frames. */
export const REVERB_LINES: usize = 4;
export const REVERB_DIFFUSERS: usize = 68;
/** Masks of pre-delay, lines and all-passes. */
export const REVERB_MASKS: usize = 100;
/** Gain and damping of each line. */
export const REVERB_GAINS: usize = 112;
export const REVERB_DAMPS: usize = 176;
export const REVERB_LOW_CUT: usize = 240;
/** Wet value, step; dry value, step. */
export const REVERB_WET: usize = 244;
/** Gain of the difference of the sides: value, step. */
export const REVERB_SIDE: usize = 260;
/** Addresses of the rings: pre-delay, lines, all-passes. */
export const REVERB_RINGS: usize = 268;
/** Share of what goes in: value, step. */
export const REVERB_HUSH: usize = 280;
/** Whether all that is in it is to be forgotten, and the frame since when it remembers. */
export const REVERB_FORGET: usize = 288;
const SINCE: usize = 296;
/** States of the low cut and of the damping. */
const CUT: usize = 304;
const DAMPED: usize = 320;
export const REVERB_BYTES: usize = 384;

/** Bytes between rings: at a power of two from each other all of them would be in each other's place in the nearest cache. */
export const REVERB_APART: usize = 320;

/** All-pass coefficient. */
const DIFFUSION: f32 = 0.62;

// A period each: sides, silence, both sides as lanes; sixteen lines where they cannot be read in place, then as lanes, four by four; sums
// of what goes out.
const LEFT = memory.data(256, 16);
const RIGHT = memory.data(256, 16);
const NOTHING = memory.data(256, 16);
const FEED = memory.data(1024, 16);
const SPARE = memory.data(4096, 16);
const LANES = memory.data(4096, 16);
const SUMS = memory.data(2048, 16);

function reverb(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const at: usize = load<u32>(op + 20);
  if (load<i32>(at + REVERB_FORGET)) {
    store<i32>(at + REVERB_FORGET, 0);
    store<i64>(at + SINCE, frame);
    memory.fill(at + CUT, 0, REVERB_BYTES - CUT);
  }
  const since = load<i64>(at + SINCE);
  const mask = load<i32>(at + REVERB_MASKS);
  const left: usize = load<u32>(at + REVERB_RINGS);
  const right = left + <usize>(mask + 1) * 4 + REVERB_APART;
  memory.copy(ownAt(left, mask, frame), srcL, PERIOD_BYTES);
  memory.copy(ownAt(right, mask, frame), srcR, PERIOD_BYTES);
  const delayed = frame - load<i32>(at + REVERB_PRE_DELAY);
  prepare(at, periodAt(left, mask, delayed, 0, LEFT), periodAt(right, mask, delayed, 0, RIGHT));
  for (let i = 0; i < 4; i++) {
    allpass(at, i, frame, since, LEFT);
    allpass(at, i + 4, frame, since, RIGHT);
  }
  gather(FEED, LEFT, RIGHT, NOTHING, NOTHING);
  for (let four = 0; four < 16; four += 4) read(at, four, frame, since);
  round(at);
  for (let four = 0; four < 16; four += 4) write(at, four, frame);
  output(at, srcL, srcR, load<u32>(op + 12), load<u32>(op + 16));
}

function lineAt(at: usize, i: i32): usize {
  const bytes = <usize>(load<i32>(at + REVERB_MASKS + 4) + 1) * 4 + REVERB_APART;
  return <usize>load<u32>(at + REVERB_RINGS + 4) + <usize>i * bytes;
}

/** Where the i-th line's next period comes out of it. */
function comesFrom(at: usize, i: i32, frame: i64, since: i64): usize {
  const length = load<i32>(at + REVERB_LINES + <usize>i * 4);
  return periodAt(lineAt(at, i), load<i32>(at + REVERB_MASKS + 4), frame - length, since, SPARE + <usize>i * PERIOD_BYTES);
}

function read(at: usize, i: i32, frame: i64, since: i64): void {
  gather(
    LANES + <usize>i * PERIOD_BYTES,
    comesFrom(at, i, frame, since),
    comesFrom(at, i + 1, frame, since),
    comesFrom(at, i + 2, frame, since),
    comesFrom(at, i + 3, frame, since)
  );
}

function write(at: usize, i: i32, frame: i64): void {
  const mask = load<i32>(at + REVERB_MASKS + 4);
  scatter(
    LANES + <usize>i * PERIOD_BYTES,
    ownAt(lineAt(at, i), mask, frame),
    ownAt(lineAt(at, i + 1), mask, frame),
    ownAt(lineAt(at, i + 2), mask, frame),
    ownAt(lineAt(at, i + 3), mask, frame)
  );
}

/** Low cut and hush of what comes in. */
function prepare(at: usize, left: usize, right: usize): void {
  const cut = load<f32>(at + REVERB_LOW_CUT);
  let cutL = load<f32>(at + CUT);
  let cutR = load<f32>(at + CUT + 4);
  let hush = load<f32>(at + REVERB_HUSH);
  const hushStep = load<f32>(at + REVERB_HUSH + 4);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 4) {
    const l = load<f32>(left + i);
    const r = load<f32>(right + i);
    cutL += cut * (l - cutL);
    cutR += cut * (r - cutR);
    store<f32>(LEFT + i, (l - cutL) * hush);
    store<f32>(RIGHT + i, (r - cutR) * hush);
    hush += hushStep;
  }
  store<f32>(at + CUT, abs<f32>(cutL) < TINY ? <f32>0 : cutL);
  store<f32>(at + CUT + 4, abs<f32>(cutR) < TINY ? <f32>0 : cutR);
}

function allpass(at: usize, i: i32, frame: i64, since: i64, signal: usize): void {
  const mask = load<i32>(at + REVERB_MASKS + 8);
  const ring = <usize>load<u32>(at + REVERB_RINGS + 8) + <usize>i * (<usize>(mask + 1) * 4 + REVERB_APART);
  const length = load<i32>(at + REVERB_DIFFUSERS + <usize>i * 4);
  const from = periodAt(ring, mask, frame - length, since, SPARE);
  const into = ownAt(ring, mask, frame);
  const share = f32x4.splat(DIFFUSION);
  for (let n: usize = 0; n < PERIOD_BYTES; n += 16) {
    const old = v128.load(from + n);
    const fed = flushed(f32x4.add(v128.load(signal + n), f32x4.mul(share, old)));
    v128.store(into + n, fed);
    v128.store(signal + n, f32x4.sub(old, f32x4.mul(share, fed)));
  }
}

/**
 * Once round: what the lines give is summed for both sides; one pole of damping, then the loss that makes every line decay by 60 dB in the
 * same time and the matrix's scale, ¼; what comes in; and the Hadamard matrix of order 16, which spreads that over all lines.
 */
function round(at: usize): void {
  const quarter = f32x4.splat(0.25);
  const gainA = f32x4.mul(v128.load(at + REVERB_GAINS), quarter);
  const gainB = f32x4.mul(v128.load(at + REVERB_GAINS, 16), quarter);
  const gainC = f32x4.mul(v128.load(at + REVERB_GAINS, 32), quarter);
  const gainD = f32x4.mul(v128.load(at + REVERB_GAINS, 48), quarter);
  const damps = at + REVERB_DAMPS;
  let stateA = v128.load(at + DAMPED);
  let stateB = v128.load(at + DAMPED, 16);
  let stateC = v128.load(at + DAMPED, 32);
  let stateD = v128.load(at + DAMPED, 48);
  for (let n: usize = 0; n < LANES_BYTES; n += 16) {
    const lanes = LANES + n;
    const a = v128.load(lanes);
    const b = v128.load(lanes, LANES_BYTES);
    const c = v128.load(lanes, LANES_BYTES * 2);
    const d = v128.load(lanes, LANES_BYTES * 3);
    // Signs of fours of lines; `output` has those within them.
    v128.store(SUMS + n, f32x4.add(f32x4.add(a, b), f32x4.sub(c, d)));
    v128.store(SUMS + LANES_BYTES + n, f32x4.add(f32x4.sub(a, b), f32x4.add(c, d)));
    stateA = f32x4.add(stateA, f32x4.mul(v128.load(damps), f32x4.sub(a, stateA)));
    stateB = f32x4.add(stateB, f32x4.mul(v128.load(damps, 16), f32x4.sub(b, stateB)));
    stateC = f32x4.add(stateC, f32x4.mul(v128.load(damps, 32), f32x4.sub(c, stateC)));
    stateD = f32x4.add(stateD, f32x4.mul(v128.load(damps, 48), f32x4.sub(d, stateD)));
    const x = f32x4.mul(stateA, gainA);
    const y = f32x4.mul(stateB, gainB);
    const z = f32x4.mul(stateC, gainC);
    const w = f32x4.add(f32x4.mul(stateD, gainD), v128.load(FEED + n));
    const xy = f32x4.add(x, y);
    const zw = f32x4.add(z, w);
    const xNotY = f32x4.sub(x, y);
    const zNotW = f32x4.sub(z, w);
    v128.store(lanes, hadamard4(f32x4.add(xy, zw)));
    v128.store(lanes, hadamard4(f32x4.add(xNotY, zNotW)), LANES_BYTES);
    v128.store(lanes, hadamard4(f32x4.sub(xy, zw)), LANES_BYTES * 2);
    v128.store(lanes, hadamard4(f32x4.sub(xNotY, zNotW)), LANES_BYTES * 3);
  }
  v128.store(at + DAMPED, flushed(stateA));
  v128.store(at + DAMPED, flushed(stateB), 16);
  v128.store(at + DAMPED, flushed(stateC), 32);
  v128.store(at + DAMPED, flushed(stateD), 48);
}

/** Hadamard of order 4 across the lanes, kept clear of denormals. */
function hadamard4(x: v128): v128 {
  const pairs = f32x4.add(v128.shuffle<f32>(x, x, 1, 0, 3, 2), f32x4.mul(x, f32x4(1, -1, 1, -1)));
  return flushed(f32x4.add(v128.shuffle<f32>(pairs, pairs, 2, 3, 0, 1), f32x4.mul(pairs, f32x4(1, 1, -1, -1))));
}

/** Sums of four lanes with their signs, for four frames. */
function summed(lanes: usize, signs: v128): v128 {
  const a = f32x4.mul(v128.load(lanes), signs);
  const b = f32x4.mul(v128.load(lanes, 16), signs);
  const c = f32x4.mul(v128.load(lanes, 32), signs);
  const d = f32x4.mul(v128.load(lanes, 48), signs);
  const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(a, b, 1, 3, 5, 7));
  const cd = f32x4.add(v128.shuffle<f32>(c, d, 0, 2, 4, 6), v128.shuffle<f32>(c, d, 1, 3, 5, 7));
  return f32x4.add(v128.shuffle<f32>(ab, cd, 0, 2, 4, 6), v128.shuffle<f32>(ab, cd, 1, 3, 5, 7));
}

/** Dry and wet together; the difference of the wet sides by its width. */
function output(at: usize, srcL: usize, srcR: usize, dstL: usize, dstR: usize): void {
  const ramp = f32x4(0, 1, 2, 3);
  let wet = f32x4.add(v128.load32_splat(at + REVERB_WET), f32x4.mul(v128.load32_splat(at + REVERB_WET + 4), ramp));
  const wetStep = f32x4.splat(load<f32>(at + REVERB_WET + 4) * 4);
  let dry = f32x4.add(v128.load32_splat(at + REVERB_WET + 8), f32x4.mul(v128.load32_splat(at + REVERB_WET + 12), ramp));
  const dryStep = f32x4.splat(load<f32>(at + REVERB_WET + 12) * 4);
  let side = f32x4.add(v128.load32_splat(at + REVERB_SIDE), f32x4.mul(v128.load32_splat(at + REVERB_SIDE + 4), ramp));
  const sideStep = f32x4.splat(load<f32>(at + REVERB_SIDE + 4) * 4);
  const half = f32x4.splat(0.5);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    const l = summed(SUMS + i * 4, f32x4(1, 1, 1, -1));
    const r = summed(SUMS + LANES_BYTES + i * 4, f32x4(1, 1, -1, 1));
    const mid = f32x4.mul(f32x4.add(l, r), half);
    const apart = f32x4.mul(f32x4.mul(f32x4.sub(l, r), half), side);
    const inL = v128.load(srcL + i);
    const inR = v128.load(srcR + i);
    v128.store(dstL + i, f32x4.add(f32x4.mul(inL, dry), f32x4.mul(f32x4.add(mid, apart), wet)));
    v128.store(dstR + i, f32x4.add(f32x4.mul(inR, dry), f32x4.mul(f32x4.sub(mid, apart), wet)));
    wet = f32x4.add(wet, wetStep);
    dry = f32x4.add(dry, dryStep);
    side = f32x4.add(side, sideStep);
  }
}

/** Loss a round for a line of `frames` so that the level falls by 60 dB in `seconds`. */
export function decayGain(frames: f64, seconds: f64, rate: f64): f64 {
  return NativeMath.pow(10, (-3 * frames) / (seconds * rate));
}

/** 1 − p of the pole that, once a round of a line of `frames`, doubles the loss at `freq`: there it decays in half the time. */
export function decayDamp(frames: f64, seconds: f64, freq: f64, rate: f64): f64 {
  const loss = NativeMath.pow(10, (-6 * frames) / (seconds * rate));
  // (1 − p)² / (1 − 2p·cos ω + p²) = loss.
  const turned = 1 - loss * NativeMath.cos((2 * NativeMath.PI * freq) / rate);
  return 1 - (1 - loss) / (turned + NativeMath.sqrt(turned * turned - (1 - loss) * (1 - loss)));
}

export function reverbOp(): i32 {
  const run = reverb;
  return run.index;
}

// Reverb: pre-delay, low cut, four all-passes a side, eight delay lines mixed by a Hadamard matrix, damping, width.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { flushed, kept } from '../../kernel/assembly/filters';
import { PERIOD, TINY } from '../../kernel/assembly/layout';

// The instance's header, in bytes from its start.
export const REVERB_PRE_DELAY: usize = 0;
/** Lengths of eight lines, and of four all-passes a side, frames. */
export const REVERB_LINES: usize = 4;
export const REVERB_DIFFUSERS: usize = 36;
/** Masks of pre-delay, lines and all-passes. */
export const REVERB_MASKS: usize = 68;
/** Gains of the lines. */
export const REVERB_GAINS: usize = 80;
export const REVERB_DAMP: usize = 112;
export const REVERB_LOW_CUT: usize = 116;
/** Wet value, step; dry value, step. */
export const REVERB_WET: usize = 120;
/** Gain of the difference of the sides: value, step. */
export const REVERB_SIDE: usize = 136;
/** States of the damping and of the low cut. */
const DAMPED: usize = 144;
const CUT: usize = 176;
/** Addresses of the rings: pre-delay, lines, all-passes. */
export const REVERB_RINGS: usize = 184;
/** Share of what goes into the lines: value, step. */
export const REVERB_HUSH: usize = 196;
export const REVERB_BYTES: usize = 208;

/** All-pass coefficient. */
const DIFFUSION: f32 = 0.62;

function reverb(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const preDelay = load<i32>(at + REVERB_PRE_DELAY);
  const preMask = load<i32>(at + REVERB_MASKS);
  const lineMask = load<i32>(at + REVERB_MASKS + 4);
  const diffuserMask = load<i32>(at + REVERB_MASKS + 8);
  const pre: usize = load<u32>(at + REVERB_RINGS);
  const lines: usize = load<u32>(at + REVERB_RINGS + 4);
  const diffusers: usize = load<u32>(at + REVERB_RINGS + 8);
  const lineBytes = <usize>(lineMask + 1) * 4;
  const gainsA = v128.load(at + REVERB_GAINS);
  const gainsB = v128.load(at + REVERB_GAINS + 16);
  const damp = f32x4.splat(load<f32>(at + REVERB_DAMP));
  const cut = load<f32>(at + REVERB_LOW_CUT);
  let dampedA = v128.load(at + DAMPED);
  let dampedB = v128.load(at + DAMPED + 16);
  let cutL = load<f32>(at + CUT);
  let cutR = load<f32>(at + CUT + 4);
  let wet = load<f32>(at + REVERB_WET);
  const wetStep = load<f32>(at + REVERB_WET + 4);
  let dry = load<f32>(at + REVERB_WET + 8);
  const dryStep = load<f32>(at + REVERB_WET + 12);
  let side = load<f32>(at + REVERB_SIDE);
  const sideStep = load<f32>(at + REVERB_SIDE + 4);
  let hush = load<f32>(at + REVERB_HUSH);
  const hushStep = load<f32>(at + REVERB_HUSH + 4);

  for (let n = 0; n < PERIOD; n++) {
    const now = <i32>(frame + n);
    const inL = load<f32>(srcL + <usize>n * 4);
    const inR = load<f32>(srcR + <usize>n * 4);
    const preAt = pre + <usize>(now & preMask) * 8;
    store<f32>(preAt, inL);
    store<f32>(preAt + 4, inR);
    const delayed = pre + <usize>((now - preDelay) & preMask) * 8;
    let l = load<f32>(delayed);
    let r = load<f32>(delayed + 4);
    cutL += cut * (l - cutL);
    cutR += cut * (r - cutR);
    l -= cutL;
    r -= cutR;
    for (let i = 0; i < 4; i++) {
      l = allpass(diffusers, i, diffuserMask, now, load<i32>(at + REVERB_DIFFUSERS + <usize>i * 4), l);
      r = allpass(diffusers, i + 4, diffuserMask, now, load<i32>(at + REVERB_DIFFUSERS + 16 + <usize>i * 4), r);
    }

    const a = f32x4(
      line(lines, lineBytes, lineMask, now, at, 0),
      line(lines, lineBytes, lineMask, now, at, 1),
      line(lines, lineBytes, lineMask, now, at, 2),
      line(lines, lineBytes, lineMask, now, at, 3)
    );
    const b = f32x4(
      line(lines, lineBytes, lineMask, now, at, 4),
      line(lines, lineBytes, lineMask, now, at, 5),
      line(lines, lineBytes, lineMask, now, at, 6),
      line(lines, lineBytes, lineMask, now, at, 7)
    );
    // One pole of damping a line, then the loss that makes every line decay by 60 dB in the same time.
    dampedA = f32x4.add(dampedA, f32x4.mul(damp, f32x4.sub(a, dampedA)));
    dampedB = f32x4.add(dampedB, f32x4.mul(damp, f32x4.sub(b, dampedB)));
    const x = f32x4.mul(dampedA, gainsA);
    const y = f32x4.mul(dampedB, gainsB);
    // Hadamard of order 8, scaled by 1/√8.
    const s = f32x4.add(x, y);
    const d = f32x4.sub(x, y);
    const mixedA = f32x4.mul(hadamard4(s), f32x4.splat(0.35355339059327373));
    const mixedB = f32x4.mul(hadamard4(d), f32x4.splat(0.35355339059327373));
    const feed = f32x4(l, r, -l, r);
    const share = f32x4.splat(hush);
    put(lines, lineBytes, lineMask, now, 0, f32x4.mul(f32x4.add(mixedA, feed), share));
    put(lines, lineBytes, lineMask, now, 4, f32x4.mul(f32x4.add(mixedB, feed), share));

    const outL = f32x4.extract_lane(a, 0) - f32x4.extract_lane(a, 2) + f32x4.extract_lane(b, 0) - f32x4.extract_lane(b, 2);
    const outR = f32x4.extract_lane(a, 1) + f32x4.extract_lane(a, 3) - f32x4.extract_lane(b, 1) - f32x4.extract_lane(b, 3);
    const mid = (outL + outR) * 0.5;
    const apart = (outL - outR) * 0.5 * side;
    store<f32>(dstL + <usize>n * 4, inL * dry + (mid + apart) * wet);
    store<f32>(dstR + <usize>n * 4, inR * dry + (mid - apart) * wet);
    wet += wetStep;
    dry += dryStep;
    side += sideStep;
    hush += hushStep;
  }
  v128.store(at + DAMPED, flushed(dampedA));
  v128.store(at + DAMPED + 16, flushed(dampedB));
  store<f32>(at + CUT, abs<f32>(cutL) < TINY ? <f32>0 : cutL);
  store<f32>(at + CUT + 4, abs<f32>(cutR) < TINY ? <f32>0 : cutR);
}

function line(lines: usize, bytes: usize, mask: i32, now: i32, at: usize, i: i32): f32 {
  const length = load<i32>(at + REVERB_LINES + <usize>i * 4);
  return load<f32>(lines + <usize>i * bytes + <usize>((now - length) & mask) * 4);
}

function put(lines: usize, bytes: usize, mask: i32, now: i32, first: i32, x: v128): void {
  const to = lines + <usize>first * bytes + <usize>(now & mask) * 4;
  const clean = flushed(x);
  store<f32>(to, f32x4.extract_lane(clean, 0));
  store<f32>(to + bytes, f32x4.extract_lane(clean, 1));
  store<f32>(to + bytes * 2, f32x4.extract_lane(clean, 2));
  store<f32>(to + bytes * 3, f32x4.extract_lane(clean, 3));
}

function hadamard4(x: v128): v128 {
  const even = v128.shuffle<f32>(x, x, 0, 0, 2, 2);
  const odd = v128.shuffle<f32>(x, x, 1, 1, 3, 3);
  const pairs = f32x4.add(even, f32x4.mul(odd, f32x4(1, -1, 1, -1)));
  const low = v128.shuffle<f32>(pairs, pairs, 0, 1, 0, 1);
  const high = v128.shuffle<f32>(pairs, pairs, 2, 3, 2, 3);
  return f32x4.add(low, f32x4.mul(high, f32x4(1, 1, -1, -1)));
}

function allpass(rings: usize, i: i32, mask: i32, now: i32, length: i32, x: f32): f32 {
  const ring = rings + <usize>i * <usize>(mask + 1) * 4;
  const old = load<f32>(ring + <usize>((now - length) & mask) * 4);
  const fed = kept(x + DIFFUSION * old);
  store<f32>(ring + <usize>(now & mask) * 4, fed);
  return old - DIFFUSION * fed;
}

/** Loss a round for a line of `frames` so that the level falls by 60 dB in `seconds`. */
export function decayGain(frames: f64, seconds: f64, rate: f64): f64 {
  return NativeMath.pow(10, (-3 * frames) / (seconds * rate));
}

export function reverbOp(): i32 {
  const run = reverb;
  return run.index;
}

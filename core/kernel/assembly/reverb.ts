// Reverb: pre-delay, low cut, four all-passes a side, eight delay lines mixed by a Hadamard matrix, damping, width.
// Rings are indexed by the absolute frame, so that a snapshot of the engine need not copy them.
import { PERIOD, TINY } from './layout';
import { flushed } from './eq';

// The instance's header, in bytes from its start:
//   0 pre-delay frames · 4 line lengths[8] · 36 all-pass lengths[2][4] · 68 masks: pre-delay, line, all-pass
//   80 line gains[8] f32 · 112 damping · 116 low-cut · 120 wet, wet step, dry, dry step · 136 side gain, step
//   144 damping states[8] · 176 low-cut states[2] · 184 ring addresses: pre-delay, lines, all-passes
//   196 share of what goes into the lines, step
const LENGTHS: usize = 4;
const DIFFUSERS: usize = 36;
const MASKS: usize = 68;
const GAINS: usize = 80;
const DAMP: usize = 112;
const LOW_CUT: usize = 116;
const WET: usize = 120;
const SIDE: usize = 136;
const DAMPED: usize = 144;
const CUT: usize = 176;
const RINGS: usize = 184;
const HUSH: usize = 196;

/** All-pass coefficient. */
const DIFFUSION: f32 = 0.62;

export function reverb(op: usize, frame: i64): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  const preDelay = load<i32>(at);
  const preMask = load<i32>(at + MASKS);
  const lineMask = load<i32>(at + MASKS + 4);
  const diffuserMask = load<i32>(at + MASKS + 8);
  const pre: usize = load<u32>(at + RINGS);
  const lines: usize = load<u32>(at + RINGS + 4);
  const diffusers: usize = load<u32>(at + RINGS + 8);
  const lineBytes = <usize>(lineMask + 1) * 4;
  const gainsA = v128.load(at + GAINS);
  const gainsB = v128.load(at + GAINS + 16);
  const damp = f32x4.splat(load<f32>(at + DAMP));
  const cut = load<f32>(at + LOW_CUT);
  let dampedA = v128.load(at + DAMPED);
  let dampedB = v128.load(at + DAMPED + 16);
  let cutL = load<f32>(at + CUT);
  let cutR = load<f32>(at + CUT + 4);
  let wet = load<f32>(at + WET);
  const wetStep = load<f32>(at + WET + 4);
  let dry = load<f32>(at + WET + 8);
  const dryStep = load<f32>(at + WET + 12);
  let side = load<f32>(at + SIDE);
  const sideStep = load<f32>(at + SIDE + 4);
  let hush = load<f32>(at + HUSH);
  const hushStep = load<f32>(at + HUSH + 4);

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
      l = allpass(diffusers, i, diffuserMask, now, load<i32>(at + DIFFUSERS + <usize>i * 4), l);
      r = allpass(diffusers, i + 4, diffuserMask, now, load<i32>(at + DIFFUSERS + 16 + <usize>i * 4), r);
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

/** What goes into a ring: with everything under `TINY` as 0, since a decaying tail would end in denormals. */
function kept(x: f32): f32 {
  return abs<f32>(x) < TINY ? <f32>0 : x;
}

function line(lines: usize, bytes: usize, mask: i32, now: i32, at: usize, i: i32): f32 {
  const length = load<i32>(at + LENGTHS + <usize>i * 4);
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

/** Coefficient of a one-pole at `freq`: 1 − e^(−2πf/fs). */
export function onePole(freq: f64, rate: f64): f64 {
  return 1 - NativeMath.exp((-2 * NativeMath.PI * freq) / rate);
}

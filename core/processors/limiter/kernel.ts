// Limiter with fixed look-ahead: true peak by eightfold interpolation and a parabola through what it finds, the smallest gain within the
// window, a release, and a running mean over the window, so that the gain has arrived when the peak does. Both sides share one gain.
import { PERIOD, PERIOD_BYTES } from '../../kernel/assembly/layout';

// The instance, in bytes from its start. Histories are linear: what went before, then the present period. Signal: W + 23 + 64 frames,
// gains: W + 64.
/** Window W in frames. */
export const LIMITER_WINDOW: usize = 0;
/** Addresses of the histories of left, right, needed gains and gains, of the interpolator, and of room to work in as long as gains. */
export const LIMITER_LEFT: usize = 4;
const RIGHT: usize = 8;
const NEEDED: usize = 12;
const GAINS: usize = 16;
const TABLE: usize = 20;
const WORK: usize = 24;
export const LIMITER_RELEASE: usize = 28;
/** Value, step. */
export const LIMITER_CEILING: usize = 32;
export const LIMITER_DRIVE: usize = 40;
export const LIMITER_DEEPEST: usize = 48;
/** From here on all is what it goes on from: the reduction, f64, since float32 would stop short of its target. */
export const LIMITER_STATE: usize = 56;
/** For so many frames nothing needed a gain, and no gain was under 1. */
const UNTOUCHED: usize = 64;
const OPEN: usize = 68;
/** The last point before the present period, per side, in the last lane. */
export const LIMITER_LAST_LEFT: usize = 80;
export const LIMITER_LAST_RIGHT: usize = 96;
export const LIMITER_BYTES: usize = 112;
export const LIMITER_TABLE_FLOATS: i32 = 192;

/** Frames that the interpolator reads on either side of a point. */
const HALF: i32 = 24;
/** Under this a reduction is none: float32 cannot tell the gain from 1. */
const NOTHING: f64 = 1e-9;
/** More than any point's weights, and the parabola's share, add up to. */
const MOST_GAIN: f32 = 3;

function limiter(op: usize, _frame: i64): void {
  const at: usize = load<u32>(op + 20);
  const window = load<i32>(at + LIMITER_WINDOW);
  const late = <usize>(window + HALF - 1) * 4;
  const left: usize = load<u32>(at + LIMITER_LEFT);
  const right: usize = load<u32>(at + RIGHT);
  const needed: usize = load<u32>(at + NEEDED);
  const gains: usize = load<u32>(at + GAINS);
  const back = <usize>window * 4;
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const stereo = srcL != srcR;
  driven(left + late, srcL, at + LIMITER_DRIVE);
  if (stereo) driven(right + late, srcR, at + LIMITER_DRIVE);

  const untouched = load<i32>(at + UNTOUCHED);
  const open = load<i32>(at + OPEN);
  const free = need(at, left + late, right + late, needed + back, stereo);
  store<i32>(at + UNTOUCHED, free ? min<i32>(untouched + PERIOD, window + PERIOD) : 0);
  if (free && untouched >= window && load<f64>(at + LIMITER_STATE) == 0) {
    const one = f32x4.splat(1);
    for (let i: usize = 0; i < PERIOD_BYTES; i += 16) v128.store(gains + back + i, one);
    store<i32>(at + OPEN, min<i32>(open + PERIOD, window + PERIOD));
  } else {
    store<i32>(at + OPEN, 0);
    follow(at, needed, gains + back, window);
  }

  if (open >= window && load<i32>(at + OPEN) > 0) {
    memory.copy(dstL, left, PERIOD_BYTES);
    if (stereo) memory.copy(dstR, right, PERIOD_BYTES);
  } else {
    const work: usize = load<u32>(at + WORK);
    sums(gains, work, window);
    const frames = f32x4.splat(<f32>window);
    for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
      const gain = f32x4.div(v128.load(SUMS + i), frames);
      v128.store(dstL + i, f32x4.mul(v128.load(left + i), gain));
      if (stereo) v128.store(dstR + i, f32x4.mul(v128.load(right + i), gain));
    }
  }
  memory.copy(left, left + PERIOD_BYTES, late);
  if (stereo) memory.copy(right, right + PERIOD_BYTES, late);
  memory.copy(needed, needed + PERIOD_BYTES, back);
  memory.copy(gains, gains + PERIOD_BYTES, back);
}

/** Writes the gains that the newest frames need; whether none of them needs one. */
function need(at: usize, left: usize, right: usize, needed: usize, stereo: bool): bool {
  const fir: usize = load<u32>(at + TABLE);
  const one = f32x4.splat(1);
  const from = load<f32>(at + LIMITER_CEILING);
  const step = load<f32>(at + LIMITER_CEILING + 4);
  // What stays so far under the ceiling cannot pass it between the frames either.
  const lowest = min<f32>(from, from + step * <f32>PERIOD);
  if (max<f32>(loudest(left), stereo ? loudest(right) : 0) * MOST_GAIN < lowest) {
    for (let i: usize = 0; i < PERIOD_BYTES; i += 16) v128.store(needed + i, one);
    // The next period begins with the last point of this one.
    const end = PERIOD_BYTES - 16;
    peakAt(left + end, fir, at + LIMITER_LAST_LEFT);
    if (stereo) peakAt(right + end, fir, at + LIMITER_LAST_RIGHT);
    return true;
  }
  let ceiling = f32x4.add(f32x4.splat(from), f32x4.mul(f32x4.splat(step), f32x4(0, 1, 2, 3)));
  const ceilingStep = f32x4.splat(step * 4);
  let least = one;
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    let peak = peakAt(left + i, fir, at + LIMITER_LAST_LEFT);
    if (stereo) peak = f32x4.pmax(peak, peakAt(right + i, fir, at + LIMITER_LAST_RIGHT));
    const gain = f32x4.pmin(one, f32x4.div(ceiling, f32x4.pmax(peak, f32x4.splat(1e-9))));
    least = f32x4.pmin(least, gain);
    v128.store(needed + i, gain);
    ceiling = f32x4.add(ceiling, ceilingStep);
  }
  return i32x4.all_true(f32x4.eq(least, one));
}

/** The gains of a period: the least that is needed within the window, and the release from it. */
function follow(at: usize, needed: usize, gains: usize, window: i32): void {
  const work: usize = load<u32>(at + WORK);
  const least = leasts(needed, work, window + 1);
  const release = load<f32>(at + LIMITER_RELEASE);
  let reduction = load<f64>(at + LIMITER_STATE);
  let deepest = load<f32>(at + LIMITER_DEEPEST);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 4) {
    reduction = released(reduction, 1 - load<f32>(least + i), release);
    store<f32>(gains + i, <f32>(1 - reduction));
    deepest = max<f32>(deepest, <f32>reduction);
  }
  store<f64>(at + LIMITER_STATE, reduction < NOTHING ? 0 : reduction);
  store<f32>(at + LIMITER_DEEPEST, deepest);
}

// Of a window all sums, or leasts, at once: of 2, 4, 8 … frames from those of half as many, in place, and of all from what is there then.

/** Least of `width` values from each frame of a period on; where they are. */
function leasts(from: usize, work: usize, width: i32): usize {
  let source = from;
  let reach = 1;
  for (; reach * 2 <= width; reach *= 2) {
    const bytes = PERIOD_BYTES + <usize>(width - 2 * reach) * 4;
    const step = <usize>reach * 4;
    for (let i: usize = 0; i < bytes; i += 16) v128.store(work + i, f32x4.pmin(v128.load(source + i), v128.load(source + i + step)));
    source = work;
  }
  const rest = <usize>(width - reach) * 4;
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) v128.store(work + i, f32x4.pmin(v128.load(source + i), v128.load(source + i + rest)));
  return work;
}

/** A period of sums. */
const SUMS = memory.data(256, 16);

/** Sums of the `width` values that follow each frame of a period, into `SUMS`. */
function sums(from: usize, work: usize, width: i32): void {
  memory.fill(SUMS, 0, PERIOD_BYTES);
  let source = from + 4;
  let done = 0;
  for (let reach = 1; reach <= width; reach *= 2) {
    if (width & reach) {
      const skip = <usize>done * 4;
      for (let i: usize = 0; i < PERIOD_BYTES; i += 16) v128.store(SUMS + i, f32x4.add(v128.load(SUMS + i), v128.load(source + i + skip)));
      done += reach;
    }
    if (reach * 2 > width) break;
    const bytes = PERIOD_BYTES + <usize>(width - 2 * reach) * 4;
    const step = <usize>reach * 4;
    for (let i: usize = 0; i < bytes; i += 16) v128.store(work + i, f32x4.add(v128.load(source + i), v128.load(source + i + step)));
    source = work;
  }
}

function released(now: f64, wanted: f64, release: f64): f64 {
  return wanted > now ? wanted : now + release * (wanted - now);
}

function driven(dst: usize, src: usize, drive: usize): void {
  let gain = f32x4.add(f32x4.splat(load<f32>(drive)), f32x4.mul(f32x4.splat(load<f32>(drive + 4)), f32x4(0, 1, 2, 3)));
  const step = f32x4.splat(load<f32>(drive + 4) * 4);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    v128.store(dst + i, f32x4.mul(v128.load(src + i), gain));
    gain = f32x4.add(gain, step);
  }
}

/**
 * Largest magnitude from `HALF` frames before each of four frames up to the next frame: at eight points, and between them as a parabola
 * through three has it. Points p and 8 − p lie alike on either side, and share the sums and differences of the frames that they read.
 * `last` keeps the point before the next four.
 */
function peakAt(x: usize, fir: usize, last: usize): v128 {
  let evenA = f32x4.splat(0);
  let oddA = evenA;
  let evenB = evenA;
  let oddB = evenA;
  let evenC = evenA;
  let oddC = evenA;
  let d = evenA;
  const here = x - <usize>HALF * 4;
  for (let j: usize = 0; j < <usize>HALF; j++) {
    const before = v128.load(here - j * 4);
    const after = v128.load(here + 4 + j * 4);
    const sum = f32x4.add(before, after);
    const apart = f32x4.sub(before, after);
    const weights = fir + j * 32;
    evenA = f32x4.add(evenA, f32x4.mul(v128.load32_splat(weights), sum));
    oddA = f32x4.add(oddA, f32x4.mul(v128.load32_splat(weights, 4), apart));
    evenB = f32x4.add(evenB, f32x4.mul(v128.load32_splat(weights, 8), sum));
    oddB = f32x4.add(oddB, f32x4.mul(v128.load32_splat(weights, 12), apart));
    evenC = f32x4.add(evenC, f32x4.mul(v128.load32_splat(weights, 16), sum));
    oddC = f32x4.add(oddC, f32x4.mul(v128.load32_splat(weights, 20), apart));
    d = f32x4.add(d, f32x4.mul(v128.load32_splat(weights, 24), sum));
  }
  const g = f32x4.sub(evenA, oddA);
  const before = v128.shuffle<f32>(v128.load(last), g, 3, 4, 5, 6);
  v128.store(last, g);
  const p0 = v128.load(here);
  const a = f32x4.add(evenA, oddA);
  const b = f32x4.add(evenB, oddB);
  const c = f32x4.add(evenC, oddC);
  const e = f32x4.sub(evenC, oddC);
  const f = f32x4.sub(evenB, oddB);
  const p8 = v128.load(here, 4);
  let peak = f32x4.pmax(f32x4.abs(before), f32x4.abs(p8));
  peak = f32x4.pmax(peak, f32x4.pmax(top(before, p0, a), top(p0, a, b)));
  peak = f32x4.pmax(peak, f32x4.pmax(top(a, b, c), top(b, c, d)));
  peak = f32x4.pmax(peak, f32x4.pmax(top(c, d, e), top(d, e, f)));
  return f32x4.pmax(peak, f32x4.pmax(top(e, f, g), top(f, g, p8)));
}

/**
 * Magnitude where the parabola through three points turns, if that is between them; else the middle one's. Where it leaves them it is an
 * outer point's, which counts by itself: nothing jumps.
 */
function top(a: v128, b: v128, c: v128): v128 {
  const half = f32x4.splat(0.5);
  const slope = f32x4.mul(half, f32x4.sub(c, a));
  const curve = f32x4.sub(f32x4.add(a, c), f32x4.add(b, b));
  const turn = f32x4.neg(f32x4.div(slope, curve));
  const near = v128.and(turn, f32x4.le(f32x4.abs(turn), f32x4.splat(1)));
  return f32x4.abs(f32x4.add(b, f32x4.mul(near, f32x4.add(slope, f32x4.mul(half, f32x4.mul(curve, near))))));
}

/** Largest magnitude among the frames that a period's interpolation reads. */
function loudest(x: usize): f32 {
  let peak = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES + HALF * 8; at += 16) peak = f32x4.pmax(peak, f32x4.abs(v128.load(x + at - HALF * 8)));
  return max<f32>(
    max<f32>(f32x4.extract_lane(peak, 0), f32x4.extract_lane(peak, 1)),
    max<f32>(f32x4.extract_lane(peak, 2), f32x4.extract_lane(peak, 3))
  );
}

/**
 * Writes the interpolator: a sinc under a Kaiser window (β 4.2) of ±24 frames, within 0.09 dB up to 0.47 of the rate. Of each pair of
 * frames at the same distance from the middle, for points 1 to 3 half the sum and half the difference of their weights, and the weight
 * for point 4, the middle.
 */
export function limiterTable(fir: usize): void {
  for (let j = 0; j < HALF; j++) {
    const at = fir + <usize>j * 32;
    for (let point = 1; point <= 4; point++) {
      const before = weight(-(<f64>j) - <f64>point / 8);
      const after = weight(<f64>(j + 1) - <f64>point / 8);
      store<f32>(at + <usize>(point - 1) * 8, <f32>((before + after) / 2));
      if (point < 4) store<f32>(at + <usize>(point - 1) * 8 + 4, <f32>((before - after) / 2));
    }
  }
}

function weight(t: f64): f64 {
  const x = NativeMath.PI * t;
  const u = t / HALF;
  return ((NativeMath.sin(x) / x) * bessel(4.2 * NativeMath.sqrt(max<f64>(0, 1 - u * u)))) / bessel(4.2);
}

/** Modified Bessel function of the first kind, order 0, by its power series. */
function bessel(x: f64): f64 {
  let term: f64 = 1;
  let sum: f64 = 1;
  for (let i = 1; i < 40; i++) {
    term *= (x / 2 / i) * (x / 2 / i);
    sum += term;
  }
  return sum;
}

export function limiterOp(): i32 {
  const run = limiter;
  return run.index;
}

// Limiter with fixed look-ahead: true peak by eightfold interpolation, the smallest gain within the window, a release, and
// a running mean over the window, so that the gain has arrived when the peak does. Both sides share one gain.
import { PERIOD, PERIOD_BYTES, TINY } from '../../kernel/assembly/layout';

// The instance, in bytes from its start. Histories are linear: what went before, then the present period. Signal: W + 15 + 64 frames,
// gains: W + 64.
/** Window W in frames. */
export const LIMITER_WINDOW: usize = 0;
/** Addresses of the histories of left, right, needed gains and gains, and of the interpolator. */
export const LIMITER_LEFT: usize = 4;
const RIGHT: usize = 8;
const NEEDED: usize = 12;
const GAINS: usize = 16;
const TABLE: usize = 20;
export const LIMITER_RELEASE: usize = 24;
/** Value, step. */
export const LIMITER_CEILING: usize = 32;
export const LIMITER_DRIVE: usize = 40;
export const LIMITER_DEEPEST: usize = 48;
/** The reduction, f64: float32 would stop short of its target. */
export const LIMITER_STATE: usize = 56;
export const LIMITER_BYTES: usize = 64;
export const LIMITER_TABLE_FLOATS: i32 = 256;

const TAPS: usize = 32;
const PHASES: i32 = 8;
/** Frames from a peak to where the interpolator sees it. */
const CENTRE: i32 = 16;

function limiter(op: usize, _frame: i64): void {
  const at: usize = load<u32>(op + 20);
  const window = load<i32>(at + LIMITER_WINDOW);
  const late = <usize>(window + CENTRE - 1) * 4;
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

  const fir: usize = load<u32>(at + TABLE);
  const one = f32x4.splat(1);
  const ramp = f32x4(0, 1, 2, 3);
  let ceiling = f32x4.add(f32x4.splat(load<f32>(at + LIMITER_CEILING)), f32x4.mul(f32x4.splat(load<f32>(at + LIMITER_CEILING + 4)), ramp));
  const ceilingStep = f32x4.splat(load<f32>(at + LIMITER_CEILING + 4) * 4);
  // What stays so far under the ceiling cannot pass it between the frames either: no phase's weights add up to 3.
  const lowest = min<f32>(
    load<f32>(at + LIMITER_CEILING),
    load<f32>(at + LIMITER_CEILING) + load<f32>(at + LIMITER_CEILING + 4) * <f32>PERIOD
  );
  const soft = max<f32>(loudest(left + late), stereo ? loudest(right + late) : 0) * 3 < lowest;
  if (soft) for (let i: usize = 0; i < PERIOD_BYTES; i += 16) v128.store(needed + back + i, one);
  else
    for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
      let peak = peakAt(left + late + i, fir);
      if (stereo) peak = f32x4.pmax(peak, peakAt(right + late + i, fir));
      v128.store(needed + back + i, f32x4.pmin(one, f32x4.div(ceiling, f32x4.pmax(peak, f32x4.splat(1e-9)))));
      ceiling = f32x4.add(ceiling, ceilingStep);
    }

  const release = load<f32>(at + LIMITER_RELEASE);
  let reduction = load<f64>(at + LIMITER_STATE);
  let deepest = load<f32>(at + LIMITER_DEEPEST);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    let least = one;
    for (let k: usize = 0; k <= back; k += 4) least = f32x4.pmin(least, v128.load(needed + i + k));
    const wanted = f32x4.sub(one, least);
    reduction = released(reduction, f32x4.extract_lane(wanted, 0), release);
    store<f32>(gains + back + i, <f32>(1 - reduction));
    reduction = released(reduction, f32x4.extract_lane(wanted, 1), release);
    store<f32>(gains + back + i, <f32>(1 - reduction), 4);
    reduction = released(reduction, f32x4.extract_lane(wanted, 2), release);
    store<f32>(gains + back + i, <f32>(1 - reduction), 8);
    reduction = released(reduction, f32x4.extract_lane(wanted, 3), release);
    store<f32>(gains + back + i, <f32>(1 - reduction), 12);
    deepest = max<f32>(deepest, <f32>reduction);
  }
  store<f64>(at + LIMITER_STATE, reduction < TINY ? 0 : reduction);
  store<f32>(at + LIMITER_DEEPEST, deepest);

  const frames = f32x4.splat(<f32>window);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    let sum = f32x4.splat(0);
    for (let k: usize = 4; k <= back; k += 4) sum = f32x4.add(sum, v128.load(gains + i + k));
    const gain = f32x4.div(sum, frames);
    v128.store(dstL + i, f32x4.mul(v128.load(left + i), gain));
    if (stereo) v128.store(dstR + i, f32x4.mul(v128.load(right + i), gain));
  }
  memory.copy(left, left + PERIOD_BYTES, late);
  if (stereo) memory.copy(right, right + PERIOD_BYTES, late);
  memory.copy(needed, needed + PERIOD_BYTES, back);
  memory.copy(gains, gains + PERIOD_BYTES, back);
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

/** Largest magnitude from `CENTRE` frames before each of four frames up to the next frame, at eight points. */
function peakAt(x: usize, fir: usize): v128 {
  let a = f32x4.splat(0);
  let b = a;
  let c = a;
  let d = a;
  let e = a;
  let f = a;
  let g = a;
  for (let k: usize = 0; k < TAPS; k++) {
    const frame = v128.load(x - k * 4);
    const weights = fir + k * 32;
    a = f32x4.add(a, f32x4.mul(v128.load32_splat(weights, 4), frame));
    b = f32x4.add(b, f32x4.mul(v128.load32_splat(weights, 8), frame));
    c = f32x4.add(c, f32x4.mul(v128.load32_splat(weights, 12), frame));
    d = f32x4.add(d, f32x4.mul(v128.load32_splat(weights, 16), frame));
    e = f32x4.add(e, f32x4.mul(v128.load32_splat(weights, 20), frame));
    f = f32x4.add(f, f32x4.mul(v128.load32_splat(weights, 24), frame));
    g = f32x4.add(g, f32x4.mul(v128.load32_splat(weights, 28), frame));
  }
  const ab = f32x4.pmax(f32x4.abs(a), f32x4.abs(b));
  const cd = f32x4.pmax(f32x4.abs(c), f32x4.abs(d));
  const ef = f32x4.pmax(f32x4.abs(e), f32x4.abs(f));
  const here = f32x4.pmax(f32x4.abs(g), f32x4.abs(v128.load(x - <usize>CENTRE * 4)));
  return f32x4.pmax(f32x4.pmax(ab, cd), f32x4.pmax(ef, here));
}

/** Largest magnitude among the frames that a period's interpolation reads. */
function loudest(x: usize): f32 {
  let peak = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES + TAPS * 4; at += 16) peak = f32x4.pmax(peak, f32x4.abs(v128.load(x + at - TAPS * 4)));
  return max<f32>(
    max<f32>(f32x4.extract_lane(peak, 0), f32x4.extract_lane(peak, 1)),
    max<f32>(f32x4.extract_lane(peak, 2), f32x4.extract_lane(peak, 3))
  );
}

/** Writes the interpolator: a sinc under a Kaiser window (β 7) of ±16 frames, 32 taps of eight phases: flat to 0.43 of the rate. */
export function limiterTable(fir: usize): void {
  for (let phase = 0; phase < PHASES; phase++)
    for (let k = 0; k < <i32>TAPS; k++) {
      const t: f64 = <f64>(k - CENTRE) + <f64>phase / PHASES;
      const x = NativeMath.PI * t;
      const sinc = t == 0 ? 1 : NativeMath.sin(x) / x;
      const u = t / CENTRE;
      store<f32>(fir + <usize>(k * PHASES + phase) * 4, <f32>((sinc * bessel(7 * NativeMath.sqrt(max<f64>(0, 1 - u * u)))) / bessel(7)));
    }
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

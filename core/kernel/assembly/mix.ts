// Gains, sums and meters: planar buffers, four frames at a time.
import { MOST, PERIOD_BYTES, TINY } from './layout';

/** dst = 0. */
export function zero(dst: usize): void {
  const silence = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) v128.store(dst + at, silence);
}

/**
 * dst = one period of the source chunk · ramp. What a recording holds of denormals is silence, since every later stage would be slow at it,
 * and so is what is no number; what is beyond all reason ends at `MOST`.
 */
export function source(dst: usize, chunk: usize, ramp: usize, phase: i32): void {
  const src = chunk + <usize>phase * PERIOD_BYTES;
  const least = f32x4.splat(TINY);
  const most = f32x4.splat(MOST);
  let gains = firstGains(ramp);
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    const heard = v128.and(x, f32x4.gt(f32x4.abs(x), least));
    v128.store(dst + at, f32x4.mul(f32x4.pmax(f32x4.neg(most), f32x4.pmin(most, heard)), gains));
    gains = f32x4.add(gains, step);
  }
}

/** op: left, right out; left, right in; left, right ghost; ramp. What comes in, out of what came in to the plan before. */
export function blend(op: usize): void {
  const ramp: usize = load<u32>(op + 28);
  blendSide(load<u32>(op + 4), load<u32>(op + 12), load<u32>(op + 20), ramp);
  if (load<u32>(op + 8) != load<u32>(op + 4)) blendSide(load<u32>(op + 8), load<u32>(op + 16), load<u32>(op + 24), ramp);
}

function blendSide(dst: usize, src: usize, ghost: usize, ramp: usize): void {
  if (load<f32>(ramp) == 1 && load<f32>(ramp + 4) == 0) {
    memory.copy(dst, src, PERIOD_BYTES);
    return;
  }
  let gains = firstGains(ramp);
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const before = v128.load(ghost + at);
    v128.store(dst + at, f32x4.add(before, f32x4.mul(f32x4.sub(v128.load(src + at), before), gains)));
    gains = f32x4.add(gains, step);
  }
}

/** dst = (left + right) / 2. */
export function mono(dst: usize, left: usize, right: usize): void {
  const half = f32x4.splat(0.5);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16)
    v128.store(dst + at, f32x4.mul(f32x4.add(v128.load(left + at), v128.load(right + at)), half));
}

/** The gain of the first four frames of a ramp { start, step per frame }. */
function firstGains(ramp: usize): v128 {
  const start = load<f32>(ramp);
  const step = load<f32>(ramp + 4);
  return f32x4.add(f32x4.splat(start), f32x4.mul(f32x4.splat(step), f32x4(0, 1, 2, 3)));
}

/** dst = src · ramp. */
export function set(dst: usize, src: usize, ramp: usize): void {
  let gains = firstGains(ramp);
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    v128.store(dst + at, f32x4.mul(v128.load(src + at), gains));
    gains = f32x4.add(gains, step);
  }
}

/** dst += src · ramp. Gains that stand still are most of them: they need no ramp, and 0 needs nothing at all. */
function mix(dst: usize, src: usize, ramp: usize): void {
  const start = load<f32>(ramp);
  if (load<f32>(ramp + 4) == 0) {
    if (start == 0) return;
    const gain = f32x4.splat(start);
    for (let at: usize = 0; at < PERIOD_BYTES; at += 32) {
      v128.store(dst + at, f32x4.add(v128.load(dst + at), f32x4.mul(v128.load(src + at), gain)));
      v128.store(dst + at, f32x4.add(v128.load(dst + at, 16), f32x4.mul(v128.load(src + at, 16), gain)), 16);
    }
    return;
  }
  let gains = firstGains(ramp);
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    v128.store(dst + at, f32x4.add(v128.load(dst + at), f32x4.mul(v128.load(src + at), gains)));
    gains = f32x4.add(gains, step);
  }
}

/** op: left, right in; left, right out; ramps of both; meter. A channel's fader and pan, metered on the way. */
export function fader(op: usize): void {
  const left: usize = load<u32>(op + 4);
  const right: usize = load<u32>(op + 8);
  const rampL: usize = load<u32>(op + 20);
  const rampR: usize = load<u32>(op + 24);
  const cell: usize = load<u32>(op + 28);
  const stands = load<f32>(rampL + 4) == 0 && load<f32>(rampR + 4) == 0;
  if (stands && left == right) return placed(left, load<u32>(op + 12), load<u32>(op + 16), load<f32>(rampL), load<f32>(rampR), cell);
  faderSide(left, load<u32>(op + 12), rampL, cell);
  faderSide(right, load<u32>(op + 16), rampR, cell + 4);
}

/** A mono signal between both sides by gains that stand still: read once, and metered once. */
function placed(src: usize, dstL: usize, dstR: usize, left: f32, right: f32, cell: usize): void {
  const gainL = f32x4.splat(left);
  const gainR = f32x4.splat(right);
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    v128.store(dstL + at, f32x4.mul(x, gainL));
    v128.store(dstR + at, f32x4.mul(x, gainR));
    peak = f32x4.pmax(peak, f32x4.abs(x));
    power = f32x4.add(power, f32x4.mul(x, x));
  }
  const high = highest(peak);
  const sum = total(power);
  // The peak of what is multiplied is the peak, multiplied: rounding keeps order.
  note(cell, high * abs<f32>(left), sum * left * left);
  note(cell + 4, high * abs<f32>(right), sum * right * right);
}

function faderSide(src: usize, dst: usize, ramp: usize, cell: usize): void {
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  let gains = firstGains(ramp);
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = f32x4.mul(v128.load(src + at), gains);
    v128.store(dst + at, x);
    peak = f32x4.pmax(peak, f32x4.abs(x));
    power = f32x4.add(power, f32x4.mul(x, x));
    gains = f32x4.add(gains, step);
  }
  note(cell, highest(peak), total(power));
}

/** Meters a signal as it is. */
export function meter(left: usize, right: usize, cell: usize): void {
  meterSide(left, cell, left == right);
  if (left != right) meterSide(right, cell + 4, false);
}

function meterSide(src: usize, cell: usize, both: bool): void {
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    peak = f32x4.pmax(peak, f32x4.abs(x));
    power = f32x4.add(power, f32x4.mul(x, x));
  }
  const high = highest(peak);
  const sum = total(power);
  note(cell, high, sum);
  if (both) note(cell + 4, high, sum);
}

/** op: left, right to; left, right from; ramps of both. */
export function mixPair(op: usize): void {
  mix(load<u32>(op + 4), load<u32>(op + 12), load<u32>(op + 20));
  mix(load<u32>(op + 8), load<u32>(op + 16), load<u32>(op + 24));
}

function highest(four: v128): f32 {
  return max<f32>(
    max<f32>(f32x4.extract_lane(four, 0), f32x4.extract_lane(four, 1)),
    max<f32>(f32x4.extract_lane(four, 2), f32x4.extract_lane(four, 3))
  );
}

function total(four: v128): f32 {
  return f32x4.extract_lane(four, 0) + f32x4.extract_lane(four, 1) + f32x4.extract_lane(four, 2) + f32x4.extract_lane(four, 3);
}

/** Accumulates { peak L, peak R, Σ L², Σ R² } until the host reads and clears it; `cell` is that of the side. */
function note(cell: usize, peak: f32, power: f32): void {
  store<f32>(cell, max<f32>(load<f32>(cell), peak));
  store<f32>(cell + 8, load<f32>(cell + 8) + power);
}

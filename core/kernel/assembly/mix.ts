// Gains, sums and meters: planar buffers, four frames at a time.
import { MOST, PART_BYTES, PERIOD_BYTES, TINY } from './layout';

/**
 * dst = one period of the source chunk · ramp. What a recording holds of denormals is silence, since every later stage would be slow at it,
 * and so is what is no number; what is beyond all reason ends at `MOST`.
 */
export function source(dst: usize, chunk: usize, ramp: usize, phase: i32): void {
  const src = chunk + <usize>phase * PERIOD_BYTES;
  let gains = firstGains(ramp);
  if (load<f32>(ramp + 4) == 0) {
    for (let at: usize = 0; at < PERIOD_BYTES; at += 32) {
      v128.store(dst + at, f32x4.mul(sane(v128.load(src + at)), gains));
      v128.store(dst + at, f32x4.mul(sane(v128.load(src + at, 16)), gains), 16);
    }
    return;
  }
  const step = f32x4.splat(load<f32>(ramp + 4) * 4);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    v128.store(dst + at, f32x4.mul(sane(v128.load(src + at)), gains));
    gains = f32x4.add(gains, step);
  }
}

function sane(x: v128): v128 {
  const heard = v128.and(x, f32x4.gt(f32x4.abs(x), f32x4.splat(TINY)));
  return f32x4.pmax(f32x4.splat(-MOST), f32x4.pmin(f32x4.splat(MOST), heard));
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

/** dst = src · gains, a gain for each frame. */
export function shape(dst: usize, src: usize, gains: usize): void {
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) v128.store(dst + at, f32x4.mul(v128.load(src + at), v128.load(gains + at)));
}

/** So many samples times a gain, where they are; any count, at any sample. */
export function scale(at: usize, count: i32, gain: f32): void {
  const end = at + ((<usize>count) << 2);
  const gains = f32x4.splat(gain);
  for (; at + 16 <= end; at += 16) v128.store(at, f32x4.mul(v128.load(at), gains));
  for (; at < end; at += 4) store<f32>(at, load<f32>(at) * gain);
}

/** Puts the `count` buffers that a table lists side by side into a region. */
export function gather(region: usize, table: usize, count: usize): void {
  for (let i: usize = 0; i < count; i++) memory.copy(region + i * PERIOD_BYTES, load<u32>(table + i * 4), PERIOD_BYTES);
}

/** The reverse. */
export function scatter(region: usize, table: usize, count: usize): void {
  for (let i: usize = 0; i < count; i++) memory.copy(load<u32>(table + i * 4), region + i * PERIOD_BYTES, PERIOD_BYTES);
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

/**
 * op: left, right to; parts, how many; ramp. Both sides of all that flows in somewhere, through a trim. One pass over half a period of
 * all parts, so that the sum stays in registers; added in the order of the parts.
 */
export function sum(op: usize): void {
  const parts: usize = load<u32>(op + 12);
  const end = parts + <usize>load<i32>(op + 16) * PART_BYTES;
  const ramp: usize = load<u32>(op + 20);
  for (let half: usize = 0; half < PERIOD_BYTES; half += PERIOD_BYTES / 2) {
    sumHalf(load<u32>(op + 4), parts, end, ramp, half);
    sumHalf(load<u32>(op + 8), parts + 4, end + 4, ramp, half);
  }
}

/** The frames of a period, counted. */
const COUNT = memory.data<f32>(
  [
    0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30, 31, 32, 33, 34, 35,
    36, 37, 38, 39, 40, 41, 42, 43, 44, 45, 46, 47, 48, 49, 50, 51, 52, 53, 54, 55, 56, 57, 58, 59, 60, 61, 62, 63
  ],
  16
);

function sumHalf(dst: usize, parts: usize, end: usize, trim: usize, half: usize): void {
  let a = f32x4.splat(0);
  let b = a;
  let c = a;
  let d = a;
  let e = a;
  let f = a;
  let g = a;
  let h = a;
  const first = <f32>(half / 4);
  const frames = COUNT + half;
  for (let part = parts; part < end; part += PART_BYTES) {
    const ramp: usize = load<u32>(part + 8);
    const start = load<f32>(ramp);
    const step = load<f32>(ramp + 4);
    const src: usize = <usize>load<u32>(part) + half;
    // Gains that stand still are most of them: they need no ramp, and 0 needs nothing at all.
    if (step == 0) {
      if (start == 0) continue;
      const gain = f32x4.splat(start);
      a = f32x4.add(a, f32x4.mul(v128.load(src), gain));
      b = f32x4.add(b, f32x4.mul(v128.load(src, 16), gain));
      c = f32x4.add(c, f32x4.mul(v128.load(src, 32), gain));
      d = f32x4.add(d, f32x4.mul(v128.load(src, 48), gain));
      e = f32x4.add(e, f32x4.mul(v128.load(src, 64), gain));
      f = f32x4.add(f, f32x4.mul(v128.load(src, 80), gain));
      g = f32x4.add(g, f32x4.mul(v128.load(src, 96), gain));
      h = f32x4.add(h, f32x4.mul(v128.load(src, 112), gain));
      continue;
    }
    if (step != step) {
      const own = gainsAt(ramp) + half;
      a = f32x4.add(a, f32x4.mul(v128.load(src), v128.load(own)));
      b = f32x4.add(b, f32x4.mul(v128.load(src, 16), v128.load(own, 16)));
      c = f32x4.add(c, f32x4.mul(v128.load(src, 32), v128.load(own, 32)));
      d = f32x4.add(d, f32x4.mul(v128.load(src, 48), v128.load(own, 48)));
      e = f32x4.add(e, f32x4.mul(v128.load(src, 64), v128.load(own, 64)));
      f = f32x4.add(f, f32x4.mul(v128.load(src, 80), v128.load(own, 80)));
      g = f32x4.add(g, f32x4.mul(v128.load(src, 96), v128.load(own, 96)));
      h = f32x4.add(h, f32x4.mul(v128.load(src, 112), v128.load(own, 112)));
      continue;
    }
    const starts = f32x4.splat(start);
    const steps = f32x4.splat(step);
    a = f32x4.add(a, f32x4.mul(v128.load(src), f32x4.add(starts, f32x4.mul(steps, v128.load(frames)))));
    b = f32x4.add(b, f32x4.mul(v128.load(src, 16), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 16)))));
    c = f32x4.add(c, f32x4.mul(v128.load(src, 32), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 32)))));
    d = f32x4.add(d, f32x4.mul(v128.load(src, 48), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 48)))));
    e = f32x4.add(e, f32x4.mul(v128.load(src, 64), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 64)))));
    f = f32x4.add(f, f32x4.mul(v128.load(src, 80), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 80)))));
    g = f32x4.add(g, f32x4.mul(v128.load(src, 96), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 96)))));
    h = f32x4.add(h, f32x4.mul(v128.load(src, 112), f32x4.add(starts, f32x4.mul(steps, v128.load(frames, 112)))));
  }
  const steps = f32x4.splat(load<f32>(trim + 4) * 4);
  let gains = gainsFrom(load<f32>(trim), load<f32>(trim + 4), first);
  const to = dst + half;
  v128.store(to, f32x4.mul(a, gains));
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(b, gains), 16);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(c, gains), 32);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(d, gains), 48);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(e, gains), 64);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(f, gains), 80);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(g, gains), 96);
  gains = f32x4.add(gains, steps);
  v128.store(to, f32x4.mul(h, gains), 112);
}

/** Where a ramp has its gains, one a frame, whose step is no number: those of a lane that plays. */
export function gainsAt(ramp: usize): usize {
  return <usize>load<u32>(ramp);
}

/**
 * Writes gains as a table lists them, entries of six words: where to, how many; the frame within a cell that the first is, the cell's
 * value and step; and whether they are added to what is there. The same frame of the same cell is the same bits wherever it begins.
 */
export function fillGains(table: usize, count: i32): void {
  for (let entry = table, last = table + <usize>count * 24; entry < last; entry += 24) {
    const to: usize = load<u32>(entry);
    const frames = load<i32>(entry + 4);
    const first = load<f32>(entry + 8);
    const start = load<f32>(entry + 12);
    const step = load<f32>(entry + 16);
    if (load<i32>(entry + 20)) addSpan(to, frames, first, start, step);
    else fillSpan(to, frames, first, start, step);
  }
}

export function fillSpan(to: usize, count: i32, first: f32, start: f32, step: f32): void {
  const end = to + ((<usize>count) << 2);
  const starts = f32x4.splat(start);
  const steps = f32x4.splat(step);
  for (; to + 16 <= end; to += 16) {
    v128.store(to, f32x4.add(starts, f32x4.mul(steps, f32x4.add(f32x4.splat(first), f32x4(0, 1, 2, 3)))));
    first += 4;
  }
  for (; to < end; to += 4) {
    store<f32>(to, start + step * first);
    first += 1;
  }
}

function addSpan(to: usize, count: i32, first: f32, start: f32, step: f32): void {
  for (const end = to + ((<usize>count) << 2); to < end; to += 4) {
    store<f32>(to, load<f32>(to) + (start + step * first));
    first += 1;
  }
}

/** The gains of four frames of a ramp, from the `first` frame on. */
function gainsFrom(start: f32, step: f32, first: f32): v128 {
  return f32x4.add(f32x4.splat(start), f32x4.mul(f32x4.splat(step), f32x4.add(f32x4.splat(first), f32x4(0, 1, 2, 3))));
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

/**
 * op: left, right in; left, right out; ramps of both; meter; meter of what comes in, or 0. A channel's fader and pan, metered on the way.
 */
export function fader(op: usize): void {
  const left: usize = load<u32>(op + 4);
  const right: usize = load<u32>(op + 8);
  const rampL: usize = load<u32>(op + 20);
  const rampR: usize = load<u32>(op + 24);
  const cell: usize = load<u32>(op + 28);
  const early: usize = load<u32>(op + 32);
  if (load<f32>(rampL + 4) == 0 && load<f32>(rampR + 4) == 0) {
    if (left == right) placed(left, load<u32>(op + 12), load<u32>(op + 16), load<f32>(rampL), load<f32>(rampR), cell, early);
    else {
      standing(left, load<u32>(op + 12), load<f32>(rampL), cell, early);
      standing(right, load<u32>(op + 16), load<f32>(rampR), cell + 4, early ? early + 4 : 0);
    }
    return;
  }
  const still = load<f32>(rampL + 4) - load<f32>(rampR + 4);
  if (left == right && still == still) {
    moving(left, load<u32>(op + 12), load<u32>(op + 16), rampL, rampR, cell, early);
    return;
  }
  if (early) meter(left, right, early);
  faderSide(left, load<u32>(op + 12), rampL, cell);
  faderSide(right, load<u32>(op + 16), rampR, cell + 4);
}

/** A mono signal between both sides by gains that stand still: read once, and metered once. */
function placed(src: usize, dstL: usize, dstR: usize, left: f32, right: f32, cell: usize, early: usize): void {
  const gainL = f32x4.splat(left);
  const gainR = f32x4.splat(right);
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    v128.store(dstL + at, f32x4.mul(x, gainL));
    v128.store(dstR + at, f32x4.mul(x, gainR));
    const square = f32x4.mul(x, x);
    peak = f32x4.pmax(peak, square);
    power = f32x4.add(power, square);
  }
  const high = highest(peak);
  const all = total(power);
  // The peak of what is multiplied is the peak, multiplied: rounding keeps order.
  note(cell, high * abs<f32>(left), all * left * left);
  note(cell + 4, high * abs<f32>(right), all * right * right);
  if (early) {
    note(early, high, all);
    note(early + 4, high, all);
  }
}

/** A mono signal between both sides by ramps: read once. */
function moving(src: usize, dstL: usize, dstR: usize, rampL: usize, rampR: usize, cell: usize, early: usize): void {
  const startL = f32x4.splat(load<f32>(rampL));
  const stepL = f32x4.splat(load<f32>(rampL + 4));
  const startR = f32x4.splat(load<f32>(rampR));
  const stepR = f32x4.splat(load<f32>(rampR + 4));
  let peakL = f32x4.splat(0);
  let peakR = peakL;
  let powerL = peakL;
  let powerR = peakL;
  let peak = peakL;
  let power = peakL;
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    const frames = v128.load(COUNT + at);
    const l = f32x4.mul(x, f32x4.add(startL, f32x4.mul(stepL, frames)));
    const r = f32x4.mul(x, f32x4.add(startR, f32x4.mul(stepR, frames)));
    v128.store(dstL + at, l);
    v128.store(dstR + at, r);
    const squareL = f32x4.mul(l, l);
    const squareR = f32x4.mul(r, r);
    peakL = f32x4.pmax(peakL, squareL);
    peakR = f32x4.pmax(peakR, squareR);
    powerL = f32x4.add(powerL, squareL);
    powerR = f32x4.add(powerR, squareR);
    const square = f32x4.mul(x, x);
    peak = f32x4.pmax(peak, square);
    power = f32x4.add(power, square);
  }
  note(cell, highest(peakL), total(powerL));
  note(cell + 4, highest(peakR), total(powerR));
  if (early) {
    const high = highest(peak);
    const all = total(power);
    note(early, high, all);
    note(early + 4, high, all);
  }
}

/** One side by a gain that stands still. */
function standing(src: usize, dst: usize, gain: f32, cell: usize, early: usize): void {
  const by = f32x4.splat(gain);
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = v128.load(src + at);
    v128.store(dst + at, f32x4.mul(x, by));
    const square = f32x4.mul(x, x);
    peak = f32x4.pmax(peak, square);
    power = f32x4.add(power, square);
  }
  const high = highest(peak);
  const all = total(power);
  note(cell, high * abs<f32>(gain), all * gain * gain);
  if (early) note(early, high, all);
}

function faderSide(src: usize, dst: usize, ramp: usize, cell: usize): void {
  let peak = f32x4.splat(0);
  let power = f32x4.splat(0);
  if (load<f32>(ramp + 4) != load<f32>(ramp + 4)) {
    const own = gainsAt(ramp);
    for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
      const x = f32x4.mul(v128.load(src + at), v128.load(own + at));
      v128.store(dst + at, x);
      const square = f32x4.mul(x, x);
      peak = f32x4.pmax(peak, square);
      power = f32x4.add(power, square);
    }
    note(cell, highest(peak), total(power));
    return;
  }
  const starts = f32x4.splat(load<f32>(ramp));
  const step = f32x4.splat(load<f32>(ramp + 4));
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const x = f32x4.mul(v128.load(src + at), f32x4.add(starts, f32x4.mul(step, v128.load(COUNT + at))));
    v128.store(dst + at, x);
    const square = f32x4.mul(x, x);
    peak = f32x4.pmax(peak, square);
    power = f32x4.add(power, square);
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
    const square = f32x4.mul(x, x);
    peak = f32x4.pmax(peak, square);
    power = f32x4.add(power, square);
  }
  const high = highest(peak);
  const sum = total(power);
  note(cell, high, sum);
  if (both) note(cell + 4, high, sum);
}

/** The highest of four, of which there are the squares: the root of a square is the number to the bit. */
function highest(squares: v128): f32 {
  const two = f32x4.pmax(squares, v128.shuffle<f32>(squares, squares, 2, 3, 0, 1));
  return sqrt<f32>(max<f32>(f32x4.extract_lane(two, 0), f32x4.extract_lane(two, 1)));
}

function total(four: v128): f32 {
  const two = f32x4.add(four, v128.shuffle<f32>(four, four, 2, 3, 0, 1));
  return f32x4.extract_lane(two, 0) + f32x4.extract_lane(two, 1);
}

/** Accumulates { peak L, peak R, Σ L², Σ R² } until the host reads and clears it; `cell` is that of the side. */
function note(cell: usize, peak: f32, power: f32): void {
  store<f32>(cell, max<f32>(load<f32>(cell), peak));
  store<f32>(cell + 8, load<f32>(cell + 8) + power);
}

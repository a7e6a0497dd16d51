// Compressor on four lanes: level of the key in log2, static curve with soft knee, attack and release on the reduction.
// D. Giannoulis, M. Massberg, J. Reiss, "Digital Dynamic Range Compressor Design" (JAES 60, 2012): feed-forward, log domain.
import { flushed, glidingStage, stage } from '../../kernel/assembly/filters';
import { gather, LANES_BYTES, scatter } from '../../kernel/assembly/lanes';
import { exp2x4, follow, log2x4 } from '../../kernel/assembly/math';
import { downFour, FOUR_BYTES, OVERSAMPLE_BYTES, upFour } from '../../kernel/assembly/oversample';

// The instance, in bytes from its start; vectors of four lanes. The curve is in log2 of power.
/** Where the knee begins. */
export const COMP_BEGIN: usize = 0;
/** ½(1/R − 1). */
const SLOPE: usize = 16;
const KNEE: usize = 32;
/** Slope / (2 · knee). */
const BEND: usize = 48;
const ATTACK: usize = 64;
const RELEASE: usize = 80;
const SLOW_ATTACK: usize = 96;
const SLOW_RELEASE: usize = 112;
/** The detector's averaging, and the mask of the lanes that do. */
const AVERAGE: usize = 128;
const AVERAGES: usize = 144;
/** The mask of lanes that share their level with their neighbour. */
const LINKS: usize = 160;
/** How much is bent: value, step. */
export const COMP_COLOUR: usize = 176;
/** Wet and dry: value, step. */
export const COMP_WET: usize = 208;
export const COMP_DRY: usize = 240;
/** How much of the key is heard in place of the signal: value, step. */
export const COMP_LISTEN: usize = 272;
const SQUARE: usize = 304;
const REDUCTION: usize = 320;
const SLOW_REDUCTION: usize = 336;
export const COMP_DEEPEST: usize = 352;
/** What rounding took from reduction, slow reduction and mean square. */
const REST: usize = 368;
const SLOW_REST: usize = 384;
const SQUARE_REST: usize = 400;
/** All vectors of lanes end here: they are what one instance hands on to the next. */
export const COMP_KEYS: usize = 416;
export const COMP_FLAGS: usize = 432;
/** Stages of the key's high-pass and low-pass. */
export const COMP_HIGH: usize = 448;
export const COMP_LOW: usize = 576;
/** Addresses of what goes in and comes out, four each. */
export const COMP_SOURCES: usize = 704;
export const COMP_RESULTS: usize = 720;
/** Where the signal stands in lanes before or after, or 0. */
export const COMP_LANES: usize = 736;
/** The colour's oversampler. */
export const COMP_OVER: usize = 752;
export const COMP_OVER_BYTES: usize = OVERSAMPLE_BYTES;
/** Coefficients that the key's stages come from, while they go over into others. */
export const COMP_HIGH_FROM: usize = COMP_OVER + COMP_OVER_BYTES;
export const COMP_LOW_FROM: usize = COMP_HIGH_FROM + 96;
export const COMP_BYTES: usize = COMP_LOW_FROM + 96;
// Lanes are scratch that all instances share, so that it stays in the nearest cache: signal, key and work, for two instances.
// The three states are followed with compensated sums: float32 alone stops short of its target by the rounding of a step
// times the steps of the time constant, which for a second is a thousandth of a decibel and more.
export const COMP_IS_KEYED: i32 = 1;
export const COMP_IS_FILTERED: i32 = 2;
export const COMP_IS_COLOURED: i32 = 4;
export const COMP_IS_AVERAGING: i32 = 8;
export const COMP_IS_SLOW: i32 = 16;
export const COMP_IS_LISTENED: i32 = 32;
export const COMP_IS_LINKED: i32 = 64;
export const COMP_IS_GLIDING: i32 = 128;

/** Signal lanes, then key lanes, then where a pass leaves its four lanes for the next; twice. */
const SCRATCH = memory.data(6144, 16);
const KEY_LANES: usize = 1024;
const WORK: usize = 2048;
const SECOND: usize = 3072;

/** op: one instance, and a second one or 0. Two are followed side by side: one alone waits for its own last frame. */
function comp(op: usize, _frame: i64): void {
  const one: usize = load<u32>(op + 4);
  const two: usize = load<u32>(op + 8);
  begin(one, SCRATCH);
  if (two) begin(two, SCRATCH + SECOND);
  if (two && !((load<i32>(one + COMP_FLAGS) | load<i32>(two + COMP_FLAGS)) & COMP_IS_SLOW)) followTwo(one, two);
  else {
    follow1(one, SCRATCH + WORK);
    if (two) follow1(two, SCRATCH + SECOND + WORK);
  }
  finish(one, SCRATCH);
  if (two) finish(two, SCRATCH + SECOND);
}

/** Where the signal stands in lanes. */
function lanesOf(at: usize, scratch: usize): usize {
  const standing: usize = load<u32>(at + COMP_LANES);
  return standing ? standing : scratch;
}

function keyOf(at: usize, scratch: usize): usize {
  const apart = load<i32>(at + COMP_FLAGS) & (COMP_IS_KEYED | COMP_IS_FILTERED | COMP_IS_LISTENED);
  return apart ? scratch + KEY_LANES : lanesOf(at, scratch);
}

/** Signal and key into lanes, and from the key the reduction that is asked for. */
function begin(at: usize, scratch: usize): void {
  const flags = load<i32>(at + COMP_FLAGS);
  const lanes = lanesOf(at, scratch);
  if (load<u32>(at + COMP_SOURCES))
    gather(
      lanes,
      load<u32>(at + COMP_SOURCES),
      load<u32>(at + COMP_SOURCES + 4),
      load<u32>(at + COMP_SOURCES + 8),
      load<u32>(at + COMP_SOURCES + 12)
    );
  const key = keyOf(at, scratch);
  if (flags & COMP_IS_KEYED)
    gather(key, load<u32>(at + COMP_KEYS), load<u32>(at + COMP_KEYS + 4), load<u32>(at + COMP_KEYS + 8), load<u32>(at + COMP_KEYS + 12));
  else if (key != lanes) memory.copy(key, lanes, LANES_BYTES);
  if (flags & COMP_IS_FILTERED) {
    if (flags & COMP_IS_GLIDING) {
      glidingStage(at + COMP_HIGH, at + COMP_HIGH_FROM, key);
      glidingStage(at + COMP_LOW, at + COMP_LOW_FROM, key);
    } else {
      stage(at + COMP_HIGH, key);
      stage(at + COMP_LOW, key);
    }
  }
  if (flags & COMP_IS_AVERAGING) average(at, key, scratch + WORK);
  curves(at, key, scratch + WORK, flags & COMP_IS_AVERAGING);
}

/** The reduction onto the signal, and out of the lanes. */
function finish(at: usize, scratch: usize): void {
  const flags = load<i32>(at + COMP_FLAGS);
  const lanes = lanesOf(at, scratch);
  if (flags & COMP_IS_COLOURED) applyColoured(at, lanes, scratch + WORK);
  else apply(at, lanes, scratch + WORK);
  if (flags & COMP_IS_LISTENED) {
    const key = keyOf(at, scratch);
    const step = v128.load(at, COMP_LISTEN + 16);
    let heard = v128.load(at, COMP_LISTEN);
    const one = f32x4.splat(1);
    for (let i: usize = 0; i < LANES_BYTES; i += 16) {
      const x = v128.load(lanes + i);
      v128.store(lanes + i, f32x4.add(f32x4.mul(x, f32x4.sub(one, heard)), f32x4.mul(v128.load(key + i), heard)));
      heard = f32x4.add(heard, step);
    }
  }
  if (load<u32>(at + COMP_RESULTS))
    scatter(
      lanes,
      load<u32>(at + COMP_RESULTS),
      load<u32>(at + COMP_RESULTS + 4),
      load<u32>(at + COMP_RESULTS + 8),
      load<u32>(at + COMP_RESULTS + 12)
    );
}

// The work is done in passes over the period, each with few enough values to stay in registers, and only those passes
// that wait for their own last frame run frame by frame.

/** Mean squares of the key, in averaging lanes; plain squares in the others. */
function average(at: usize, key: usize, out: usize): void {
  const fresh = v128.load(at, AVERAGE);
  const averaging = v128.load(at, AVERAGES);
  let square = v128.load(at, SQUARE);
  let rest = v128.load(at, SQUARE_REST);
  for (let i: usize = 0; i < LANES_BYTES; i += 16) {
    const k = v128.load(key + i);
    const power = f32x4.mul(k, k);
    const step = f32x4.add(f32x4.mul(fresh, f32x4.sub(power, square)), rest);
    const next = v128.bitselect(f32x4.add(square, step), power, averaging);
    rest = v128.and(f32x4.sub(step, f32x4.sub(next, square)), averaging);
    square = next;
    v128.store(out + i, square);
  }
  v128.store(at, flushed(square), SQUARE);
  v128.store(at, flushed(rest), SQUARE_REST);
}

/** The reduction the curve asks for, frame by frame; where lanes are linked, for the louder of two neighbours. */
function curves(at: usize, key: usize, work: usize, averaged: i32): void {
  const begin = v128.load(at, COMP_BEGIN);
  const slope = v128.load(at, SLOPE);
  const knee = v128.load(at, KNEE);
  const bend = v128.load(at, BEND);
  const zero = f32x4.splat(0);
  const end = work + LANES_BYTES;
  if (load<i32>(at + COMP_FLAGS) & COMP_IS_LINKED) {
    const linked = v128.load(at, LINKS);
    for (let p = work; p < end; p += 16, key += 16) {
      const square = squareOf(p, key, averaged);
      const partner = v128.and(v128.shuffle<f32>(square, square, 1, 0, 3, 2), linked);
      const over = f32x4.pmax(zero, f32x4.sub(log2x4(f32x4.pmax(square, partner)), begin));
      v128.store(p, bentOver(over, slope, knee, bend));
    }
  } else
    for (let p = work; p < end; p += 16, key += 16) {
      const over = f32x4.pmax(zero, f32x4.sub(log2x4(squareOf(p, key, averaged)), begin));
      v128.store(p, bentOver(over, slope, knee, bend));
    }
}

/** Of nothing the logarithm is −127: under every threshold. */
function squareOf(p: usize, key: usize, averaged: i32): v128 {
  if (averaged) return v128.load(p);
  const k = v128.load(key);
  return f32x4.mul(k, k);
}

/** The curve from where its knee begins: within it a parabola, then a line. */
function bentOver(over: v128, slope: v128, knee: v128, bend: v128): v128 {
  const bent = f32x4.pmin(over, knee);
  return f32x4.add(f32x4.mul(f32x4.mul(bent, bent), bend), f32x4.mul(slope, f32x4.sub(over, bent)));
}

/** Attack and release. */
function follow1(at: usize, work: usize): void {
  if (load<i32>(at + COMP_FLAGS) & COMP_IS_SLOW) follow2(at, work);
  else followOne(at, work);
}

/** Attack and release of one instance. */
function followOne(at: usize, work: usize): void {
  const attack = v128.load(at, ATTACK);
  const release = v128.load(at, RELEASE);
  let z = v128.load(at, REDUCTION);
  let rest = v128.load(at, REST);
  let deepest = v128.load(at, COMP_DEEPEST);
  const end = work + LANES_BYTES;
  for (let p = work; p < end; p += 16) {
    const y = v128.load(p);
    const step = f32x4.add(f32x4.mul(v128.bitselect(attack, release, f32x4.lt(y, z)), f32x4.sub(y, z)), rest);
    const next = f32x4.add(z, step);
    rest = f32x4.sub(step, f32x4.sub(next, z));
    z = next;
    deepest = f32x4.pmin(deepest, z);
    v128.store(p, z);
  }
  v128.store(at, flushed(z), REDUCTION);
  v128.store(at, flushed(rest), REST);
  v128.store(at, deepest, COMP_DEEPEST);
}

/** Attack and release of two instances side by side, in both parts of the scratch. */
function followTwo(at: usize, bt: usize): void {
  const attackA = v128.load(at, ATTACK);
  const releaseA = v128.load(at, RELEASE);
  const attackB = v128.load(bt, ATTACK);
  const releaseB = v128.load(bt, RELEASE);
  let z = v128.load(at, REDUCTION);
  let rest = v128.load(at, REST);
  let deepest = v128.load(at, COMP_DEEPEST);
  let zB = v128.load(bt, REDUCTION);
  let restB = v128.load(bt, REST);
  let deepestB = v128.load(bt, COMP_DEEPEST);
  const end = SCRATCH + WORK + LANES_BYTES;
  for (let p = SCRATCH + WORK; p < end; p += 16) {
    const y = v128.load(p);
    const yB = v128.load(p, SECOND);
    const step = f32x4.add(f32x4.mul(v128.bitselect(attackA, releaseA, f32x4.lt(y, z)), f32x4.sub(y, z)), rest);
    const stepB = f32x4.add(f32x4.mul(v128.bitselect(attackB, releaseB, f32x4.lt(yB, zB)), f32x4.sub(yB, zB)), restB);
    const next = f32x4.add(z, step);
    const nextB = f32x4.add(zB, stepB);
    rest = f32x4.sub(step, f32x4.sub(next, z));
    restB = f32x4.sub(stepB, f32x4.sub(nextB, zB));
    z = next;
    zB = nextB;
    deepest = f32x4.pmin(deepest, z);
    deepestB = f32x4.pmin(deepestB, zB);
    v128.store(p, z);
    v128.store(p, zB, SECOND);
  }
  v128.store(at, flushed(z), REDUCTION);
  v128.store(at, flushed(rest), REST);
  v128.store(at, deepest, COMP_DEEPEST);
  v128.store(bt, flushed(zB), REDUCTION);
  v128.store(bt, flushed(restB), REST);
  v128.store(bt, deepestB, COMP_DEEPEST);
}

/** The same with a second, slower reduction beside it: the deeper one counts. */
function follow2(at: usize, work: usize): void {
  const attack = v128.load(at, ATTACK);
  const release = v128.load(at, RELEASE);
  const slowAttack = v128.load(at, SLOW_ATTACK);
  const slowRelease = v128.load(at, SLOW_RELEASE);
  let z = v128.load(at, REDUCTION);
  let slow = v128.load(at, SLOW_REDUCTION);
  let rest = v128.load(at, REST);
  let slowRest = v128.load(at, SLOW_REST);
  let deepest = v128.load(at, COMP_DEEPEST);
  const end = work + LANES_BYTES;
  for (let p = work; p < end; p += 16) {
    const y = v128.load(p);
    const step = f32x4.add(f32x4.mul(v128.bitselect(attack, release, f32x4.lt(y, z)), f32x4.sub(y, z)), rest);
    const next = f32x4.add(z, step);
    rest = f32x4.sub(step, f32x4.sub(next, z));
    z = next;
    const slowStep = f32x4.add(f32x4.mul(v128.bitselect(slowAttack, slowRelease, f32x4.lt(y, slow)), f32x4.sub(y, slow)), slowRest);
    const slowNext = f32x4.add(slow, slowStep);
    slowRest = f32x4.sub(slowStep, f32x4.sub(slowNext, slow));
    slow = slowNext;
    const reduction = f32x4.pmin(z, slow);
    deepest = f32x4.pmin(deepest, reduction);
    v128.store(p, reduction);
  }
  v128.store(at, flushed(z), REDUCTION);
  v128.store(at, flushed(slow), SLOW_REDUCTION);
  v128.store(at, flushed(rest), REST);
  v128.store(at, flushed(slowRest), SLOW_REST);
  v128.store(at, deepest, COMP_DEEPEST);
}

/** lanes · (dry + wet · 2^reduction). */
function apply(at: usize, lanes: usize, work: usize): void {
  const wetStep = v128.load(at, COMP_WET + 16);
  const dryStep = v128.load(at, COMP_DRY + 16);
  let wet = v128.load(at, COMP_WET);
  let dry = v128.load(at, COMP_DRY);
  const end = lanes + LANES_BYTES;
  // All wet, and so for a while: most are.
  if (!v128.any_true(v128.or(dry, v128.or(wetStep, dryStep)))) {
    for (let p = lanes; p < end; p += 16, work += 16) v128.store(p, f32x4.mul(v128.load(p), f32x4.mul(wet, exp2x4(v128.load(work)))));
    return;
  }
  for (let p = lanes; p < end; p += 16, work += 16) {
    const gain = f32x4.add(dry, f32x4.mul(wet, exp2x4(v128.load(work))));
    v128.store(p, f32x4.mul(v128.load(p), gain));
    wet = f32x4.add(wet, wetStep);
    dry = f32x4.add(dry, dryStep);
  }
}

/** A period of a wave that is bent, at four times the rate; and what is wet of it, then what bending took away. */
const FOUR = memory.data(4096, 16);
const WET = memory.data(1024, 16);

/**
 * The same, where what is wet is bent: x/√(1 + c·x²), which rises everywhere. What that takes away is found at four times the rate, and
 * taken away here, so that nothing comes later, and lanes without colour are as they were to the last bit.
 */
function applyColoured(at: usize, lanes: usize, work: usize): void {
  const wetStep = v128.load(at, COMP_WET + 16);
  const dryStep = v128.load(at, COMP_DRY + 16);
  let wet = v128.load(at, COMP_WET);
  let dry = v128.load(at, COMP_DRY);
  for (let i: usize = 0; i < LANES_BYTES; i += 16) {
    const x = v128.load(lanes + i);
    const gained = f32x4.mul(x, f32x4.mul(wet, exp2x4(v128.load(work + i))));
    v128.store(WET + i, gained);
    v128.store(lanes + i, f32x4.add(f32x4.mul(x, dry), gained));
    wet = f32x4.add(wet, wetStep);
    dry = f32x4.add(dry, dryStep);
  }
  upFour(at + COMP_OVER, WET, FOUR);
  const step = v128.load(at, COMP_COLOUR + 16);
  let colour = v128.load(at, COMP_COLOUR);
  for (let i: usize = 0; i < FOUR_BYTES; i += 64) {
    for (let j: usize = i; j < i + 64; j += 16) v128.store(FOUR + j, taken(v128.load(FOUR + j), colour));
    colour = f32x4.add(colour, step);
  }
  downFour(at + COMP_OVER, FOUR, WET);
  for (let i: usize = 0; i < LANES_BYTES; i += 16) v128.store(lanes + i, f32x4.sub(v128.load(lanes + i), v128.load(WET + i)));
}

function taken(y: v128, colour: v128): v128 {
  const one = f32x4.splat(1);
  return f32x4.sub(y, f32x4.div(y, f32x4.sqrt(f32x4.add(one, f32x4.mul(colour, f32x4.mul(y, y))))));
}

/** One of log2 of power in dB: 10·log10(2). */
const DB_PER_DOUBLING: f64 = 3.010299956639812;

/**
 * Sets one lane. Threshold, knee in dB; ratio ≥ 1, 100 and more is ∞; times in ms. `averaging` is the detector's time in ms,
 * 0 for peak; `slow` > 0 adds a second, slower reduction, so that what lasted long is let go slowly.
 */
export function compLane(
  at: usize,
  lane: i32,
  threshold: f64,
  ratio: f64,
  knee: f64,
  attack: f64,
  release: f64,
  averaging: f64,
  slow: i32,
  linked: i32,
  rate: f64
): void {
  const p = at + <usize>lane * 4;
  // A knee of less than a thousandth of a dB is none: its reciprocal would leave the range of float32.
  const width = knee < 0.001 ? 0 : knee / DB_PER_DOUBLING;
  const fresh = <f32>follow(averaging, rate);
  const slope = slopeOf(ratio) / 2;
  store<f32>(p + COMP_BEGIN, <f32>(threshold / DB_PER_DOUBLING - width / 2));
  store<f32>(p + SLOPE, <f32>slope);
  store<f32>(p + KNEE, <f32>width);
  store<f32>(p + BEND, <f32>(width > 0 ? slope / (2 * width) : 0));
  store<f32>(p + ATTACK, <f32>follow(attack, rate));
  store<f32>(p + RELEASE, <f32>follow(release, rate));
  store<f32>(p + SLOW_ATTACK, slow ? <f32>follow(release + attack * 4, rate) : 0);
  store<f32>(p + SLOW_RELEASE, slow ? <f32>follow(release * 5, rate) : 1);
  store<f32>(p + AVERAGE, fresh);
  store<i32>(p + AVERAGES, averaging > 0 ? -1 : 0);
  store<i32>(p + LINKS, linked ? -1 : 0);
}

function slopeOf(ratio: f64): f64 {
  return ratio >= 100 ? -1 : 1 / ratio - 1;
}

export function compOp(): i32 {
  const run = comp;
  return run.index;
}

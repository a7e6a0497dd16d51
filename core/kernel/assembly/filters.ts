// Filters that several processors use, and what keeps them clear of denormals.
import { PERIOD_BYTES, TINY } from './layout';

// One state-variable stage on four lanes, in bytes from its start: what the output takes (D, C, E), how the states move (P, Q, R), and
// two states. A. Simper, "Solving the continuous SVF equations using trapezoidal integration" (2013), with each state written as itself
// and a difference: u = x − s2; y = D·u + C·s1 + E·s2; s1 += P·u − Q·s1; s2 += P·s1 + R·u. At low frequencies P, Q and R are small, and
// rounding them costs a share of the difference only: some 20 dB less noise than the usual form, in fewer operations. Sums are taken such that a
// state waits for its last value through three operations, not four.
export const STAGE_C: usize = 16;
export const STAGE_E: usize = 32;
export const STAGE_P: usize = 48;
export const STAGE_Q: usize = 64;
export const STAGE_R: usize = 80;
export const STAGE_STATE: usize = 96;
export const STAGE_BYTES: usize = 128;
/** Bytes of a stage's coefficients. */
export const STAGE_COEFFICIENTS: usize = STAGE_STATE;

/** One stage over one period of lanes, in place. */
export function stage(at: usize, lanes: usize): void {
  const d = v128.load(at);
  const c = v128.load(at, STAGE_C);
  const e = v128.load(at, STAGE_E);
  const p = v128.load(at, STAGE_P);
  const q = v128.load(at, STAGE_Q);
  const r = v128.load(at, STAGE_R);
  let s1 = v128.load(at, STAGE_STATE);
  let s2 = v128.load(at, STAGE_STATE + 16);
  const end = lanes + PERIOD_BYTES * 4;
  for (let x = lanes; x < end; x += 16) {
    const u = f32x4.sub(v128.load(x), s2);
    v128.store(x, f32x4.add(f32x4.mul(d, u), f32x4.add(f32x4.mul(c, s1), f32x4.mul(e, s2))));
    s2 = f32x4.add(f32x4.add(s2, f32x4.mul(p, s1)), f32x4.mul(r, u));
    s1 = f32x4.add(f32x4.sub(s1, f32x4.mul(q, s1)), f32x4.mul(p, u));
  }
  v128.store(at, flushed(s1), STAGE_STATE);
  v128.store(at, flushed(s2), STAGE_STATE + 16);
}

/**
 * One stage over one period in which its coefficients go over from what they were, at `from`: steps would be heard. No state can run away
 * meanwhile: with P, Q, R of any filter the states' step is contractive (trapezoidal integration of one that loses energy), and so is
 * every mean of two that are.
 */
export function glidingStage(at: usize, from: usize, lanes: usize): void {
  let d = v128.load(from);
  let c = v128.load(from + STAGE_C);
  let e = v128.load(from + STAGE_E);
  let p = v128.load(from + STAGE_P);
  let q = v128.load(from + STAGE_Q);
  let r = v128.load(from + STAGE_R);
  const dd = perFrame(d, v128.load(at));
  const dc = perFrame(c, v128.load(at, STAGE_C));
  const de = perFrame(e, v128.load(at, STAGE_E));
  const dp = perFrame(p, v128.load(at, STAGE_P));
  const dq = perFrame(q, v128.load(at, STAGE_Q));
  const dr = perFrame(r, v128.load(at, STAGE_R));
  let s1 = v128.load(at, STAGE_STATE);
  let s2 = v128.load(at, STAGE_STATE + 16);
  const end = lanes + PERIOD_BYTES * 4;
  for (let x = lanes; x < end; x += 16) {
    d = f32x4.add(d, dd);
    c = f32x4.add(c, dc);
    e = f32x4.add(e, de);
    p = f32x4.add(p, dp);
    q = f32x4.add(q, dq);
    r = f32x4.add(r, dr);
    const u = f32x4.sub(v128.load(x), s2);
    v128.store(x, f32x4.add(f32x4.mul(d, u), f32x4.add(f32x4.mul(c, s1), f32x4.mul(e, s2))));
    s2 = f32x4.add(f32x4.add(s2, f32x4.mul(p, s1)), f32x4.mul(r, u));
    s1 = f32x4.add(f32x4.sub(s1, f32x4.mul(q, s1)), f32x4.mul(p, u));
  }
  v128.store(at, flushed(s1), STAGE_STATE);
  v128.store(at, flushed(s2), STAGE_STATE + 16);
  memory.copy(from, at, STAGE_COEFFICIENTS);
}

/** By how much a coefficient moves in a frame. */
function perFrame(was: v128, is: v128): v128 {
  return f32x4.mul(f32x4.sub(is, was), f32x4.splat(1.0 / 64));
}

/** States under `TINY` become 0: WebAssembly cannot flush denormals by itself. */
export function flushed(state: v128): v128 {
  return v128.and(state, f32x4.gt(f32x4.abs(state), f32x4.splat(TINY)));
}

/**
 * Sets one lane of one stage. kind: 0 high-pass, 1 low shelf, 2 bell, 3 notch, 4 high shelf, 5 low-pass.
 * `wet` 0 … 1 fades from passing through to the filter; frequency in Hz below rate/2, gain in dB.
 */
export function setStage(at: usize, lane: i32, kind: i32, order: i32, freq: f64, gain: f64, q: f64, wet: f64, rate: f64): void {
  const a = NativeMath.pow(10, gain / 40);
  let g = NativeMath.tan((NativeMath.PI * freq) / rate);
  let k = 1 / q;
  // How much of the stage's high-pass, band-pass and low-pass makes its output.
  let high: f64 = 0;
  let band: f64 = 0;
  let low: f64 = 0;
  if (kind == 0) {
    high = 1;
    if (order == 1) band = 1;
  } else if (kind == 1) {
    g /= NativeMath.sqrt(a);
    high = 1;
    band = k * a;
    low = a * a;
  } else if (kind == 2) {
    // As the analogue bell where no bilinear one can be: see `matchedBell` in the equaliser's params.ts.
    const gained = a * a;
    const w = rate / freq / 2;
    const x = (1 - w * w) * (1 - w * w);
    const y = (w * w) / (q * q);
    const edge = NativeMath.tan((NativeMath.PI * freq * (NativeMath.sqrt(1 + 0.25 / (q * q)) - 0.5 / q)) / rate);
    const t0 = g * g;
    const t1 = edge * edge;
    const share = NativeMath.sqrt(x / (x + y / gained));
    const spread = share * (((t0 - t1) * (t0 - t1)) / (t0 * t1) - ((t1 / t0) * y) / x);
    high = NativeMath.sqrt((x + y * gained) / (x + y / gained));
    band = NativeMath.sqrt(spread * gained + 2 * (high - share));
    low = 1;
    k = NativeMath.sqrt(spread / gained + 2 * (1 - share));
    g *= NativeMath.sqrt(share);
  } else if (kind == 3) {
    high = 1;
    low = 1;
  } else if (kind == 4) {
    g *= NativeMath.sqrt(a);
    high = a * a;
    band = k * a;
    low = 1;
  } else {
    low = 1;
    if (order == 1) band = 1;
  }
  const a1 = 1 / (1 + g * (g + k));
  const a2 = g * a1;
  const a3 = g * a2;
  // The mixture of input and states in place of the three outputs.
  const m0 = 1 + (high - 1) * wet;
  const m1 = (band - k * high) * wet;
  const m2 = (low - high) * wet;
  const p = at + <usize>lane * 4;
  store<f32>(p, <f32>(m0 + m1 * a2 + m2 * a3));
  store<f32>(p + STAGE_C, <f32>(m1 * a1 + m2 * a2));
  store<f32>(p + STAGE_E, <f32>(m0 + m2));
  store<f32>(p + STAGE_P, <f32>(2 * a2));
  store<f32>(p + STAGE_Q, <f32>(2 * (g * (g + k) * a1)));
  store<f32>(p + STAGE_R, <f32>(2 * a3));
}

/** Makes one lane of one stage pass everything on, to the last bit. */
export function clearStage(at: usize, lane: i32): void {
  const p = at + <usize>lane * 4;
  for (let field: usize = 0; field < STAGE_BYTES; field += 16) store<f32>(p + field, field == 0 || field == STAGE_E ? 1 : 0);
}

/** What goes into a ring: with everything under `TINY` as 0, since a decaying tail would end in denormals. */
export function kept(x: f32): f32 {
  return abs<f32>(x) < TINY ? <f32>0 : x;
}

/** Coefficient of a one-pole at `freq`: 1 − e^(−2πf/fs). */
export function onePole(freq: f64, rate: f64): f64 {
  return 1 - NativeMath.exp((-2 * NativeMath.PI * freq) / rate);
}

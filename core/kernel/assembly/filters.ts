// Filters that several processors use, and what keeps them clear of denormals.
import { PERIOD_BYTES, TINY } from './layout';

// One state-variable stage on four lanes, in bytes from its start: a1, a2, a3, the mixture m0, m1, m2, and two states.
export const STAGE_A2: usize = 16;
export const STAGE_A3: usize = 32;
export const STAGE_M0: usize = 48;
export const STAGE_M1: usize = 64;
export const STAGE_M2: usize = 80;
export const STAGE_STATE: usize = 96;
export const STAGE_BYTES: usize = 128;

/** One stage over one period of lanes, in place. */
export function stage(at: usize, lanes: usize): void {
  const a1 = v128.load(at);
  const a2 = v128.load(at, STAGE_A2);
  const a3 = v128.load(at, STAGE_A3);
  const m0 = v128.load(at, STAGE_M0);
  const m1 = v128.load(at, STAGE_M1);
  const m2 = v128.load(at, STAGE_M2);
  let z1 = v128.load(at, STAGE_STATE);
  let z2 = v128.load(at, STAGE_STATE + 16);
  const end = lanes + PERIOD_BYTES * 4;
  for (let p = lanes; p < end; p += 16) {
    const v0 = v128.load(p);
    const v3 = f32x4.sub(v0, z2);
    const v1 = f32x4.add(f32x4.mul(a1, z1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(z2, f32x4.add(f32x4.mul(a2, z1), f32x4.mul(a3, v3)));
    z1 = f32x4.sub(f32x4.add(v1, v1), z1);
    z2 = f32x4.sub(f32x4.add(v2, v2), z2);
    v128.store(p, f32x4.add(f32x4.mul(m0, v0), f32x4.add(f32x4.mul(m1, v1), f32x4.mul(m2, v2))));
  }
  v128.store(at, flushed(z1), STAGE_STATE);
  v128.store(at, flushed(z2), STAGE_STATE + 16);
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
  if (kind == 1) g /= NativeMath.sqrt(a);
  if (kind == 4) g *= NativeMath.sqrt(a);
  const k = kind == 2 ? 1 / (q * a) : 1 / q;
  const a1 = 1 / (1 + g * (g + k));
  const a2 = g * a1;
  let m0: f64 = 1;
  let m1: f64 = 0;
  let m2: f64 = 0;
  if (kind == 0) {
    m1 = order == 1 ? -1 : -k;
    m2 = -1;
  } else if (kind == 1) {
    m1 = k * (a - 1);
    m2 = a * a - 1;
  } else if (kind == 2) {
    m1 = k * (a * a - 1);
  } else if (kind == 3) {
    m1 = -k;
  } else if (kind == 4) {
    m0 = a * a;
    m1 = k * (1 - a) * a;
    m2 = 1 - a * a;
  } else {
    m0 = 0;
    m1 = order == 1 ? 1 : 0;
    m2 = 1;
  }
  const p = at + <usize>lane * 4;
  store<f32>(p, <f32>a1);
  store<f32>(p + STAGE_A2, <f32>a2);
  store<f32>(p + STAGE_A3, <f32>(g * a2));
  store<f32>(p + STAGE_M0, <f32>(1 + (m0 - 1) * wet));
  store<f32>(p + STAGE_M1, <f32>(m1 * wet));
  store<f32>(p + STAGE_M2, <f32>(m2 * wet));
}

/** What goes into a ring: with everything under `TINY` as 0, since a decaying tail would end in denormals. */
export function kept(x: f32): f32 {
  return abs<f32>(x) < TINY ? <f32>0 : x;
}

/** Coefficient of a one-pole at `freq`: 1 − e^(−2πf/fs). */
export function onePole(freq: f64, rate: f64): f64 {
  return 1 - NativeMath.exp((-2 * NativeMath.PI * freq) / rate);
}

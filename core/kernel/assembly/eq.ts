// Equaliser: up to 24 state-variable stages on four channels side by side, one channel a SIMD lane.
// A. Simper, "Solving the continuous SVF equations using trapezoidal integration" (2013).
import { gather, scatter } from './lanes';
import { PERIOD_BYTES, TINY } from './layout';

/** Bytes of one stage: a1, a2, a3, m0, m1, m2, state 1, state 2, and the m0, m1, m2 that it comes from; four lanes each. */
const STAGE_BYTES: usize = 176;
/** The active list: a count, then slot numbers; behind them whether some stage goes over from one mixture to another. */
const LIST_BYTES: usize = 128;
const GLIDES: usize = 100;

/** A period of four lanes; shared by all instances, so that it stays in the nearest cache. */
const SCRATCH = memory.data(1024, 16);

/** One instance over one period: four channels in, four out. */
export function eq(op: usize): void {
  const state: usize = load<u32>(op + 36);
  const count = load<i32>(state);
  const lanes = SCRATCH;
  gather(lanes, load<u32>(op + 4), load<u32>(op + 8), load<u32>(op + 12), load<u32>(op + 16));
  let i = 0;
  if (load<i32>(state, GLIDES)) {
    for (; i < count; i++) gliding(slotAt(state, i), lanes);
    store<i32>(state, 0, GLIDES);
  } else {
    for (; i + 1 < count; i += 2) stages(slotAt(state, i), slotAt(state, i + 1), lanes);
    if (i < count) stage(slotAt(state, i), lanes);
  }
  scatter(lanes, load<u32>(op + 20), load<u32>(op + 24), load<u32>(op + 28), load<u32>(op + 32));
}

/** Address of the i-th active stage. */
function slotAt(state: usize, i: i32): usize {
  return state + LIST_BYTES + <usize>load<i32>(state + 4 + <usize>i * 4) * STAGE_BYTES;
}

/**
 * Two stages over one period, in place: the same operations as two calls of `stage`, but while the first waits for its
 * own last state the second can work. A stage alone is bound by that wait.
 */
function stages(at: usize, bt: usize, lanes: usize): void {
  const a1 = v128.load(at);
  const a2 = v128.load(at, 16);
  const a3 = v128.load(at, 32);
  const b1 = v128.load(bt);
  const b2 = v128.load(bt, 16);
  const b3 = v128.load(bt, 32);
  let y1 = v128.load(at, 96);
  let y2 = v128.load(at, 112);
  let z1 = v128.load(bt, 96);
  let z2 = v128.load(bt, 112);
  const end = lanes + PERIOD_BYTES * 4;
  for (let p = lanes; p < end; p += 16) {
    const u0 = v128.load(p);
    const u3 = f32x4.sub(u0, y2);
    const u1 = f32x4.add(f32x4.mul(a1, y1), f32x4.mul(a2, u3));
    const u2 = f32x4.add(y2, f32x4.add(f32x4.mul(a2, y1), f32x4.mul(a3, u3)));
    y1 = f32x4.sub(f32x4.add(u1, u1), y1);
    y2 = f32x4.sub(f32x4.add(u2, u2), y2);
    const v0 = f32x4.add(f32x4.mul(v128.load(at, 48), u0), f32x4.add(f32x4.mul(v128.load(at, 64), u1), f32x4.mul(v128.load(at, 80), u2)));
    const v3 = f32x4.sub(v0, z2);
    const v1 = f32x4.add(f32x4.mul(b1, z1), f32x4.mul(b2, v3));
    const v2 = f32x4.add(z2, f32x4.add(f32x4.mul(b2, z1), f32x4.mul(b3, v3)));
    z1 = f32x4.sub(f32x4.add(v1, v1), z1);
    z2 = f32x4.sub(f32x4.add(v2, v2), z2);
    v128.store(
      p,
      f32x4.add(f32x4.mul(v128.load(bt, 48), v0), f32x4.add(f32x4.mul(v128.load(bt, 64), v1), f32x4.mul(v128.load(bt, 80), v2)))
    );
  }
  v128.store(at, flushed(y1), 96);
  v128.store(at, flushed(y2), 112);
  v128.store(bt, flushed(z1), 96);
  v128.store(bt, flushed(z2), 112);
}

/** One stage over one period of lanes, in place. */
export function stage(at: usize, lanes: usize): void {
  const a1 = v128.load(at);
  const a2 = v128.load(at, 16);
  const a3 = v128.load(at, 32);
  const m0 = v128.load(at, 48);
  const m1 = v128.load(at, 64);
  const m2 = v128.load(at, 80);
  let z1 = v128.load(at, 96);
  let z2 = v128.load(at, 112);
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
  v128.store(at, flushed(z1), 96);
  v128.store(at, flushed(z2), 112);
}

/** One stage over one period in which its mixture goes over from what it was: a step of it would be heard. */
function gliding(at: usize, lanes: usize): void {
  const a1 = v128.load(at);
  const a2 = v128.load(at, 16);
  const a3 = v128.load(at, 32);
  let m0 = v128.load(at, 128);
  let m1 = v128.load(at, 144);
  let m2 = v128.load(at, 160);
  const share = f32x4.splat(1.0 / 64);
  const d0 = f32x4.mul(f32x4.sub(v128.load(at, 48), m0), share);
  const d1 = f32x4.mul(f32x4.sub(v128.load(at, 64), m1), share);
  const d2 = f32x4.mul(f32x4.sub(v128.load(at, 80), m2), share);
  let z1 = v128.load(at, 96);
  let z2 = v128.load(at, 112);
  const end = lanes + PERIOD_BYTES * 4;
  for (let p = lanes; p < end; p += 16) {
    m0 = f32x4.add(m0, d0);
    m1 = f32x4.add(m1, d1);
    m2 = f32x4.add(m2, d2);
    const v0 = v128.load(p);
    const v3 = f32x4.sub(v0, z2);
    const v1 = f32x4.add(f32x4.mul(a1, z1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(z2, f32x4.add(f32x4.mul(a2, z1), f32x4.mul(a3, v3)));
    z1 = f32x4.sub(f32x4.add(v1, v1), z1);
    z2 = f32x4.sub(f32x4.add(v2, v2), z2);
    v128.store(p, f32x4.add(f32x4.mul(m0, v0), f32x4.add(f32x4.mul(m1, v1), f32x4.mul(m2, v2))));
  }
  v128.store(at, flushed(z1), 96);
  v128.store(at, flushed(z2), 112);
  memory.copy(at + 128, at + 48, 48);
}

/** States under `TINY` become 0: WebAssembly cannot flush denormals by itself. */
export function flushed(state: v128): v128 {
  return v128.and(state, f32x4.gt(f32x4.abs(state), f32x4.splat(TINY)));
}

/**
 * Sets one lane of one stage. kind: 0 high-pass, 1 low shelf, 2 bell, 3 notch, 4 high shelf, 5 low-pass.
 * `wet` 0 … 1 fades from passing through to the filter; frequency in Hz below rate/2, gain in dB.
 */
export function eqStage(at: usize, lane: i32, kind: i32, order: i32, freq: f64, gain: f64, q: f64, wet: f64, rate: f64): void {
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
  store<f32>(p + 16, <f32>a2);
  store<f32>(p + 32, <f32>(g * a2));
  store<f32>(p + 48, <f32>(1 + (m0 - 1) * wet));
  store<f32>(p + 64, <f32>(m1 * wet));
  store<f32>(p + 80, <f32>(m2 * wet));
}

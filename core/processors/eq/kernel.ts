// Equaliser: up to 24 state-variable stages on four channels side by side, one channel a SIMD lane.
// A. Simper, "Solving the continuous SVF equations using trapezoidal integration" (2013).
import {
  flushed,
  glidingStage,
  stage,
  STAGE_BYTES,
  STAGE_C,
  STAGE_COEFFICIENTS,
  STAGE_E,
  STAGE_P,
  STAGE_Q,
  STAGE_R,
  STAGE_STATE
} from '../../kernel/assembly/filters';
import { gather, scatter } from '../../kernel/assembly/lanes';
import { PERIOD_BYTES } from '../../kernel/assembly/layout';

// An instance: the list of active stages (a count, then slot numbers, then whether some stage goes over from coefficients to
// others), then the slots. A slot is a stage, then the coefficients that it comes from.
export const EQ_SLOTS: i32 = 24;
export const EQ_GLIDES: usize = 100;
export const EQ_LIST_BYTES: usize = 128;
export const EQ_FROM: usize = STAGE_BYTES;
export const EQ_SLOT_BYTES: usize = STAGE_BYTES + STAGE_COEFFICIENTS;
export const EQ_BYTES: usize = EQ_LIST_BYTES + <usize>EQ_SLOTS * EQ_SLOT_BYTES;

/** A period of four lanes; shared by all instances, so that it stays in the nearest cache. */
const SCRATCH = memory.data(1024, 16);

/**
 * op: four in, four out, instance, lanes. One instance over one period; with lanes the four may stand there before, or stay there after it.
 */
function eq(op: usize, _frame: i64): void {
  const state: usize = load<u32>(op + 36);
  const count = load<i32>(state);
  const standing: usize = load<u32>(op + 40);
  const lanes: usize = standing ? standing : SCRATCH;
  if (load<u32>(op + 4)) gather(lanes, load<u32>(op + 4), load<u32>(op + 8), load<u32>(op + 12), load<u32>(op + 16));
  let i = 0;
  if (load<i32>(state, EQ_GLIDES)) {
    for (; i < count; i++) glidingStage(slotAt(state, i), slotAt(state, i) + EQ_FROM, lanes);
    store<i32>(state, 0, EQ_GLIDES);
  } else {
    for (; i + 1 < count; i += 2) stages(slotAt(state, i), slotAt(state, i + 1), lanes);
    if (i < count) stage(slotAt(state, i), lanes);
  }
  if (load<u32>(op + 20)) scatter(lanes, load<u32>(op + 20), load<u32>(op + 24), load<u32>(op + 28), load<u32>(op + 32));
}

/** Address of the i-th active stage. */
function slotAt(state: usize, i: i32): usize {
  return state + EQ_LIST_BYTES + <usize>load<i32>(state + 4 + <usize>i * 4) * EQ_SLOT_BYTES;
}

/**
 * Two stages over one period, in place: the same operations as two calls of `stage`, but while the first waits for its
 * own last state the second can work. A stage alone is bound by that wait.
 */
function stages(at: usize, bt: usize, lanes: usize): void {
  const ad = v128.load(at);
  const ac = v128.load(at, STAGE_C);
  const ae = v128.load(at, STAGE_E);
  const ap = v128.load(at, STAGE_P);
  const aq = v128.load(at, STAGE_Q);
  const ar = v128.load(at, STAGE_R);
  const bd = v128.load(bt);
  const bc = v128.load(bt, STAGE_C);
  const be = v128.load(bt, STAGE_E);
  const bp = v128.load(bt, STAGE_P);
  const bq = v128.load(bt, STAGE_Q);
  const br = v128.load(bt, STAGE_R);
  let s1 = v128.load(at, STAGE_STATE);
  let s2 = v128.load(at, STAGE_STATE + 16);
  let z1 = v128.load(bt, STAGE_STATE);
  let z2 = v128.load(bt, STAGE_STATE + 16);
  const end = lanes + PERIOD_BYTES * 4;
  for (let x = lanes; x < end; x += 16) {
    const u = f32x4.sub(v128.load(x), s2);
    const v = f32x4.sub(f32x4.add(f32x4.mul(ad, u), f32x4.add(f32x4.mul(ac, s1), f32x4.mul(ae, s2))), z2);
    s2 = f32x4.add(f32x4.add(s2, f32x4.mul(ap, s1)), f32x4.mul(ar, u));
    s1 = f32x4.add(f32x4.sub(s1, f32x4.mul(aq, s1)), f32x4.mul(ap, u));
    v128.store(x, f32x4.add(f32x4.mul(bd, v), f32x4.add(f32x4.mul(bc, z1), f32x4.mul(be, z2))));
    z2 = f32x4.add(f32x4.add(z2, f32x4.mul(bp, z1)), f32x4.mul(br, v));
    z1 = f32x4.add(f32x4.sub(z1, f32x4.mul(bq, z1)), f32x4.mul(bp, v));
  }
  v128.store(at, flushed(s1), STAGE_STATE);
  v128.store(at, flushed(s2), STAGE_STATE + 16);
  v128.store(bt, flushed(z1), STAGE_STATE);
  v128.store(bt, flushed(z2), STAGE_STATE + 16);
}

export function eqOp(): i32 {
  const run = eq;
  return run.index;
}

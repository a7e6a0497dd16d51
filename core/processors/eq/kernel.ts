// Equaliser: up to 24 state-variable stages on four channels side by side, one channel a SIMD lane.
// A. Simper, "Solving the continuous SVF equations using trapezoidal integration" (2013).
import { flushed, stage, STAGE_A2, STAGE_A3, STAGE_BYTES, STAGE_M0, STAGE_M1, STAGE_M2, STAGE_STATE } from '../../kernel/assembly/filters';
import { gather, scatter } from '../../kernel/assembly/lanes';
import { PERIOD_BYTES } from '../../kernel/assembly/layout';

// An instance: the list of active stages (a count, then slot numbers, then whether some stage goes over from one mixture to another),
// then the slots. A slot is a stage, then the mixture m0, m1, m2 that it comes from.
export const EQ_SLOTS: i32 = 24;
export const EQ_GLIDES: usize = 100;
export const EQ_LIST_BYTES: usize = 128;
export const EQ_FROM: usize = STAGE_BYTES;
export const EQ_SLOT_BYTES: usize = STAGE_BYTES + 48;
export const EQ_BYTES: usize = EQ_LIST_BYTES + <usize>EQ_SLOTS * EQ_SLOT_BYTES;

/** A period of four lanes; shared by all instances, so that it stays in the nearest cache. */
const SCRATCH = memory.data(1024, 16);

/** One instance over one period: four channels in, four out. */
function eq(op: usize, _frame: i64): void {
  const state: usize = load<u32>(op + 36);
  const count = load<i32>(state);
  const lanes = SCRATCH;
  gather(lanes, load<u32>(op + 4), load<u32>(op + 8), load<u32>(op + 12), load<u32>(op + 16));
  let i = 0;
  if (load<i32>(state, EQ_GLIDES)) {
    for (; i < count; i++) gliding(slotAt(state, i), lanes);
    store<i32>(state, 0, EQ_GLIDES);
  } else {
    for (; i + 1 < count; i += 2) stages(slotAt(state, i), slotAt(state, i + 1), lanes);
    if (i < count) stage(slotAt(state, i), lanes);
  }
  scatter(lanes, load<u32>(op + 20), load<u32>(op + 24), load<u32>(op + 28), load<u32>(op + 32));
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
  const a1 = v128.load(at);
  const a2 = v128.load(at, STAGE_A2);
  const a3 = v128.load(at, STAGE_A3);
  const b1 = v128.load(bt);
  const b2 = v128.load(bt, STAGE_A2);
  const b3 = v128.load(bt, STAGE_A3);
  let y1 = v128.load(at, STAGE_STATE);
  let y2 = v128.load(at, STAGE_STATE + 16);
  let z1 = v128.load(bt, STAGE_STATE);
  let z2 = v128.load(bt, STAGE_STATE + 16);
  const end = lanes + PERIOD_BYTES * 4;
  for (let p = lanes; p < end; p += 16) {
    const u0 = v128.load(p);
    const u3 = f32x4.sub(u0, y2);
    const u1 = f32x4.add(f32x4.mul(a1, y1), f32x4.mul(a2, u3));
    const u2 = f32x4.add(y2, f32x4.add(f32x4.mul(a2, y1), f32x4.mul(a3, u3)));
    y1 = f32x4.sub(f32x4.add(u1, u1), y1);
    y2 = f32x4.sub(f32x4.add(u2, u2), y2);
    const v0 = f32x4.add(
      f32x4.mul(v128.load(at, STAGE_M0), u0),
      f32x4.add(f32x4.mul(v128.load(at, STAGE_M1), u1), f32x4.mul(v128.load(at, STAGE_M2), u2))
    );
    const v3 = f32x4.sub(v0, z2);
    const v1 = f32x4.add(f32x4.mul(b1, z1), f32x4.mul(b2, v3));
    const v2 = f32x4.add(z2, f32x4.add(f32x4.mul(b2, z1), f32x4.mul(b3, v3)));
    z1 = f32x4.sub(f32x4.add(v1, v1), z1);
    z2 = f32x4.sub(f32x4.add(v2, v2), z2);
    v128.store(
      p,
      f32x4.add(
        f32x4.mul(v128.load(bt, STAGE_M0), v0),
        f32x4.add(f32x4.mul(v128.load(bt, STAGE_M1), v1), f32x4.mul(v128.load(bt, STAGE_M2), v2))
      )
    );
  }
  v128.store(at, flushed(y1), STAGE_STATE);
  v128.store(at, flushed(y2), STAGE_STATE + 16);
  v128.store(bt, flushed(z1), STAGE_STATE);
  v128.store(bt, flushed(z2), STAGE_STATE + 16);
}

/** One stage over one period in which its mixture goes over from what it was: a step of it would be heard. */
function gliding(at: usize, lanes: usize): void {
  const a1 = v128.load(at);
  const a2 = v128.load(at, STAGE_A2);
  const a3 = v128.load(at, STAGE_A3);
  let m0 = v128.load(at, EQ_FROM);
  let m1 = v128.load(at, EQ_FROM + 16);
  let m2 = v128.load(at, EQ_FROM + 32);
  const share = f32x4.splat(1.0 / 64);
  const d0 = f32x4.mul(f32x4.sub(v128.load(at, STAGE_M0), m0), share);
  const d1 = f32x4.mul(f32x4.sub(v128.load(at, STAGE_M1), m1), share);
  const d2 = f32x4.mul(f32x4.sub(v128.load(at, STAGE_M2), m2), share);
  let z1 = v128.load(at, STAGE_STATE);
  let z2 = v128.load(at, STAGE_STATE + 16);
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
  v128.store(at, flushed(z1), STAGE_STATE);
  v128.store(at, flushed(z2), STAGE_STATE + 16);
  memory.copy(at + EQ_FROM, at + STAGE_M0, 48);
}

export function eqOp(): i32 {
  const run = eq;
  return run.index;
}

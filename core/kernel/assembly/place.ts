// A 2 × 2 matrix of gains, and a delay in whole frames: the trim's own, and the compensation of latency.
import { PERIOD, PERIOD_BYTES } from './layout';
import { gainsAt } from './mix';

/**
 * op: left, right in; left, right out; instance. Instance: four ramps { value, step } LL, RL, LR, RR.
 * "RL" is what of the right goes to the left. Cells that a lane moves have a gain for each frame.
 */
export function matrix(op: usize): void {
  const srcL: usize = load<u32>(op + 4);
  const srcR: usize = load<u32>(op + 8);
  const dstL: usize = load<u32>(op + 12);
  const dstR: usize = load<u32>(op + 16);
  const at: usize = load<u32>(op + 20);
  side(dstL, srcL, srcR, at);
  if (dstR != dstL) side(dstR, srcL, srcR, at + 16);
}

function side(dst: usize, left: usize, right: usize, at: usize): void {
  const moved = load<f32>(at + 4) != load<f32>(at + 4);
  if (moved || load<f32>(at + 12) != load<f32>(at + 12)) {
    lanes(dst, left, right, at);
    return;
  }
  const aStart = f32x4.splat(load<f32>(at));
  const aStep = f32x4.splat(load<f32>(at + 4));
  const bStart = f32x4.splat(load<f32>(at + 8));
  const bStep = f32x4.splat(load<f32>(at + 12));
  let frames = f32x4(0, 1, 2, 3);
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    const a = f32x4.mul(v128.load(left + i), f32x4.add(aStart, f32x4.mul(aStep, frames)));
    const b = f32x4.mul(v128.load(right + i), f32x4.add(bStart, f32x4.mul(bStep, frames)));
    v128.store(dst + i, f32x4.add(a, b));
    frames = f32x4.add(frames, f32x4.splat(4));
  }
}

/** A side of which one or both gains come from lanes; the other may be a ramp. */
function lanes(dst: usize, left: usize, right: usize, at: usize): void {
  for (let i: usize = 0; i < PERIOD_BYTES; i += 16) {
    const a = f32x4.mul(v128.load(left + i), four(at, i));
    const b = f32x4.mul(v128.load(right + i), four(at + 8, i));
    v128.store(dst + i, f32x4.add(a, b));
  }
}

function four(ramp: usize, at: usize): v128 {
  const step = load<f32>(ramp + 4);
  if (step != step) return v128.load(gainsAt(ramp) + at);
  const frames = f32x4.add(f32x4.splat(<f32>(at / 4)), f32x4(0, 1, 2, 3));
  return f32x4.add(f32x4.splat(load<f32>(ramp)), f32x4.mul(f32x4.splat(step), frames));
}

/** op: in, out, ring, mask, address of the number of frames. dst = src `frames` later; the ring is indexed by the absolute frame. */
export function delay(op: usize, frame: i64): void {
  const src: usize = load<u32>(op + 4);
  const dst: usize = load<u32>(op + 8);
  const ring: usize = load<u32>(op + 12);
  const mask = load<i32>(op + 16);
  const frames = load<i32>(<usize>load<u32>(op + 20));
  const now = <i32>frame;
  // A period never straddles the ring's end when it is written; it may when it is read.
  memory.copy(ring + <usize>(now & mask) * 4, src, PERIOD_BYTES);
  const from = (now - frames) & mask;
  const first = min<i32>(PERIOD, mask + 1 - from);
  memory.copy(dst, ring + <usize>from * 4, <usize>first * 4);
  if (first < PERIOD) memory.copy(dst + <usize>first * 4, ring, <usize>(PERIOD - first) * 4);
}

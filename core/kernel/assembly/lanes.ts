// Four channels side by side: from planar periods into lanes, [frame][channel], and back.
import { PERIOD_BYTES } from './layout';

/** Bytes of a period of four lanes. */
export const LANES_BYTES: usize = PERIOD_BYTES * 4;

/** Into `lanes`, from four planar buffers. */
export function gather(lanes: usize, s0: usize, s1: usize, s2: usize, s3: usize): void {
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const a = v128.load(s0 + at);
    const b = v128.load(s1 + at);
    const c = v128.load(s2 + at);
    const d = v128.load(s3 + at);
    const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
    const ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
    const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
    const cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
    const out = lanes + at * 4;
    v128.store(out, v128.shuffle<f64>(ab0, cd0, 0, 2));
    v128.store(out, v128.shuffle<f64>(ab0, cd0, 1, 3), 16);
    v128.store(out, v128.shuffle<f64>(ab1, cd1, 0, 2), 32);
    v128.store(out, v128.shuffle<f64>(ab1, cd1, 1, 3), 48);
  }
}

/** Out of `lanes`, into four planar buffers. */
export function scatter(lanes: usize, d0: usize, d1: usize, d2: usize, d3: usize): void {
  for (let at: usize = 0; at < PERIOD_BYTES; at += 16) {
    const from = lanes + at * 4;
    const a = v128.load(from);
    const b = v128.load(from, 16);
    const c = v128.load(from, 32);
    const d = v128.load(from, 48);
    const ab0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
    const ab1 = v128.shuffle<f32>(a, b, 2, 6, 3, 7);
    const cd0 = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
    const cd1 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
    v128.store(d0 + at, v128.shuffle<f64>(ab0, cd0, 0, 2));
    v128.store(d1 + at, v128.shuffle<f64>(ab0, cd0, 1, 3));
    v128.store(d2 + at, v128.shuffle<f64>(ab1, cd1, 0, 2));
    v128.store(d3 + at, v128.shuffle<f64>(ab1, cd1, 1, 3));
  }
}

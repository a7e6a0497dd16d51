// The kernel: runs a render plan, one control period at a time. The host writes ops, gains and coefficients.
import { OP_EQ, OP_METER, OP_MIX, OP_REVERB, OP_SET, OP_SOURCE, OP_WORDS, OP_ZERO } from './layout';
import { meter, mix, set, source, zero } from './mix';
import { eq } from './eq';
import { reverb } from './reverb';

export { eqStage } from './eq';
export { decayGain, onePole } from './reverb';

/** Amplitude for a level in dB: the same bits wherever it runs, which Math.pow does not promise. */
export function gainOf(db: f64): f64 {
  return NativeMath.pow(10, db / 20);
}

/**
 * Gain of the left side for a pan position −1 … 1 under a law of `centre` dB at the middle (−3, −4.5, −6 or 0).
 * −3: sine/cosine; −6: linear; −4.5: their geometric mean; 0: balance.
 */
export function panLeft(position: f64, centre: f64): f64 {
  const power = NativeMath.cos(((position + 1) * NativeMath.PI) / 4);
  const linear = (1 - position) / 2;
  if (centre == 0) return min<f64>(1, 1 - position);
  if (position >= 1) return 0;
  if (centre == -6) return linear;
  if (centre == -4.5) return NativeMath.sqrt(power * linear);
  return power;
}

/** Runs `count` ops at `ops`; `frame` counts from where rendering started, `phase` is the period within the source chunk. */
export function run(ops: usize, count: i32, frame: i64, phase: i32): void {
  let op = ops;
  for (let i = 0; i < count; i++) {
    const code = load<i32>(op);
    const dst: usize = load<u32>(op + 4);
    const src: usize = load<u32>(op + 8);
    const more: usize = load<u32>(op + 12);
    if (code == OP_MIX) mix(dst, src, more);
    else if (code == OP_SET) set(dst, src, more);
    else if (code == OP_ZERO) zero(dst);
    else if (code == OP_SOURCE) source(dst, src, phase);
    else if (code == OP_METER) meter(dst, src, more);
    else if (code == OP_EQ) eq(op);
    else if (code == OP_REVERB) reverb(op, frame);
    op += <usize>OP_WORDS * 4;
  }
}

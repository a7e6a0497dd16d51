// The kernel: runs a render plan, one control period at a time. The host writes ops, gains and coefficients. The desk's own ops are
// here; each processor brings its own (core/processors/*/kernel.ts), and the build compiles them all into one module.
import {
  OP_BLEND,
  OP_FADER,
  OP_DELAY,
  OP_GATHER,
  OP_MATRIX,
  OP_METER,
  OP_MONO,
  OP_PROCESSOR,
  OP_SCATTER,
  OP_SET,
  OP_SHAPE,
  OP_SOURCE,
  OP_SUM,
  OP_WORDS
} from './layout';
import { blend, fader, gather, meter, mono, scatter, set, shape, source, sum } from './mix';
import { delay, matrix } from './place';

export * from './layout';
export { clearStage, onePole, setStage, STAGE_BYTES, STAGE_COEFFICIENTS } from './filters';
export { follow } from './math';
export { fillGains, scale } from './mix';
export {
  amplitudeOf,
  DRIVE_BYTES,
  driveOn,
  pinOf,
  READ_ASKED,
  READ_EVEN,
  READ_PIN,
  READ_RATIO,
  READ_STILL,
  READER_BYTES,
  readOn
} from './courses';

/** Amplitude for a level in dB: the same bits wherever it runs, which Math.pow does not promise. */
export function gainOf(db: f64): f64 {
  return NativeMath.pow(10, db / 20);
}

/** Level in dB of an amplitude above 0. */
export function dbOf(gain: f64): f64 {
  return 20 * NativeMath.log10(gain);
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
    if (code == OP_SUM) sum(op);
    else if (code == OP_SOURCE) source(dst, src, more, phase);
    else if (code == OP_FADER) fader(op);
    else if (code == OP_SET) set(dst, src, more);
    else if (code == OP_METER) meter(dst, src, more);
    else if (code == OP_MONO) mono(dst, src, more);
    else if (code == OP_DELAY) delay(op, frame);
    else if (code == OP_MATRIX) matrix(op);
    else if (code == OP_BLEND) blend(op);
    else if (code == OP_SHAPE) shape(dst, src, more);
    else if (code == OP_GATHER) gather(dst, src, more);
    else if (code == OP_SCATTER) scatter(dst, src, more);
    // A processor says itself where it is among the module's functions.
    else if (code >= OP_PROCESSOR) call_indirect<void>(code - OP_PROCESSOR, op, frame);
    op += <usize>OP_WORDS * 4;
  }
}

// Logarithm and exponential of four floats at once: the same bits on every machine, within 4e-7 of the true value.
// Constants are loaded from memory: made anew from immediates in every turn of a loop they cost more than the arithmetic.

// prettier-ignore
const LOG_TABLE = memory.data<f32>([
  0.4121985831111324, 0.4121985831111324, 0.4121985831111324, 0.4121985831111324,
  0.5770780163555853, 0.5770780163555853, 0.5770780163555853, 0.5770780163555853,
  0.9617966939259756, 0.9617966939259756, 0.9617966939259756, 0.9617966939259756,
  2.8853900817779268, 2.8853900817779268, 2.8853900817779268, 2.8853900817779268
], 16);
// prettier-ignore
const EXP_TABLE = memory.data<f32>([
  0.0001540353039338161, 0.0001540353039338161, 0.0001540353039338161, 0.0001540353039338161,
  0.0013333558146428443, 0.0013333558146428443, 0.0013333558146428443, 0.0013333558146428443,
  0.009618129107628477, 0.009618129107628477, 0.009618129107628477, 0.009618129107628477,
  0.05550410866482158, 0.05550410866482158, 0.05550410866482158, 0.05550410866482158,
  0.24022650695910072, 0.24022650695910072, 0.24022650695910072, 0.24022650695910072,
  0.6931471805599453, 0.6931471805599453, 0.6931471805599453, 0.6931471805599453,
  1.0, 1.0, 1.0, 1.0
], 16);
/** The bits of √½, four times. */
const ROOT = memory.data<i32>([0x3f3504f3, 0x3f3504f3, 0x3f3504f3, 0x3f3504f3], 16);

/**
 * log2 of four positive normal floats. The mantissa is brought to √½ … √2; there log2(m) = 2/ln 2 · artanh((m−1)/(m+1)),
 * whose series to the seventh power is under 5e-8 off.
 */
export function log2x4(x: v128): v128 {
  // Subtracting √½'s bits before the shift moves the step of the exponent to √½.
  const exponent = i32x4.shr_s(i32x4.sub(x, v128.load(ROOT)), 23);
  const m = i32x4.sub(x, i32x4.shl(exponent, 23));
  const one = v128.load(EXP_TABLE, 96);
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const q = f32x4.mul(s, s);
  let p = v128.load(LOG_TABLE);
  p = f32x4.add(f32x4.mul(p, q), v128.load(LOG_TABLE, 16));
  p = f32x4.add(f32x4.mul(p, q), v128.load(LOG_TABLE, 32));
  p = f32x4.add(f32x4.mul(p, q), v128.load(LOG_TABLE, 48));
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(p, s));
}

/** 1.5 · 2²³: adding it leaves the nearest whole number in the low bits. */
const MAGIC = memory.data<f32>([12582912, 12582912, 12582912, 12582912], 16);

/** 2 to the power of four floats in −126 … 126: the nearest whole power times the Taylor series of 2^f, |f| ≤ ½. */
export function exp2x4(x: v128): v128 {
  const shifted = f32x4.add(x, v128.load(MAGIC));
  const f = f32x4.sub(x, f32x4.sub(shifted, v128.load(MAGIC)));
  let p = v128.load(EXP_TABLE);
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 16));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 32));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 48));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 64));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 80));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 96));
  return i32x4.add(p, i32x4.shl(shifted, 23));
}

/** One-pole coefficient for a time constant in ms: 1 − e^(−1/(t·fs)); a time of 0 follows at once. */
export function follow(ms: f64, rate: f64): f64 {
  return ms <= 0 ? 1 : 1 - NativeMath.exp(-1000 / (ms * rate));
}

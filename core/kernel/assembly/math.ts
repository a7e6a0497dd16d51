// Logarithm and exponential of four floats at once: the same bits on every machine, within 4e-7 of the true value.
// Constants are loaded from memory: made anew from immediates in every turn of a loop they cost more than the arithmetic.

// prettier-ignore
const LOG_TABLE = memory.data<f32>([
  0.5957807228765157, 0.5957807228765157, 0.5957807228765157, 0.5957807228765157,
  0.9615883259801891, 0.9615883259801891, 0.9615883259801891, 0.9615883259801891,
  2.885390424236176, 2.885390424236176, 2.885390424236176, 2.885390424236176
], 16);
// prettier-ignore
const EXP_TABLE = memory.data<f32>([
  0.0013264727496892792, 0.0013264727496892792, 0.0013264727496892792, 0.0013264727496892792,
  0.009671512631821018, 0.009671512631821018, 0.009671512631821018, 0.009671512631821018,
  0.05550733742118626, 0.05550733742118626, 0.05550733742118626, 0.05550733742118626,
  0.2402224208554347, 0.2402224208554347, 0.2402224208554347, 0.2402224208554347,
  0.6931469776001491, 0.6931469776001491, 0.6931469776001491, 0.6931469776001491,
  1.0, 1.0, 1.0, 1.0
], 16);
/** The bits of √½, four times. */
const ROOT = memory.data<i32>([0x3f3504f3, 0x3f3504f3, 0x3f3504f3, 0x3f3504f3], 16);

/**
 * log2 of four positive normal floats. The mantissa is brought to √½ … √2; there log2(m) = 2/ln 2 · artanh((m−1)/(m+1)):
 * an odd polynomial of the fifth power, the best there is (Remez), 1.2e-7 of the value off.
 */
export function log2x4(x: v128): v128 {
  // Subtracting √½'s bits before the shift moves the step of the exponent to √½.
  const exponent = i32x4.shr_s(i32x4.sub(x, v128.load(ROOT)), 23);
  const m = i32x4.sub(x, i32x4.shl(exponent, 23));
  const one = v128.load(EXP_TABLE, 80);
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const q = f32x4.mul(s, s);
  let p = v128.load(LOG_TABLE);
  p = f32x4.add(f32x4.mul(p, q), v128.load(LOG_TABLE, 16));
  p = f32x4.add(f32x4.mul(p, q), v128.load(LOG_TABLE, 32));
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(p, s));
}

/** 1.5 · 2²³: adding it leaves the nearest whole number in the low bits. */
const MAGIC = memory.data<f32>([12582912, 12582912, 12582912, 12582912], 16);

/** 2 to the power of four floats in −126 … 126: the nearest whole power times a polynomial for 2^f, |f| ≤ ½: the best of the
 * fifth power that is exactly 1 at 0 (Remez), 9.2e-8 off. */
export function exp2x4(x: v128): v128 {
  const shifted = f32x4.add(x, v128.load(MAGIC));
  const f = f32x4.sub(x, f32x4.sub(shifted, v128.load(MAGIC)));
  let p = v128.load(EXP_TABLE);
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 16));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 32));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 48));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 64));
  p = f32x4.add(f32x4.mul(p, f), v128.load(EXP_TABLE, 80));
  return i32x4.add(p, i32x4.shl(shifted, 23));
}

/** One-pole coefficient for a time constant in ms: 1 − e^(−1/(t·fs)); a time of 0 follows at once. */
export function follow(ms: f64, rate: f64): f64 {
  return ms <= 0 ? 1 : 1 - NativeMath.exp(-1000 / (ms * rate));
}

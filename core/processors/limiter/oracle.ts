// The limiter's oracle in float64, and true peak by long interpolation, for judging it.
import type { Oracle } from '../oracle.ts';
import { limiterWindow } from './params.ts';

const bessel = (x: number) => {
  let [term, sum] = [1, 1];
  for (let i = 1; i < 60; i++) sum += term *= (x / 2 / i) ** 2;
  return sum;
};
/** Windowed-sinc weights for the point `phase`/`phases` past the middle of ±`half` frames. */
const weights = (half: number, phase: number, phases: number, beta: number) =>
  Array.from({ length: 2 * half }, (_, k) => {
    const t = k - half + phase / phases;
    const sinc = t === 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
    return (sinc * bessel(beta * Math.sqrt(Math.max(0, 1 - (t / half) ** 2)))) / bessel(beta);
  });

/** Where the parabola through three points one step apart turns, if that is between them: its value; else the middle. */
function turning(a: number, b: number, c: number): number {
  const curve = a - 2 * b + c;
  const turn = (a - c) / (2 * curve);
  if (!(Math.abs(turn) <= 1)) return b;
  return b + (turn * (c - a)) / 2 + (curve * turn * turn) / 2;
}

/** One or two sides; the result is late by the limiter's latency, as the limiter's own is. */
export function limiterOracle(sides: readonly Float64Array[], v: Readonly<Record<string, number>>, rate: number): Float64Array[] {
  const window = limiterWindow(rate);
  const [drive, ceiling] = [10 ** (v.drive / 20), 10 ** (v.ceiling / 20)];
  const release = 1 - Math.exp(-1000 / (v.release * rate));
  const driven = sides.map((side) => side.map((x) => x * drive));
  const phases = Array.from({ length: 8 }, (_, i) => weights(24, i, 8, 4.2));
  const frames = sides[0].length;
  const needed = new Float64Array(frames);
  const reductions = new Float64Array(frames);
  const out = sides.map(() => new Float64Array(frames));
  let reduction = 0;
  for (let n = 0; n < frames; n++) {
    let peak = 0;
    for (const x of driven) {
      const at = (phase: readonly number[], frame: number) => phase.reduce((sum, w, k) => sum + w * (x[frame - k] ?? 0), 0);
      const points = [at(phases[7], n - 1), ...phases.map((phase) => at(phase, n)), x[n - 23] ?? 0];
      peak = Math.max(peak, Math.abs(points[0]), Math.abs(points[9]));
      for (let i = 1; i < 9; i++) peak = Math.max(peak, Math.abs(turning(points[i - 1], points[i], points[i + 1])));
    }
    needed[n] = Math.min(1, ceiling / Math.max(peak, 1e-9));
    let least = 1;
    for (let k = 0; k <= window; k++) least = Math.min(least, needed[n - k] ?? 1);
    const wanted = 1 - least;
    reduction = wanted > reduction ? wanted : reduction + release * (wanted - reduction);
    reductions[n] = reduction;
    let sum = 0;
    for (let k = 0; k < window; k++) sum += reductions[n - k] ?? 0;
    driven.forEach((x, i) => (out[i][n] = (x[n - window - 23] ?? 0) * (1 - sum / window)));
  }
  return out;
}

/** A signal without what is over 0.475 of the rate: what is nearer to half the rate has peaks that no interpolation finds. */
export function withoutTop(signal: Float32Array): Float32Array {
  const [half, corner] = [512, 0.4725];
  const fir = Array.from({ length: 2 * half + 1 }, (_, k) => {
    const t = k - half;
    const sinc = t === 0 ? 2 * corner : Math.sin(2 * Math.PI * corner * t) / (Math.PI * t);
    return (sinc * bessel(9 * Math.sqrt(1 - (t / (half + 1)) ** 2))) / bessel(9);
  });
  return signal.map((_, n) => fir.reduce((sum, w, k) => sum + w * (signal[n - k] ?? 0), 0));
}

/** Highest magnitude between the frames too: sixteenfold, ±64 frames; dB. */
export function truePeakDb(signal: ArrayLike<number>): number {
  const phases = Array.from({ length: 16 }, (_, phase) => weights(64, phase, 16, 10));
  let peak = 0;
  for (let n = 127; n < signal.length; n++)
    for (const phase of phases) {
      let sum = 0;
      for (let k = 0; k < 128; k++) sum += phase[k] * signal[n - k];
      peak = Math.max(peak, Math.abs(sum));
    }
  return 20 * Math.log10(peak);
}

export const oracle: Oracle = (sides, { values, rate }) => limiterOracle(sides, values, rate);

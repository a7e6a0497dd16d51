// The reverb's oracle: the network written plainly in float64, every delay a whole-length array.
import type { Oracle } from '../oracle.ts';
import { reverbShape } from './params.ts';

const DIFFUSION = Math.fround(0.62);
/** Signs of the Sylvester–Hadamard matrix: −1 to the number of common bits. */
const SIGNS = Array.from({ length: 16 }, (_, i) =>
  Array.from({ length: 16 }, (_, j) => ([...(i & j).toString(2)].filter((bit) => bit === '1').length % 2 ? -1 : 1))
);

/** Rows of the matrix by which the sides come in: left, right. */
const IN = [12, 13];
/**
 * Signs with which they go out: bent functions of the line's number, as unlike as can be to every row of the matrix, so that no line gets
 * or gives a whole side.
 */
const bits = (i: number) => [0, 1, 2, 3].map((k) => (i >> k) & 1);
const OUT = [
  (i: number) => bits(i)[0] * bits(i)[1] + bits(i)[2] * bits(i)[3],
  (i: number) => bits(i)[0] * bits(i)[1] + bits(i)[2] * bits(i)[3] + bits(i)[1] + bits(i)[2]
].map((odd) => Array.from({ length: 16 }, (_, i) => (odd(i) % 2 ? -1 : 1)));

export function reverbOracle(
  left: Float64Array,
  right: Float64Array,
  v: Readonly<Record<string, number>>,
  rate: number
): [Float64Array, Float64Array] {
  const { preDelay, lines, left: apL, right: apR, level } = reverbShape(v, rate);
  const n = left.length;
  const prepared = [left, right].map((side, which) => {
    const cut = 1 - Math.exp((-2 * Math.PI * v.lowCut) / rate);
    let low = 0;
    let signal = Float64Array.from(side, (_, i) => side[i - preDelay] ?? 0).map((x) => {
      low += cut * (x - low);
      return x - low;
    });
    for (const length of which === 0 ? apL : apR) {
      const fed = new Float64Array(n);
      signal = signal.map((x, i) => {
        const old = fed[i - length] ?? 0;
        fed[i] = x + DIFFUSION * old;
        return old - DIFFUSION * fed[i];
      });
    }
    return signal;
  });
  const gains = lines.map((length) => 10 ** ((-3 * length) / (v.decay * rate)));
  // The pole that has the same loss once more at `damp`: (1 − p)² = g²·(1 − 2p·cos ω + p²).
  const damps = gains.map((g) => {
    const [a, b] = [1 - g * g, 2 - 2 * g * g * Math.cos((2 * Math.PI * Math.min(v.damp, rate * 0.49)) / rate)];
    return 1 - (b - Math.sqrt(b * b - 4 * a * a)) / (2 * a);
  });
  const rings = lines.map(() => new Float64Array(n));
  const states = lines.map(() => 0);
  const out: [Float64Array, Float64Array] = [new Float64Array(n), new Float64Array(n)];
  for (let t = 0; t < n; t++) {
    const read = lines.map((length, i) => rings[i][t - length] ?? 0);
    read.forEach((x, i) => (states[i] += damps[i] * (x - states[i])));
    const lossy = states.map((x, i) => x * gains[i]);
    for (let i = 0; i < 16; i++) {
      const mixed = lossy.reduce((sum, x, j) => sum + SIGNS[i][j] * x, 0) / 4;
      rings[i][t] = mixed + prepared[0][t] * SIGNS[i][IN[0]] + prepared[1][t] * SIGNS[i][IN[1]];
    }
    const [wetL, wetR] = OUT.map((signs) => read.reduce((sum, x, i) => sum + signs[i] * x, 0));
    const [mid, side] = [(wetL + wetR) / 2, ((wetL - wetR) / 2) * (v.width / 100)];
    const wet = v.mix / 100;
    out[0][t] = left[t] * (1 - wet) + (mid + side) * wet * level;
    out[1][t] = right[t] * (1 - wet) + (mid - side) * wet * level;
  }
  return out;
}

export const oracle: Oracle = ([l, r], { values, rate }) => reverbOracle(l, r, values, rate);

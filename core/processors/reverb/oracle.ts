// The reverb's oracle: the network written plainly in float64, every delay a whole-length array.
import type { Oracle } from '../oracle.ts';
import { reverbShape } from './params.ts';

const DIFFUSION = Math.fround(0.62);
/** Signs of the Sylvester–Hadamard matrix: −1 to the number of common bits. */
const sign = (i: number, j: number) => ([...(i & j).toString(2)].filter((bit) => bit === '1').length % 2 ? -1 : 1);

export function reverbOracle(
  left: Float64Array,
  right: Float64Array,
  v: Readonly<Record<string, number>>,
  rate: number
): [Float64Array, Float64Array] {
  const { preDelay, lines, left: apL, right: apR } = reverbShape(v, rate);
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
  const damp = 1 - Math.exp((-2 * Math.PI * v.damp) / rate);
  const gains = lines.map((length) => 10 ** ((-3 * length) / (v.decay * rate)));
  const rings = lines.map(() => new Float64Array(n));
  const states = lines.map(() => 0);
  const out: [Float64Array, Float64Array] = [new Float64Array(n), new Float64Array(n)];
  for (let t = 0; t < n; t++) {
    const read = lines.map((length, i) => rings[i][t - length] ?? 0);
    read.forEach((x, i) => (states[i] += damp * (x - states[i])));
    const lossy = states.map((x, i) => x * gains[i]);
    const [l, r] = [prepared[0][t], prepared[1][t]];
    const feed = [l, r, -l, r, l, r, -l, r];
    // Lanes 0–3 and 4–7 are summed and subtracted first, then Hadamard of order 4 on each half.
    for (let i = 0; i < 8; i++) {
      let sum = 0;
      for (let j = 0; j < 8; j++) sum += (i >= 4 && j >= 4 ? -1 : 1) * sign(i & 3, j & 3) * lossy[j];
      rings[i][t] = sum / Math.sqrt(8) + feed[i];
    }
    const wetL = read[0] - read[2] + read[4] - read[6];
    const wetR = read[1] + read[3] - read[5] - read[7];
    const [mid, side] = [(wetL + wetR) / 2, ((wetL - wetR) / 2) * (v.width / 100)];
    const wet = v.mix / 100;
    out[0][t] = left[t] * (1 - wet) + (mid + side) * wet;
    out[1][t] = right[t] * (1 - wet) + (mid - side) * wet;
  }
  return out;
}

export const oracle: Oracle = ([l, r], { values, rate }) => reverbOracle(l, r, values, rate);

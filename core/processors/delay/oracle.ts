// The delay's oracle: float64, the two rings as whole-length arrays.
import type { Oracle } from '../oracle.ts';
import { delayShape } from './params.ts';

const pole = (freq: number, rate: number) => 1 - Math.exp((-2 * Math.PI * Math.min(freq, rate * 0.49)) / rate);

export function delayOracle(
  left: Float64Array,
  right: Float64Array,
  v: Readonly<Record<string, number>>,
  rate: number,
  bpm: number
): [Float64Array, Float64Array] {
  const { mode, taps } = delayShape(v, rate, bpm);
  const rings = [new Float64Array(left.length), new Float64Array(left.length)];
  const out: [Float64Array, Float64Array] = [new Float64Array(left.length), new Float64Array(left.length)];
  const high = v.high <= 20 ? 0 : pole(v.high, rate);
  const low = v.low >= 20000 ? 1 : pole(v.low, rate);
  const states = [
    [0, 0],
    [0, 0]
  ];
  const wet = v.mix / 100;
  for (let n = 0; n < left.length; n++) {
    const back = [taps[0].left, taps[0].right].map((frames, side) => {
      const x = rings[side][n - frames] ?? 0;
      states[side][0] += high * (x - states[side][0]);
      states[side][1] += low * (x - states[side][0] - states[side][1]);
      return (states[side][1] * v.feedback) / 100;
    });
    const [l, r] = [left[n], right[n]];
    const fed = [
      [l + back[0], r + back[1]],
      [l + back[1], r + back[0]],
      [(l + r) / 2 + back[1], back[0]]
    ][mode];
    [rings[0][n], rings[1][n]] = fed;
    const sums = [0, 0];
    for (const tap of taps) {
      const level = 10 ** (tap.level / 20);
      sums[0] += (rings[0][n - tap.left] ?? 0) * level * Math.min(1, 1 - tap.pan / 100);
      sums[1] += (rings[1][n - tap.right] ?? 0) * level * Math.min(1, 1 + tap.pan / 100);
    }
    out[0][n] = l * (1 - wet) + sums[0] * wet;
    out[1][n] = r * (1 - wet) + sums[1] * wet;
  }
  return out;
}

export const oracle: Oracle = ([l, r], { values, rate, bpm }) => delayOracle(l, r, values, rate, bpm);

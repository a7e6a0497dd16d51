// The equaliser's oracle: float64 biquads after R. Bristow-Johnson's cookbook, direct form, one sample at a time.
import type { Oracle } from '../oracle.ts';
import { bandOf, EQ_BANDS, stagesOf, TOP_SHARE } from './params.ts';

type Biquad = readonly [b0: number, b1: number, b2: number, a1: number, a2: number];

function biquad(type: number, order: 1 | 2, freq: number, gain: number, q: number, rate: number): Biquad {
  const w = (2 * Math.PI * Math.min(freq, rate * TOP_SHARE)) / rate;
  const [cos, sin, a] = [Math.cos(w), Math.sin(w), 10 ** (gain / 40)];
  if (order === 1) {
    const g = Math.tan(w / 2);
    const pole = (g - 1) / (g + 1);
    return type === 0 ? [1 / (1 + g), -1 / (1 + g), 0, pole, 0] : [g / (1 + g), g / (1 + g), 0, pole, 0];
  }
  const alpha = sin / (2 * q);
  const root = 2 * Math.sqrt(a) * alpha;
  const [b0, b1, b2, a0, a1, a2] = [
    () => [(1 + cos) / 2, -(1 + cos), (1 + cos) / 2, 1 + alpha, -2 * cos, 1 - alpha],
    () => [
      a * (a + 1 - (a - 1) * cos + root),
      2 * a * (a - 1 - (a + 1) * cos),
      a * (a + 1 - (a - 1) * cos - root),
      a + 1 + (a - 1) * cos + root,
      -2 * (a - 1 + (a + 1) * cos),
      a + 1 + (a - 1) * cos - root
    ],
    () => [1 + alpha * a, -2 * cos, 1 - alpha * a, 1 + alpha / a, -2 * cos, 1 - alpha / a],
    () => [1, -2 * cos, 1, 1 + alpha, -2 * cos, 1 - alpha],
    () => [
      a * (a + 1 + (a - 1) * cos + root),
      -2 * a * (a - 1 + (a + 1) * cos),
      a * (a + 1 + (a - 1) * cos - root),
      a + 1 - (a - 1) * cos + root,
      2 * (a - 1 - (a + 1) * cos),
      a + 1 - (a - 1) * cos - root
    ],
    () => [(1 - cos) / 2, 1 - cos, (1 - cos) / 2, 1 + alpha, -2 * cos, 1 - alpha]
  ][type]();
  return [b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0];
}

/** One channel through the whole equaliser, from silence. */
export function eqOracle(input: Float64Array, values: Readonly<Record<string, number>>, rate: number): Float64Array {
  let signal = input;
  for (let i = 0; i < EQ_BANDS; i++) {
    const band = bandOf(values, i);
    if (!band.on) continue;
    for (const { order, q } of stagesOf(band)) {
      const [b0, b1, b2, a1, a2] = biquad(band.type, order, band.freq, band.gain, q, rate);
      let [x1, x2, y1, y2] = [0, 0, 0, 0];
      signal = signal.map((x) => {
        const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
        [x2, x1, y2, y1] = [x1, x, y1, y];
        return y;
      });
    }
  }
  return signal;
}

export const oracle: Oracle = (sides, { values, rate }) => sides.map((side) => eqOracle(side, values, rate));

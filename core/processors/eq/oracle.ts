// The equaliser's oracle: float64 biquads, direct form, one sample at a time; after R. Bristow-Johnson's cookbook, bells by solving for
// what they have to meet.
import type { Oracle } from '../oracle.ts';
import { bandOf, EQ_BANDS, stagesOf, TOP_SHARE } from './params.ts';

type Biquad = readonly [b0: number, b1: number, b2: number, a1: number, a2: number];

/** The cookbook's analogue bell, |H|² at a frequency. */
export function analogueBell(frequency: number, freq: number, gain: number, q: number): number {
  const [w, a] = [frequency / freq, 10 ** (gain / 40)];
  return ((1 - w * w) ** 2 + ((w * a) / q) ** 2) / ((1 - w * w) ** 2 + (w / (a * q)) ** 2);
}

/** x of a square system of linear equations, by elimination. */
function solve(rows: number[][]): number[] {
  rows.forEach((_, i) => {
    const best = rows.reduce((at, row, j) => (j >= i && Math.abs(row[i]) > Math.abs(rows[at][i]) ? j : at), i);
    [rows[i], rows[best]] = [rows[best], rows[i]];
    rows.forEach((row, j) => {
      if (j !== i) rows[j] = row.map((value, n) => value - (rows[i][n] * row[i]) / rows[i][i]);
    });
  });
  return rows.map((row, i) => row[rows.length] / row[i]);
}

/** Minimum-phase coefficients with |B|² = 1 + n1·t + n2·t² over (1 + t)², t = tan²(ω/2): M. Vicanek, "Matched Second Order Digital Filters". */
function factored(n1: number, n2: number): readonly [number, number, number] {
  const [even, odd] = [1, Math.sqrt(n2)];
  const middle = (even + odd) / 2;
  // |B|² = B0·(1−φ) + B1·φ + B2·4φ(1−φ) with φ = sin²(ω/2) = t/(1+t), B0 = 1, B1 = n2.
  const cross = (n1 - 1 - n2) / 4;
  const first = (middle + Math.sqrt(middle * middle + cross)) / 2;
  return [first, (even - odd) / 2, -cross / (4 * first)];
}

/** The bell that meets the analogue one at 0 Hz, its lower edge, its middle (value and slope) and half the rate. */
function bell(freq: number, gain: number, q: number, rate: number): Biquad {
  const edge = freq * (Math.sqrt(1 + 1 / (4 * q * q)) - 1 / (2 * q));
  const [t0, t1] = [freq, edge].map((f) => Math.tan((Math.PI * f) / rate) ** 2);
  const [peak, half, top] = [freq, edge, rate / 2].map((f) => analogueBell(f, freq, gain, q));
  // Unknown: n1, n2 above and d1, d2 below. The slope counts in units of 1/t0.
  const [n1, n2, d1, d2] = solve([
    [t0, t0 * t0, -peak * t0, -peak * t0 * t0, peak - 1],
    [t0, 2 * t0 * t0, -peak * t0, -2 * peak * t0 * t0, 0],
    [t1, t1 * t1, -half * t1, -half * t1 * t1, half - 1],
    [0, t0 * t0, 0, -top * t0 * t0, 0]
  ]);
  const [b0, b1, b2] = factored(n1, n2);
  const [a0, a1, a2] = factored(d1, d2);
  return [b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0];
}

function biquad(type: number, order: 1 | 2, freq: number, gain: number, q: number, rate: number): Biquad {
  const w = (2 * Math.PI * Math.min(freq, rate * TOP_SHARE)) / rate;
  if (type === 2 && gain !== 0) return bell(Math.min(freq, rate * TOP_SHARE), gain, q, rate);
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

// The trim's oracle: a matrix and a wait, on whole arrays.
import type { Oracle } from '../oracle.ts';

export const oracle: Oracle = (sides, { values }) => {
  const on = (id: string) => values[id] >= 0.5;
  const gain = values.gain <= -60 ? 0 : 10 ** (values.gain / 20);
  const wait = Math.round(values.delay);
  const waited = sides.map((side, i) => {
    const inverted = on(i === 0 ? 'turnL' : 'turnR') ? -1 : 1;
    return Float64Array.from(side, (_, n) => (side[n - wait] ?? 0) * inverted * gain);
  });
  if (waited.length === 1) return waited;
  const [l, r] = waited;
  if (on('mono')) return [l.map((x, n) => (x + r[n]) / 2), l.map((x, n) => (x + r[n]) / 2)];
  return on('swap') ? [r, l] : [l, r];
};

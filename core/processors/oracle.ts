// What a processor's oracle is: the same sound in float64, one frame after the other, written apart from the kernel. For tests.
import type { Params } from './spec.ts';

/** One or two sides of a whole recording, and what the key hears, through a processor at steady values. */
export type Oracle = (
  sides: readonly Float64Array[],
  at: { readonly key: readonly Float64Array[]; readonly values: Params; readonly rate: number; readonly bpm: number }
) => readonly Float64Array[];

// Four times the rate and back: half-band filters of two branches of all-passes, written plainly, one signal at a time.
type Step = (x: number) => number;

/** (a + z⁻¹)/(1 + a·z⁻¹). */
function allpass(a: number): Step {
  let [x1, y1] = [0, 0];
  return (x) => {
    const y = a * (x - y1) + x1;
    [x1, y1] = [x, y];
    return y;
  };
}
const chain = (coefficients: readonly number[]): Step => {
  const steps = coefficients.map(allpass);
  return (x) => steps.reduce((y, step) => step(y), x);
};
/** Coefficients of both doublings, in rising order: branches take them by turns. */
const HALF_BANDS = [
  [0.043659084, 0.16069957, 0.318209482, 0.482370928, 0.631151096, 0.756646695, 0.861407541, 0.954206911],
  [0.063676136, 0.236978866, 0.486229081, 0.802361914]
];
const branches = (coefficients: readonly number[]) => [0, 1].map((odd) => chain(coefficients.filter((_, i) => i % 2 === odd)));

/** What `bend` makes of a signal at four times its rate. */
export function fourfold(signal: Float64Array, bend: (x: number) => number): Float64Array {
  const up = HALF_BANDS.map(branches);
  const down = HALF_BANDS.map(branches);
  const halved = ([early, late]: readonly number[], [a, b]: readonly Step[]) => (a(late) + b(early)) / 2;
  return signal.map((x) => {
    const two = up[0].map((branch) => branch(x));
    const pairs = two.map((y) => up[1].map((branch) => bend(branch(y))));
    return halved(
      pairs.map((pair) => halved(pair, down[1])),
      down[0]
    );
  });
}

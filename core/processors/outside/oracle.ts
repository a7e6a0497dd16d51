// The outside device's oracle: float64, whole length at once. The noise is the same finaliser of MurmurHash3.
import { fourfold, type Oracle } from '../oracle.ts';
import { SPRING, springFrames, TAPE_LOW } from './params.ts';

const onePole = (freq: number, rate: number) => 1 - Math.exp((-2 * Math.PI * Math.min(freq, rate * 0.49)) / rate);

function hiss(frame: number): number {
  let x = Math.imul(frame, 0x9e3779b1);
  x = Math.imul(x ^ (x >>> 16), 0x85ebca6b);
  x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35);
  return ((x ^ (x >>> 16)) >> 8) / 8388608;
}

/** One or two sides, late by the device's latency. */
export function outsideOracle(sides: readonly Float64Array[], v: Readonly<Record<string, number>>, rate: number): Float64Array[] {
  const drive = 10 ** (v.drive / 20);
  const wet = v.mix / 100;
  const noise = v.noise <= -140 ? 0 : 10 ** (v.noise / 20);
  return sides.map((side, s) => {
    const low = onePole(v.unit === 2 ? TAPE_LOW : SPRING.low, rate);
    const long = springFrames(rate)[s];
    const spring = new Float64Array(side.length);
    const states = Array.from({ length: SPRING.passes }, () => [0, 0]);
    let lowed = 0;
    let last = 0;
    const bent =
      v.unit !== 2
        ? side
        : fourfold(
            side.map((_, n) => (side[n - Math.round(v.latency)] ?? 0) * drive),
            (x) => {
              const mean = (x + last) / (Math.sqrt(1 + x * x) + Math.sqrt(1 + last * last));
              last = x;
              return mean;
            }
          );
    return side.map((_, n) => {
      const there = side[n - Math.round(v.latency)] ?? 0;
      let x = there;
      if (v.unit === 1) {
        const echo = spring[n - long] ?? 0;
        lowed += low * (there * drive + SPRING.back * echo - lowed);
        let passed = lowed;
        for (const state of states) {
          const y = SPRING.coefficient * (passed - state[1]) + state[0];
          state[0] = passed;
          state[1] = y;
          passed = y;
        }
        spring[n] = passed;
        x = echo * SPRING.level;
      } else if (v.unit === 2) {
        lowed += low * (bent[n] - lowed);
        x = lowed / drive;
      }
      return there * (1 - wet) + (x + hiss(n ^ (1 + s)) * noise) * wet;
    });
  });
}

export const oracle: Oracle = (sides, { values, rate }) => outsideOracle(sides, values, rate);

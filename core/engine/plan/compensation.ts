// Compensation delays: what comes early waits for what comes late, at every sum and before every keyed insert.
import { PERIOD, powerOfTwo, slackAt } from '../../kernel/period.ts';
import type { Memory, Pair } from '../../processors/processor.ts';
import type { Frames } from '../../units.ts';
import type { Emission } from './emission.ts';
import type { Compensation, Signal } from './plan.ts';

export type Compensations = {
  readonly all: ReadonlyMap<string, Compensation>;
  /** A signal brought to a latency; the same name and wait is the same delay. */
  readonly aligned: (name: string, signal: Signal, latency: Frames) => Pair;
  readonly place: (memory: Memory) => void;
};

export function createCompensations({ kernel, rate, code, lasting, op, own }: Emission): Compensations {
  const all = new Map<string, Compensation>();
  const known = new Map<string, Pair>();
  return {
    all,
    aligned: (name, signal, latency) => {
      const delay = latency - signal.latency;
      if (delay === 0) return signal.pair;
      const key = own(`${name} ${delay}`);
      const present = known.get(key);
      if (present) return present;
      const sides = [...new Set(signal.pair)].map((from, side) => {
        const frames = powerOfTwo(delay + PERIOD + slackAt(rate));
        const compensation = { ring: kernel.reserve(frames * 4, true), frames, delay, cell: kernel.reserve(4) };
        all.set(`${key} ${side}`, compensation);
        const to = lasting();
        op(code.delay, from, to, compensation.ring, frames - 1, compensation.cell);
        return to;
      });
      const pair: Pair = [sides[0], sides.at(-1)!];
      known.set(key, pair);
      return pair;
    },
    place: ({ i32 }) => {
      for (const { cell, delay } of all.values()) i32[cell >> 2] = delay;
    }
  };
}

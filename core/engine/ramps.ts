// Gains that move: linear over whole control periods, so that the block size never matters.
import { PERIOD } from '../kernel/period.ts';

/** Periods a gain takes to its target: 8 × 64 frames are 10.7 ms at 48 kHz. */
export const RAMP_PERIODS = 8;

export type Ramp = { at: number; value: number; target: number; left: number };

export type Ramps = {
  /** Registers a gain at a kernel address. */
  readonly add: (key: string, at: number) => Ramp;
  readonly get: (key: string) => Ramp | undefined;
  readonly keys: () => Iterable<string>;
  /** Sets where a gain goes; `snap` puts it there at once. */
  readonly aim: (ramp: Ramp, target: number, snap: boolean) => void;
  /** Writes the coming period's gains. */
  readonly advance: (f32: Float32Array) => void;
  /** Takes over present gains from the plan before. */
  readonly adopt: (before: Ramps) => void;
  /** Those that move in the next period. */
  readonly moving: () => ReadonlySet<Ramp>;
  /** Looks at a ramp again that was put back to what it was. */
  readonly wake: (ramp: Ramp) => void;
};

export function createRamps(): Ramps {
  const byKey = new Map<string, Ramp>();
  const active = new Set<Ramp>();
  return {
    add: (key, at) => {
      const ramp = { at, value: 0, target: 0, left: 0 };
      byKey.set(key, ramp);
      active.add(ramp);
      return ramp;
    },
    get: (key) => byKey.get(key),
    keys: () => byKey.keys(),
    aim: (ramp, target, snap) => {
      if (snap) {
        ramp.value = ramp.target = target;
        ramp.left = 0;
      } else if (target !== ramp.target) {
        ramp.target = target;
        ramp.left = RAMP_PERIODS;
      } else return;
      active.add(ramp);
    },
    advance: (f32) => {
      for (const ramp of active) {
        const { value, target, left } = ramp;
        const next = left > 1 ? value + (target - value) / left : target;
        const start = left === 0 ? target : value;
        f32[ramp.at >> 2] = start;
        f32[(ramp.at >> 2) + 1] = left === 0 ? 0 : (next - start) / PERIOD;
        ramp.value = left === 0 ? target : next;
        if (left === 0) active.delete(ramp);
        else ramp.left = left - 1;
      }
    },
    adopt: (before) => {
      for (const [key, ramp] of byKey) {
        const old = before.get(key);
        if (!old) continue;
        Object.assign(ramp, { value: old.value, target: old.target, left: old.left });
        active.add(ramp);
      }
    },
    moving: () => active,
    wake: (ramp) => active.add(ramp)
  };
}

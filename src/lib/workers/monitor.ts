// What is listened to: an output pair or a channel, dimmed, mono or with its sides swapped; changes glide over a few periods.
import type { Engine } from '$core/engine/engine';
import { PERIOD } from '$core/kernel/period';
import type { Listening } from './protocol';

export const MIX_PAIR: Listening = { to: { pair: 0 }, dim: false, mono: false, swap: false };
const DIM = 10 ** (-20 / 20);
/** Periods of a glide: 16 × 64 frames are 21 ms. */
const GLIDE = 16;

export type Monitor = {
  readonly listen: (next: Listening) => void;
  /** Adds nothing, keeps nothing: the engine's last period as it is heard, into both sides at `at`. */
  readonly write: (engine: Engine, left: Float32Array, right: Float32Array, at: number) => void;
};

export function createMonitor(): Monitor {
  let now = MIX_PAIR;
  let before = MIX_PAIR;
  /** 0 … 1: how much of what was listened to before is gone. */
  let gone = 1;
  const sides = (engine: Engine, { to }: Listening): readonly (Float32Array | null)[] =>
    'id' in to ? [engine.tap(to.id, 0), engine.tap(to.id, 1)] : [engine.out(0, to.pair), engine.out(1, to.pair)];
  const hear = (engine: Engine, what: Listening, from: number, to: number, left: Float32Array, right: Float32Array, at: number) => {
    const [l, r] = sides(engine, what);
    if (!l || !r) return;
    const step = (to - from) / PERIOD;
    const level = what.dim ? DIM : 1;
    const plain = !what.mono && !what.swap && level === 1 && from === 1 && to === 1;
    for (let i = 0; i < PERIOD; i++) {
      if (plain) {
        left[at + i] = l[i];
        right[at + i] = r[i];
        continue;
      }
      const gain = level * (from + step * i);
      const a = what.mono ? (l[i] + r[i]) / 2 : what.swap ? r[i] : l[i];
      const b = what.mono ? (l[i] + r[i]) / 2 : what.swap ? l[i] : r[i];
      left[at + i] += a * gain;
      right[at + i] += b * gain;
    }
  };
  return {
    listen: (next) => {
      if (gone < 1) return void ((now = next), (gone = 0));
      before = now;
      now = next;
      gone = 0;
    },
    write: (engine, left, right, at) => {
      left.fill(0, at, at + PERIOD);
      right.fill(0, at, at + PERIOD);
      const next = Math.min(1, gone + 1 / GLIDE);
      if (gone < 1) hear(engine, before, 1 - gone, 1 - next, left, right, at);
      hear(engine, now, gone, next, left, right, at);
      gone = next;
    }
  };
}

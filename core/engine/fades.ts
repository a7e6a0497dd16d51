// From one plan to the next while sounding: the one before goes on and is heard until the new one is warm, then they cross-fade.
// No change of shape clicks, whatever it is: other ways, other inserts, other latencies.
import type { Frames } from '../units.ts';
import { PERIOD } from '../kernel/period.ts';
import type { Runner } from './runner.ts';

/** Periods of a cross-fade: 16 × 64 frames are 21 ms at 48 kHz. */
const FADE = 16;
/** Plans still heard at once; of more the oldest goes at once. */
const MOST = 3;

type Fade = { readonly runner: Runner; warm: number; done: number };

export type Fades = {
  /** `before` is heard while the new one warms up, and then gives way to it. */
  readonly begin: (before: Runner, warmUp: Frames) => void;
  readonly runners: () => readonly Runner[];
  readonly fading: () => boolean;
  readonly advance: () => void;
  readonly end: () => void;
  /** A signal of the last period: that of the newest plan, or a mixture on the way to it. */
  readonly heard: (newest: Runner, of: (runner: Runner) => Float32Array | null) => Float32Array | null;
};

export function createFades(): Fades {
  /** Oldest first. */
  let fades: Fade[] = [];
  const share = (done: number) => Math.max(0, Math.min(1, done / FADE));
  return {
    begin: (runner, warmUp) => {
      fades = [...fades, { runner, warm: Math.ceil(warmUp / PERIOD), done: 0 }].slice(-MOST);
    },
    runners: () => fades.map(({ runner }) => runner),
    fading: () => fades.length > 0,
    advance: () => {
      for (const fade of fades)
        if (fade.warm > 0) fade.warm -= 1;
        else fade.done += 1;
      // One that is through ends all that are older.
      const through = fades.findLastIndex(({ done }) => done > FADE);
      if (through >= 0) fades = fades.slice(through + 1);
    },
    end: () => (fades = []),
    heard: (newest, of) => {
      if (fades.length === 0) return of(newest);
      const later = [...fades.slice(1).map(({ runner }) => runner), newest];
      const mixed = new Float32Array(PERIOD);
      const first = of(fades[0].runner);
      if (first) mixed.set(first);
      fades.forEach(({ done }, i) => {
        const next = of(later[i]);
        // `done` was counted up after the period that is read here.
        const [from, to] = [share(done - 1), share(done)];
        for (let n = 0; n < PERIOD; n++) {
          const gain = from + ((to - from) * (n + 1)) / PERIOD;
          mixed[n] += ((next?.[n] ?? 0) - mixed[n]) * gain;
        }
      });
      return mixed;
    }
  };
}

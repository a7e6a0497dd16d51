// Onsets: where a track's sound begins anew. Rises of the short-time level in dB, after S. Dixon, "Onset detection revisited"
// (DAFx 2006): a detection function, peaks in it over a moving threshold, a least distance between them.
import type { Frames } from '../units.ts';

const HOP = 0.005;
/** A rise of so many dB within 20 ms above the level just before. */
const RISE = 9;
/** Nothing quieter than so much below the loudest begins anything. */
const RANGE = 36;
const APART = 0.06;

/** Frames at which sounds begin, of samples read block by block: `next` gives mono blocks in order, null at the end. */
export function createOnsets(rate: number): { readonly feed: (samples: Float32Array) => void; readonly onsets: () => Frames[] } {
  const hop = Math.max(1, Math.round(HOP * rate));
  const levels: number[] = [];
  let power = 0;
  let count = 0;
  return {
    feed: (samples) => {
      for (const sample of samples) {
        power += sample * sample;
        if (++count < hop) continue;
        levels.push(10 * Math.log10(power / hop + 1e-12));
        power = count = 0;
      }
    },
    onsets: () => {
      const loudest = levels.reduce((most, level) => Math.max(most, level), -120);
      const gap = Math.round(APART / HOP);
      const found: number[] = [];
      for (let i = 0; i < levels.length; i++) {
        if (levels[i] < loudest - RANGE) continue;
        const before = Math.min(...levels.slice(Math.max(0, i - 4), i), i === 0 ? -120 : Infinity);
        if (levels[i] - before < RISE || (found.length > 0 && i - found.at(-1)! < gap)) continue;
        found.push(i);
      }
      return found.map((i) => i * hop);
    }
  };
}

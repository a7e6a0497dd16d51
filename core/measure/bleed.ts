// Bleed: what a microphone hears of others while its own voice or instrument is silent. A track's level in windows of 50 ms; its phrases
// stand well above the median of its quiet parts; what lies between them and holds signal is proposed to be cut.
import type { Db, Frames } from '../units.ts';

const WINDOW_S = 0.05;
/** Below this a window holds nothing. */
const SILENCE: Db = -84;
/** Quiet and loud parts lie at least so far apart, or there are no phrases to tell. */
const LEAST_APART = 9;
/** A phrase is so far above what nine tenths of the quiet parts reach. */
const ABOVE = 5;

export type BleedHow = {
  /** Windows louder than this are phrases; null is what the track itself says. */
  readonly thresholdDb: Db | null;
  /** Seconds left before a phrase and after it. */
  readonly before: number;
  readonly after: number;
  /** Seconds of the shortest proposal. */
  readonly shortest: number;
};
export const BLEED_HOW: BleedHow = { thresholdDb: null, before: 0.06, after: 0.12, shortest: 0.4 };

/** Timeline frames that hold signal but no phrase, and their mean level. */
export type Proposal = { readonly from: Frames; readonly to: Frames; readonly levelDb: Db };
export type Bleed = {
  /** Median of the quiet parts and the threshold used; null where quiet and loud cannot be told apart. */
  readonly quietDb: Db | null;
  readonly thresholdDb: Db | null;
  readonly proposals: readonly Proposal[];
};

/** Frames of a window at a rate. */
export const windowAt = (rate: number): Frames => Math.round(WINDOW_S * rate);

/**
 * Levels of a track in windows, of pieces that are added wherever they stand: `add(start, samples, gain)`, one audio channel at a time;
 * `levels` are dBFS (RMS of the louder channel), from the timeline's beginning on.
 */
export function createLevels(rate: number, frames: Frames) {
  const window = windowAt(rate);
  const count = Math.ceil(frames / window);
  const power = [new Float64Array(count), new Float64Array(count)];
  return {
    add: (start: Frames, samples: Float32Array, gain: number, side: 0 | 1 = 0): void => {
      for (let i = 0; i < samples.length; i++) {
        const at = Math.floor((start + i) / window);
        if (at < count) power[side][at] += (samples[i] * gain) ** 2;
      }
    },
    levels: (): Float32Array =>
      Float32Array.from({ length: count }, (_, i) => {
        const most = Math.max(power[0][i], power[1][i]) / window;
        return most > 0 ? 10 * Math.log10(most) : -Infinity;
      })
  };
}

const middle = (sorted: readonly number[], share = 0.5): number => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))];

/** The level that parts quiet from loud windows best (N. Otsu, "A threshold selection method from gray-level histograms", 1979). */
function parting(sorted: readonly number[]): number {
  const sums = [0];
  for (const level of sorted) sums.push(sums.at(-1)! + level);
  let [best, at] = [-1, 0];
  for (let i = 1; i < sorted.length; i++) {
    const [low, high] = [sums[i] / i, (sums.at(-1)! - sums[i]) / (sorted.length - i)];
    const between = i * (sorted.length - i) * (high - low) ** 2;
    if (between > best) [best, at] = [between, i];
  }
  return at;
}

/** The median of a track's quiet parts, and the threshold that follows from it; null where nothing tells phrases from the rest. */
export function quietOf(levels: ArrayLike<number>): { readonly quietDb: Db; readonly thresholdDb: Db } | null {
  const sorted = Array.from(levels)
    .filter((level) => level > SILENCE)
    .sort((a, b) => a - b);
  if (sorted.length < 4) return null;
  const at = parting(sorted);
  const [quiet, loud] = [sorted.slice(0, at), sorted.slice(at)];
  const quietDb = middle(quiet);
  if (middle(loud) - quietDb < LEAST_APART) return null;
  const thresholdDb = Math.min(middle(quiet, 0.9) + ABOVE, (quietDb + middle(loud)) / 2);
  return { quietDb, thresholdDb };
}

/**
 * What of a track is bleed, by its levels from `createLevels`. `findBleed(levels, 48000)` proposes by the track's own threshold,
 * `findBleed(levels, 48000, { ...BLEED_HOW, thresholdDb: -40 })` by another.
 */
export function findBleed(levels: ArrayLike<number>, rate: number, how: BleedHow = BLEED_HOW): Bleed {
  const found = quietOf(levels);
  const thresholdDb = how.thresholdDb ?? found?.thresholdDb ?? null;
  const quietDb = found?.quietDb ?? null;
  if (thresholdDb === null) return { quietDb, thresholdDb, proposals: [] };
  const window = windowAt(rate);
  const proposals: Proposal[] = [];
  let from = 0;
  const between = (to: Frames) => {
    // Windows without signal at the ends are no bleed.
    let [first, last] = [Math.floor(from / window), Math.ceil(to / window)];
    while (first < last && !(levels[first] > SILENCE)) first++;
    while (last > first && !(levels[last - 1] > SILENCE)) last--;
    const [begin, end] = [Math.max(from, first * window), Math.min(to, last * window)];
    if (end - begin < how.shortest * rate) return;
    let power = 0;
    for (let i = first; i < last; i++) power += 10 ** (levels[i] / 10);
    proposals.push({ from: begin, to: end, levelDb: 10 * Math.log10(power / (last - first)) });
  };
  for (let i = 0; i < levels.length; i++) {
    if (levels[i] < thresholdDb) continue;
    between(Math.max(0, i * window - Math.round(how.before * rate)));
    from = (i + 1) * window + Math.round(how.after * rate);
  }
  between(levels.length * window);
  return { quietDb, thresholdDb, proposals };
}

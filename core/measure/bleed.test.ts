// Bleed is found on voices made for it: phrases of syllables at several levels, and what the microphone hears of others beneath them all.
import { describe, expect, it } from 'vitest';
import { noise } from '../../tests/oracle/rig.ts';
import { BLEED_HOW, createLevels, findBleed, quietOf, windowAt } from './bleed.ts';

const RATE = 8000;
type Span = { readonly from: number; readonly to: number };

/** A voice: phrases with gaps between, soft beginnings, consonants, endings that fall; over bleed at a level that breathes by 3 dB. */
function voice(seed: number, bleedDb: number, phraseDb: number): { readonly samples: Float32Array; readonly phrases: readonly Span[] } {
  let state = seed;
  const random = () => (state = (state * 1103515245 + 12345) % 2147483648) / 2147483648;
  const frames = 40 * RATE;
  const bleed = noise(frames, seed);
  const sung = noise(frames, seed + 1000);
  // The generator's noise is even over ±0.25: its RMS is 0.25/√3.
  const unit = Math.sqrt(3) / 0.25;
  const samples = Float32Array.from(bleed, (x, i) => x * unit * 10 ** ((bleedDb + 1.5 * Math.sin(i / 1500)) / 20));
  const phrases: Span[] = [];
  for (let at = 0.7 * RATE; ;) {
    const from = Math.round(at);
    const to = from + Math.round((1.2 + 3 * random()) * RATE);
    if (to > frames - RATE) break;
    phrases.push({ from, to });
    const level = 10 ** ((phraseDb - 6 * random()) / 20) * unit;
    for (let i = from; i < to; i++) {
      // Syllables four times a second, 8 dB deep; 15 ms to begin, 90 ms to end.
      const syllable = 10 ** ((-4 + 4 * Math.sin((2 * Math.PI * 4 * (i - from)) / RATE)) / 20);
      const edge = Math.min(1, (i - from) / (0.015 * RATE), (to - i) / (0.09 * RATE));
      samples[i] += sung[i] * level * syllable * edge;
    }
    at = to + (0.6 + 3 * random()) * RATE;
  }
  return { samples, phrases };
}

const levelsOf = (samples: Float32Array): Float32Array => {
  const meter = createLevels(RATE, samples.length);
  // In pieces that fit no window.
  for (let at = 0; at < samples.length; at += 10_007) meter.add(at, samples.subarray(at, at + 10_007), 1);
  return meter.levels();
};
const overlap = (a: readonly Span[], b: readonly Span[]) =>
  a.reduce((sum, x) => sum + b.reduce((own, y) => own + Math.max(0, Math.min(x.to, y.to) - Math.max(x.from, y.from)), 0), 0);

describe('bleed', () => {
  const cases = [-45, -50, -55, -60].flatMap((bleedDb) =>
    [-18, -26].flatMap((phraseDb) => [1, 2, 3].map((seed) => [bleedDb, phraseDb, seed] as const))
  );
  it.each(cases)('at %i dBFS under phrases at %i dBFS is found and no phrase touched (voice %i)', (bleedDb, phraseDb, seed) => {
    const { samples, phrases } = voice(seed * 77, bleedDb, phraseDb);
    const { proposals, quietDb } = findBleed(levelsOf(samples), RATE);
    expect(overlap(proposals, phrases)).toBe(0);
    // What is left before and after phrases is none of it.
    const edges = [{ from: -1e9, to: 0 }, ...phrases, { from: samples.length, to: 1e9 }];
    const bleed = edges
      .slice(1)
      .map(({ from }, i) => ({ from: i ? edges[i].to + 0.12 * RATE : 0, to: from === samples.length ? from : from - 0.06 * RATE }));
    const time = bleed.reduce((sum, { from, to }) => sum + Math.max(0, to - from >= 0.4 * RATE ? to - from : 0), 0);
    expect(overlap(proposals, bleed) / time).toBeGreaterThan(0.95);
    expect(quietDb).toBeCloseTo(bleedDb, -0.5);
    for (const { levelDb } of proposals) expect(Math.abs(levelDb - bleedDb)).toBeLessThan(2);
  });

  it('measures a tone by its closed form, the louder side, with gain', () => {
    const meter = createLevels(RATE, RATE);
    const tone = Float32Array.from({ length: RATE }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 100 * i) / RATE));
    meter.add(0, tone, 0.5, 0);
    meter.add(0, tone, 1, 1);
    const levels = meter.levels();
    expect(levels).toHaveLength(20);
    for (const level of levels) expect(level).toBeCloseTo(20 * Math.log10(0.5 / Math.SQRT2), 4);
  });

  it('proposes nothing where nothing tells phrases from the rest, and no silence', () => {
    expect(quietOf(levelsOf(noise(4 * RATE, 5)))).toBeNull();
    expect(findBleed(levelsOf(noise(4 * RATE, 5)), RATE).proposals).toEqual([]);
    expect(findBleed(new Float32Array(0), RATE)).toEqual({ quietDb: null, thresholdDb: null, proposals: [] });
    const { samples } = voice(9, -300, -18);
    expect(findBleed(levelsOf(samples), RATE).proposals).toEqual([]);
  });

  it('goes by the threshold, holds and least length that it is given', () => {
    const window = windowAt(RATE);
    const levels = Float32Array.from({ length: 100 }, (_, i) => (i >= 40 && i < 60 ? -20 : -50));
    const how = { ...BLEED_HOW, thresholdDb: -30, before: 0.1, after: 0.2 };
    expect(findBleed(levels, RATE, how).proposals.map(({ from, to }) => [from / window, to / window])).toEqual([
      [0, 38],
      [64, 100]
    ]);
    expect(findBleed(levels, RATE, { ...how, thresholdDb: -60 }).proposals).toEqual([]);
    expect(findBleed(levels, RATE, { ...how, shortest: 1.85 }).proposals).toHaveLength(1);
    expect(findBleed(levels, RATE, { ...how, thresholdDb: 0 }).proposals).toHaveLength(1);
  });
});

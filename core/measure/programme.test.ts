// Published cases: EBU Tech 3342 table 1 (loudness range), Tech 3341 (momentary, short-term), BS.1770-5 annex 2 (peaks between samples).
import { describe, expect, it } from 'vitest';
import { programmeMeter } from './programme.ts';
import { peakMeter } from './truePeak.ts';

const RATE = 48000;
const tone = (seconds: number, db: number, hz = 1000, phase = 0) =>
  Float32Array.from({ length: RATE * seconds }, (_, i) => 10 ** (db / 20) * Math.sin((2 * Math.PI * hz * i) / RATE + phase));
const measured = (...parts: readonly Float32Array[]) => {
  const meter = programmeMeter(RATE);
  for (const part of parts) meter.push([part, part]);
  return meter.finish();
};
const peaks = (samples: Float32Array, block = 1000) => {
  const meter = peakMeter();
  for (let at = 0; at < samples.length; at += block) meter.push([samples.subarray(at, at + block)]);
  return meter.finish();
};

describe('a programme', () => {
  it.each([
    [[-20, -30], 10],
    [[-20, -15], 5],
    [[-40, -20], 20],
    [[-50, -35, -20, -35, -50], 15]
  ])('of 20 s each at %j dBFS has a range of %i LU, within 1', (levels, range) => {
    expect(Math.abs(measured(...levels.map((db) => tone(20, db))).range! - range)).toBeLessThan(1);
  });

  it('has its loudest 400 ms and 3 s, and none where it is shorter or silent', () => {
    const { momentary, shortTerm, curve } = measured(tone(4, -30), tone(1, -20), tone(4, -30));
    // Every 100 ms from 3 s on; at the loudest, and before and after it.
    expect(curve).toHaveLength(61);
    expect(Math.max(...curve.map(Number))).toBeCloseTo(shortTerm!, 6);
    for (const i of [0, 10, 60]) expect(curve[i]).toBeCloseTo(-30, 1);
    expect(momentary).toBeCloseTo(-20, 1);
    // One second of three at −20, two at −30.
    expect(shortTerm).toBeCloseTo(10 * Math.log10((10 ** -2 + 2 * 10 ** -3) / 3), 1);
    expect(measured(tone(1, -20))).toMatchObject({ shortTerm: null, range: null });
    expect(measured(new Float32Array(RATE * 4))).toEqual({
      integrated: null,
      range: null,
      momentary: null,
      shortTerm: null,
      curve: Array(11).fill(null)
    });
  });
});

describe('true peak', () => {
  it.each([
    [12000, Math.PI / 4],
    [8000, Math.PI / 3],
    [6000, Math.PI / 8],
    [997, 0.3]
  ])('of a sine of %i Hz is its amplitude, however it falls between samples', (hz, phase) => {
    for (const block of [64, 1000]) {
      // Let in gently: what begins at once overshoots between its first samples.
      const swell = tone(0.2, -6, hz, phase).map((x, i, all) => x * Math.sin((Math.PI * i) / all.length));
      const { peak, truePeak } = peaks(swell, block);
      expect(20 * Math.log10(truePeak)).toBeCloseTo(-6, 1);
      expect(peak).toBeLessThanOrEqual(truePeak);
    }
  });
  it('of a sample alone at the very end is found', () => {
    const samples = new Float32Array(500);
    samples[499] = 0.5;
    expect(peaks(samples)).toEqual({ peak: 0.5, truePeak: 0.5 });
  });
});

// The limiter: its ceiling between the frames too, and its float64 oracle.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, music, sine, through } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { limiterOracle, truePeakDb, withoutTop } from './oracle.ts';
import { limiterLatency } from './params.ts';

describe('limiter', () => {
  it('holds its ceiling between the frames too, within 0.05 dB, and agrees with its oracle', () => {
    const sources: [string, Float32Array][] = [
      ['a sine at a quarter of the rate', sine(12000, 1)],
      ['a high sine', sine(17321, 1.3)],
      ['a low sine, far over', sine(97, 3.9)],
      ['a sine at 0.47 of the rate', sine(0.47 * RATE, 1)],
      ['bursts', withoutTop(music(7))],
      ['clipped noise', withoutTop(noise(8000, 11).map((x) => Math.max(-0.5, Math.min(0.5, x * 8))))]
    ];
    for (const [name, samples] of sources) {
      const values = { ceiling: -3, drive: 6, release: 40 };
      const [out] = through('limiter', values, [samples]);
      expect(apart(out, limiterOracle(double([samples]), valuesOf('limiter', values), RATE)[0]), name).toBeLessThan(-110);
      const peak = truePeakDb(out.subarray(2000, 8000));
      expect(peak, name).toBeLessThan(-2.95);
      if (name.includes('sine')) expect(peak, name).toBeGreaterThan(-3.2);
    }
  }, 60_000);

  it('is a plain wait for what stays under the ceiling, and for everything while bypassed', () => {
    const late = limiterLatency(RATE);
    const soft = [noise(FRAMES, 4), noise(FRAMES, 5)];
    const [l, r] = through('limiter', { ceiling: 0 }, soft);
    expect(l.subarray(late)).toEqual(soft[0].subarray(0, FRAMES - late));
    expect(r.subarray(late)).toEqual(soft[1].subarray(0, FRAMES - late));
  });

  it('is a plain wait again when it has let go of what was too loud', () => {
    const late = limiterLatency(RATE);
    const samples = noise(FRAMES, 6).map((x, i) => (i < 3000 ? x * 12 : x));
    const [out] = through('limiter', { ceiling: 0, release: 5 }, [samples]);
    expect(Math.max(...out.subarray(0, 3000 + late))).toBeLessThan(1.05);
    expect(out.subarray(12000)).toEqual(samples.subarray(12000 - late, FRAMES - late));
  });
});

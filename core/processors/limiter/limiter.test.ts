// The limiter: its ceiling between the frames too, and its float64 oracle.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, music, sine, through } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { limiterOracle, truePeakDb, withoutTop } from './oracle.ts';
import { limiterLatency } from './params.ts';

describe('limiter', () => {
  it('holds its ceiling between the frames too, within 0.1 dB, and agrees with its oracle', () => {
    const sources: [string, Float32Array][] = [
      ['a sine at a quarter of the rate', sine(12000, 1)],
      ['a high sine', sine(17321, 1.3)],
      ['a low sine, far over', sine(97, 3.9)],
      ['bursts', withoutTop(music(7))]
    ];
    for (const [name, samples] of sources) {
      const values = { ceiling: -3, drive: 6, release: 40 };
      const [out] = through('limiter', values, [samples]);
      expect(apart(out, limiterOracle(double([samples]), valuesOf('limiter', values), RATE)[0]), name).toBeLessThan(-110);
      const peak = truePeakDb(out.subarray(2000, 8000));
      expect(peak, name).toBeLessThan(-2.9);
      if (name !== 'bursts') expect(peak, name).toBeGreaterThan(-3.2);
    }
  }, 60_000);

  it('is a plain wait for what stays under the ceiling, and for everything while bypassed', () => {
    const late = limiterLatency(RATE);
    const soft = [noise(FRAMES, 4), noise(FRAMES, 5)];
    const [l, r] = through('limiter', { ceiling: 0 }, soft);
    expect(l.subarray(late)).toEqual(soft[0].subarray(0, FRAMES - late));
    expect(r.subarray(late)).toEqual(soft[1].subarray(0, FRAMES - late));
  });
});

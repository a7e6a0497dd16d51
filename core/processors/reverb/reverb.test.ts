// The reverb against its float64 oracle, and its times.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { impulse, through } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { reverbOracle } from './oracle.ts';

describe('reverb', () => {
  it.each([0, 1, 2])('space %i agrees with the float64 oracle', (type) => {
    const [left, right] = [noise(24000, 8), noise(24000, 9)].map((side) => side.map((x, i) => (i < 6000 ? x : 0)));
    const values = { type, mix: 70, decay: 2.2, width: 80, size: 120 };
    const [l, r] = through('reverb', values, [left, right]);
    const [wantL, wantR] = reverbOracle(Float64Array.from(left), Float64Array.from(right), valuesOf('reverb', values), RATE);
    expect(apart(l, wantL)).toBeLessThan(-115);
    expect(apart(r, wantR)).toBeLessThan(-115);
  });

  it('decays by 60 dB in the time it says, where damping does not take part', () => {
    const [left] = through('reverb', { type: 2, decay: 2, damp: 20000, lowCut: 20, mix: 100 }, [impulse(RATE * 3), impulse(RATE * 3)]);
    const power = (from: number) => left.subarray(from, from + 9600).reduce((sum, x) => sum + x * x, 0);
    const fall = 10 * Math.log10(power(RATE * 0.5) / power(RATE * 1.5));
    // 30 dB in a second; a one-pole at 20 kHz still takes a little off the top.
    expect(fall).toBeGreaterThan(29);
    expect(fall).toBeLessThan(36);
  });

  it('starts after its pre-delay, keeps silence silent, and passes the dry signal at 0 % wet', () => {
    const [left] = through('reverb', { preDelay: 100, mix: 100, type: 0 }, [impulse(24000), impulse(24000)]);
    const first = left.findIndex((x) => x !== 0);
    expect(first).toBeGreaterThan(4800 + 600);
    expect(first).toBeLessThan(4800 + 2000);
    const samples = noise(2048, 4);
    expect(through('reverb', { mix: 0 }, [samples, samples])[0]).toEqual(samples);
    expect(through('reverb', {}, [new Float32Array(2048), new Float32Array(2048)])[0].every((x) => x === 0)).toBe(true);
  });
});

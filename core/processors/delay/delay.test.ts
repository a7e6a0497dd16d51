// The delay: its float64 oracle, and note values.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, through } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { delayOracle } from './oracle.ts';
import { delayShape } from './params.ts';

describe('delay', () => {
  it.each([0, 1, 2])('way %i agrees with the oracle', (mode) => {
    const sides = [noise(FRAMES, 11), noise(FRAMES, 12)].map((side) => side.map((x, i) => (i < 5000 ? x : 0)));
    const values = {
      ...{ mode, taps: 3, feedback: 70, mix: 60, apart: 7, 't1.time': 31, 't2.note': 3, 't2.pan': -60 },
      ...{ 't3.time': 333, 't3.level': -9, 't3.pan': 80 }
    };
    const [l, r] = through('delay', values, sides);
    const [wantL, wantR] = delayOracle(...(double(sides) as [Float64Array, Float64Array]), valuesOf('delay', values), RATE, 120);
    expect(Math.max(apart(l, wantL), apart(r, wantR))).toBeLessThan(-115);
    expect(Math.max(...l.subarray(16000))).toBeGreaterThan(0.001);
  });

  it('counts note values at the tempo', () => {
    const shape = (note: number) => delayShape(valuesOf('delay', { 't1.note': note }), RATE, 100).taps[0].left;
    // At 100 quarter notes a minute: a quarter 0.6 s, dotted eighth 0.45 s, eighth triplet 0.2 s.
    expect([9, 7, 5].map(shape)).toEqual([28800, 21600, 9600]);
  });
});

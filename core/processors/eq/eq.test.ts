// The equaliser against closed forms and its float64 oracle.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { impulse, through } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { eqOracle } from './oracle.ts';
import { eqResponse, EQ_SLOPES, EQ_TYPES } from './params.ts';

/** Level of a response at a frequency, by its Fourier sum. */
function levelAt(response: Float32Array, frequency: number): number {
  let [re, im] = [0, 0];
  response.forEach((x, n) => {
    re += x * Math.cos((2 * Math.PI * frequency * n) / RATE);
    im -= x * Math.sin((2 * Math.PI * frequency * n) / RATE);
  });
  return 10 * Math.log10(re * re + im * im + 1e-30);
}

describe('equaliser', () => {
  it('has −3.01 dB at the corner of a Butterworth pass, its slope an octave away, its gain in a bell’s middle', () => {
    for (const [slope, perOctave] of EQ_SLOPES.entries()) {
      const values = valuesOf('eq', { 'b1.on': 1, 'b1.type': 0, 'b1.freq': 100, 'b1.slope': slope, 'b1.q': 0.71 });
      expect(eqResponse(values, 100, RATE)).toBeCloseTo(-3.0103, 3);
      // Far below, each octave falls by the slope: 6.0206 dB an order.
      expect(eqResponse(values, 6.25, RATE) - eqResponse(values, 3.125, RATE)).toBeCloseTo((perOctave / 6) * 6.0206, 1);
    }
    expect(eqResponse(valuesOf('eq', { 'b3.on': 1, 'b3.freq': 1000, 'b3.gain': 7.5, 'b3.q': 3 }), 1000, RATE)).toBeCloseTo(7.5, 6);
    expect(eqResponse(valuesOf('eq', { 'b2.on': 1, 'b2.freq': 500, 'b2.gain': -6 }), 2, RATE)).toBeCloseTo(-6, 3);
    expect(eqResponse(valuesOf('eq', { 'b5.on': 1, 'b5.freq': 500, 'b5.gain': 9 }), 23000, RATE)).toBeCloseTo(9, 3);
  });

  it.each(EQ_TYPES.map((name, type) => [name, type] as const))('%s sounds as it is drawn', (_, type) => {
    const values = { 'b3.on': 1, 'b3.type': type, 'b3.freq': 900, 'b3.gain': -8, 'b3.q': 1.3, 'b3.slope': 3 };
    const response = through('eq', values, [impulse(16384)])[0];
    for (const frequency of [120, 600, 1500, 6000]) {
      const drawn = eqResponse(valuesOf('eq', values), frequency, RATE);
      expect(levelAt(response, frequency)).toBeCloseTo(drawn, 2);
    }
  });

  it('agrees with float64 direct-form biquads where those are hard to get right in float32', () => {
    const samples = noise(48000, 3);
    const values = {
      'b1.on': 1,
      'b1.freq': 25,
      'b1.slope': 3,
      'b3.on': 1,
      'b3.freq': 100,
      'b3.gain': 6,
      'b3.q': 4,
      'b6.on': 1,
      'b6.freq': 15000,
      'b6.slope': 5
    };
    expect(apart(through('eq', values, [samples])[0], eqOracle(Float64Array.from(samples), valuesOf('eq', values), RATE))).toBeLessThan(
      -110
    );
  });

  it('does nothing at all while its bands are off', () => {
    const samples = noise(4096, 5);
    expect(through('eq', {}, [samples])[0]).toEqual(samples);
  });
});

// The equaliser against closed forms and its float64 oracle.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { impulse, sine, through, throughMoves } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { analogueBell, eqOracle } from './oracle.ts';
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

  it.each([
    [3, 0.25],
    [6, 0.4],
    [12, 0.7],
    [24, 1.02]
  ])('has bells of ±%d dB within %d dB of the analogue ones up to 16 kHz at 44.1 kHz, cut and boost each other’s inverse', (gain, most) => {
    let [worst, uneven] = [0, 0];
    for (const q of [0.1, 0.3, 0.71, 1.5, 4, 10, 20])
      for (let freq = 10; freq < 22000; freq *= 1.21) {
        const band = { 'b3.on': 1, 'b3.freq': freq, 'b3.q': q };
        const [boost, cut] = [gain, -gain].map((each) => valuesOf('eq', { ...band, 'b3.gain': each }));
        for (let frequency = 20; frequency <= 16000; frequency *= 1.13) {
          const level = eqResponse(boost, frequency, 44100);
          const analogue = 10 * Math.log10(analogueBell(frequency, Math.min(freq, 44100 * 0.49), gain, q));
          worst = Math.max(worst, Math.abs(level - analogue));
          uneven = Math.max(uneven, Math.abs(level + eqResponse(cut, frequency, 44100)));
        }
      }
    expect(worst).toBeLessThan(most);
    expect(uneven).toBeLessThan(1e-6);
  });

  it('is as exact where low bells are lifted far as anywhere', () => {
    const samples = noise(48000, 3);
    for (const [freq, q] of [
      [20, 0.71],
      [30, 4],
      [60, 0.71],
      [100, 4]
    ]) {
      const values = { 'b3.on': 1, 'b3.freq': freq, 'b3.gain': 24, 'b3.q': q };
      expect(apart(through('eq', values, [samples])[0], eqOracle(Float64Array.from(samples), valuesOf('eq', values), RATE))).toBeLessThan(
        -125
      );
    }
  });

  const bell = { 'b3.on': 1, 'b3.freq': 200, 'b3.q': 1 };
  it.each([
    ['a bell lifted', bell, { 'b3.gain': 12 }],
    ['a bell pushed down', bell, { 'b3.gain': -24 }],
    ['a lifted bell moved up', { ...bell, 'b3.gain': 12 }, { 'b3.freq': 4000 }],
    ['a narrow one moved over the tone', { ...bell, 'b3.gain': 18, 'b3.freq': 8000, 'b3.q': 4 }, { 'b3.freq': 100 }],
    ['a band switched on', { ...bell, 'b3.gain': 12, 'b3.on': 0 }, { 'b3.on': 1 }],
    ['a band switched off', { ...bell, 'b3.gain': 12 }, { 'b3.on': 0 }],
    ['a bell that becomes a shelf', { ...bell, 'b3.gain': 12 }, { 'b3.type': 1 }],
    ['a steep high-pass moved', { 'b1.on': 1, 'b1.freq': 25, 'b1.slope': 5 }, { 'b1.freq': 200 }]
  ])('puts nothing above 6 kHz beside a tone of 200 Hz: %s', (_, values, later) => {
    const heard = throughMoves('eq', values, [[9600, later]], [sine(200, 0.25)])[0];
    const above = eqOracle(Float64Array.from(heard), valuesOf('eq', { 'b1.on': 1, 'b1.freq': 6000, 'b1.slope': 5 }), RATE);
    // The tone itself begins with a step.
    expect(apart(above.subarray(4000), new Float64Array(above.length - 4000))).toBeLessThan(-65);
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

// The processors against closed forms and against their float64 oracles.
import { describe, expect, it } from 'vitest';
import { eqOracle } from '../../tests/oracle/eq.ts';
import { reverbOracle } from '../../tests/oracle/reverb.ts';
import { apart, carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import { eqResponse, EQ_SLOPES, EQ_TYPES } from './eq.ts';
import { valuesOf } from './params.ts';

/** A mono recording through one equaliser, as the engine plays it; pan hard left keeps it at unity. */
function throughEq(samples: Float32Array, values: Record<string, number>): Float32Array {
  const session = carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a', frames: samples.length }]),
    { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] },
    { do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' },
    { do: 'inserts.set', id: 'eq', values }
  );
  return play(rig(session, new Map([['a', [samples]]])), samples.length)[0];
}
const impulse = (frames: number) => Float32Array.from({ length: frames }, (_, i) => (i === 0 ? 1 : 0));

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
    const response = throughEq(impulse(16384), values);
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
    expect(apart(throughEq(samples, values), eqOracle(Float64Array.from(samples), valuesOf('eq', values), RATE))).toBeLessThan(-110);
  });

  it('does nothing at all while its bands are off', () => {
    const samples = noise(4096, 5);
    expect(throughEq(samples, {})).toEqual(samples);
  });
});

/** A stereo impulse through a return's reverb. */
function throughReverb(left: Float32Array, right: Float32Array, values: Record<string, number>): [Float32Array, Float32Array] {
  const session = carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a', width: 2, frames: left.length }]),
    { do: 'inserts.add', id: 'r', channelId: 'a', type: 'reverb' },
    { do: 'inserts.set', id: 'r', values }
  );
  return play(rig(session, new Map([['a', [left, right]]])), left.length);
}

describe('reverb', () => {
  it.each([0, 1, 2])('space %i agrees with the float64 oracle', (type) => {
    const [left, right] = [noise(24000, 8), noise(24000, 9)].map((side) => side.map((x, i) => (i < 6000 ? x : 0)));
    const values = { type, mix: 70, decay: 2.2, width: 80, size: 120 };
    const [l, r] = throughReverb(left, right, values);
    const [wantL, wantR] = reverbOracle(Float64Array.from(left), Float64Array.from(right), valuesOf('reverb', values), RATE);
    expect(apart(l, wantL)).toBeLessThan(-115);
    expect(apart(r, wantR)).toBeLessThan(-115);
  });

  it('decays by 60 dB in the time it says, where damping does not take part', () => {
    const [left] = throughReverb(impulse(RATE * 3), impulse(RATE * 3), { type: 2, decay: 2, damp: 20000, lowCut: 20, mix: 100 });
    const power = (from: number) => left.subarray(from, from + 9600).reduce((sum, x) => sum + x * x, 0);
    const fall = 10 * Math.log10(power(RATE * 0.5) / power(RATE * 1.5));
    // 30 dB in a second; a one-pole at 20 kHz still takes a little off the top.
    expect(fall).toBeGreaterThan(29);
    expect(fall).toBeLessThan(36);
  });

  it('starts after its pre-delay, keeps silence silent, and passes the dry signal at 0 % wet', () => {
    const [left] = throughReverb(impulse(24000), impulse(24000), { preDelay: 100, mix: 100, type: 0 });
    const first = left.findIndex((x) => x !== 0);
    expect(first).toBeGreaterThan(4800 + 600);
    expect(first).toBeLessThan(4800 + 2000);
    const samples = noise(2048, 4);
    expect(throughReverb(samples, samples, { mix: 0 })[0]).toEqual(samples);
    expect(throughReverb(new Float32Array(2048), new Float32Array(2048), {})[0].every((x) => x === 0)).toBe(true);
  });
});

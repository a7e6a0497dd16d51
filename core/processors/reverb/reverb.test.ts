// The reverb against its float64 oracle, and its times.
import { describe, expect, it } from 'vitest';
import { apart, noise, RATE } from '../../../tests/oracle/rig.ts';
import { impulse, sine, through, throughMoves } from '../../../tests/oracle/through.ts';
import { loudnessMeter } from '../../measure/loudness.ts';
import { eqOracle } from '../eq/oracle.ts';
import { valuesOf } from '../index.ts';
import { reverbOracle } from './oracle.ts';
import { REVERB_TYPES } from './params.ts';

const SPACES = REVERB_TYPES.map((name, type) => [name, type] as const);

/** White noise made pink (P. Kellet's three poles). */
function pink(frames: number, seed: number): Float32Array {
  const states = [0, 0, 0];
  return noise(frames, seed).map((white) => {
    [0.99765, 0.963, 0.57].forEach((pole, i) => (states[i] = pole * states[i] + white * [0.099046, 0.2965164, 1.0526913][i]));
    return 0.2 * (states[0] + states[1] + states[2] + white * 0.1848);
  });
}

function loudness(sides: readonly Float32Array[]): number {
  const meter = loudnessMeter(RATE);
  meter.push(sides);
  return meter.finish().at(-1)!;
}

/** Passes of 48 dB an octave, an octave apart. */
const octave = (sides: readonly Float32Array[], middle: number): Float64Array[] =>
  sides.map((side) =>
    eqOracle(
      Float64Array.from(side),
      valuesOf('eq', {
        ...{ 'b1.on': 1, 'b1.freq': middle / Math.SQRT2, 'b1.slope': 5 },
        ...{ 'b6.on': 1, 'b6.freq': middle * Math.SQRT2, 'b6.slope': 5 }
      }),
      RATE
    )
  );

/** Seconds for 60 dB, by the slope of the energy that is still to come (M. R. Schroeder 1965) between −5 and −35 dB. */
function decayOf(tails: readonly Float64Array[]): number {
  const left = new Float64Array(tails[0].length);
  for (let i = left.length - 2; i >= 0; i--) left[i] = left[i + 1] + tails.reduce((sum, tail) => sum + tail[i] * tail[i], 0);
  const at = (level: number) => left.findIndex((energy) => energy < left[0] * 10 ** (level / 10));
  return (2 * (at(-35) - at(-5))) / RATE;
}

/** Geometric over arithmetic mean of the power from 300 Hz to 3 kHz, dB: 0 for a line, about −2.5 for noise, far less for what rings. */
function flatness(signal: Float32Array): number {
  const frames = 8192;
  const powers: number[] = [];
  for (let bin = Math.ceil((300 * frames) / RATE); bin < (3000 * frames) / RATE; bin++) {
    let [re, im] = [0, 0];
    for (let n = 0; n < frames; n++) {
      const x = signal[n] * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / frames));
      re += x * Math.cos((2 * Math.PI * bin * n) / frames);
      im += x * Math.sin((2 * Math.PI * bin * n) / frames);
    }
    powers.push(re * re + im * im);
  }
  const mean = (list: readonly number[]) => list.reduce((sum, x) => sum + x, 0) / list.length;
  return 10 * (mean(powers.map(Math.log10)) - Math.log10(mean(powers)));
}

describe('reverb', () => {
  it.each([0, 1, 2])('space %i agrees with the float64 oracle', (type) => {
    const [left, right] = [noise(24000, 8), noise(24000, 9)].map((side) => side.map((x, i) => (i < 6000 ? x : 0)));
    const values = { type, mix: 70, decay: 2.2, width: 80, size: 120 };
    const [l, r] = through('reverb', values, [left, right]);
    const [wantL, wantR] = reverbOracle(Float64Array.from(left), Float64Array.from(right), valuesOf('reverb', values), RATE);
    expect(apart(l, wantL)).toBeLessThan(-115);
    expect(apart(r, wantR)).toBeLessThan(-115);
  });

  it.each([
    ['Room', 0, 1.4],
    ['Plate', 1, 1.4],
    ['Hall', 2, 1.4],
    ['Hall', 2, 3]
  ])('%s (%i) decays by 60 dB in %d s in every octave, and in half of it where damping says so', (_, type, decay) => {
    const frames = Math.round(RATE * decay * 0.8);
    const [hit, none] = [impulse(frames), new Float32Array(frames)];
    const tails = (damp: number) =>
      [
        [hit, none],
        [none, hit]
      ].flatMap((sides) => through('reverb', { type, decay, damp, lowCut: 20, mix: 100 }, sides));
    const open = tails(20000);
    for (const middle of [125, 500, 2000]) {
      expect(Math.abs(decayOf(octave(open, middle)) / decay - 1), `${middle} Hz`).toBeLessThan(0.05);
    }
    const dull = tails(4000);
    expect(decayOf(octave(dull, 250)) / decay).toBeGreaterThan(0.95);
    expect(decayOf(octave(dull, 4000)) / decay).toBeGreaterThan(0.45);
    expect(decayOf(octave(dull, 4000)) / decay).toBeLessThan(0.6);
  });

  it.each(SPACES)('%s is as loud behind it as before it, and leans to no side', (_, type) => {
    const sides = [pink(RATE * 3, 3), pink(RATE * 3, 8)];
    expect(Math.abs(loudness(through('reverb', { type, mix: 100 }, sides)) - loudness(sides))).toBeLessThan(0.5);
    for (const [left, right] of [
      [1, 1],
      [1, 0],
      [0, 1]
    ]) {
      const heard = through(
        'reverb',
        { type, mix: 100 },
        [left, right].map((gain) => sides[0].map((x) => x * gain))
      );
      expect(Math.abs(loudness(heard.slice(0, 1)) - loudness(heard.slice(1))), `${left}, ${right}`).toBeLessThan(0.2);
    }
  });

  it.each(SPACES)('%s does not ring: its tail is nearly as flat as noise', (_, type) => {
    const hit = impulse(RATE / 2);
    const [tail] = through('reverb', { type, damp: 20000, mix: 100 }, [hit, hit]);
    expect(flatness(tail.subarray(9600))).toBeGreaterThan(-5);
  });

  it.each(SPACES)('%s puts nothing above 4 kHz beside a tone when its size, space or pre-delay changes', (_, type) => {
    const tone = sine(300, 0.25, RATE);
    const changes: Record<string, number>[] = [{ size: 61 }, { size: 150 }, { type: (type + 1) % 3 }, { preDelay: 40 }];
    for (const later of changes) {
      const [heard] = throughMoves('reverb', { type, mix: 100 }, [[RATE / 2, later]], [tone, tone]);
      const above = eqOracle(Float64Array.from(heard), valuesOf('eq', { 'b1.on': 1, 'b1.freq': 4000, 'b1.slope': 5 }), RATE);
      const changed = above.subarray(RATE / 2 - 4800);
      expect(apart(changed, new Float64Array(changed.length)), JSON.stringify(later)).toBeLessThan(-75);
    }
  });

  it('starts after its pre-delay, keeps silence silent, and passes the dry signal at 0 % wet', () => {
    const [left] = through('reverb', { preDelay: 100, mix: 100, type: 0 }, [impulse(24000), impulse(24000)]);
    const first = left.findIndex((x) => x !== 0);
    expect(first).toBeGreaterThan(4800 + 580);
    expect(first).toBeLessThan(4800 + 600);
    const samples = noise(2048, 4);
    expect(through('reverb', { mix: 0 }, [samples, samples])[0]).toEqual(samples);
    expect(through('reverb', {}, [new Float32Array(2048), new Float32Array(2048)])[0].every((x) => x === 0)).toBe(true);
  });
});

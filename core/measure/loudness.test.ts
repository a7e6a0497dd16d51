// Loudness against the standard's own figures: a sine at 997 Hz, EBU Tech 3341's gating cases, other rates.
import { describe, expect, it } from 'vitest';
import { kWeighting, loudnessMeter } from './loudness';

const sine = (rate: number, seconds: number, db: number, hertz = 997) =>
  Float32Array.from({ length: Math.round(rate * seconds) }, (_, i) => 10 ** (db / 20) * Math.sin((2 * Math.PI * hertz * i) / rate));
const measured = (rate: number, ...channels: Float32Array[]) => {
  const meter = loudnessMeter(rate);
  // In uneven pieces: a stream knows no blocks.
  for (let at = 0; at < channels[0].length; at += 7777) meter.push(channels.map((samples) => samples.subarray(at, at + 7777)));
  return meter.finish();
};
const joined = (...parts: Float32Array[]) => Float32Array.from(parts.flatMap((part) => [...part]));

describe('integrated loudness', () => {
  it('has the filter coefficients that BS.1770 prints for 48 kHz', () => {
    const [shelf, highPass] = kWeighting(48000);
    const printed = [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585];
    shelf.forEach((value, i) => expect(value).toBeCloseTo(printed[i], 7));
    expect(highPass[3]).toBeCloseTo(-1.99004745483398, 7);
    expect(highPass[4]).toBeCloseTo(0.99007225036621, 7);
  });

  it.each([44100, 48000, 96000])('reads −3.01 for a full-scale sine in one channel and 0 in two, at %i Hz', (rate) => {
    const tone = sine(rate, 3, 0);
    const [left, right, both] = measured(rate, tone, tone);
    for (const alone of [left, right]) expect(alone).toBeCloseTo(-3.01, 1);
    expect(both).toBeCloseTo(0, 1);
  });

  it('gates as in the cases 3 and 4 of EBU Tech 3341', () => {
    const stereo = (...steps: [seconds: number, db: number][]) => {
      const tone = joined(...steps.map(([seconds, db]) => sine(48000, seconds, db, 1000)));
      return measured(48000, tone, tone)[2];
    };
    expect(Math.abs(stereo([10, -36], [60, -23], [10, -36])! + 23)).toBeLessThan(0.1);
    expect(Math.abs(stereo([10, -72], [10, -36], [60, -23], [10, -36], [10, -72])! + 23)).toBeLessThan(0.1);
  });

  it('says of silence that it has none, and measures what is shorter than a block', () => {
    expect(measured(48000, new Float32Array(48000))).toEqual([null]);
    expect(measured(48000, sine(48000, 0.15, -20))[0]).toBeCloseTo(-23, 0);
  });
});

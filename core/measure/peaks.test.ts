// The peaks pyramid: true extremes at every level, exact through its file form, and an eye for samples that are no numbers.
import { describe, expect, it } from 'vitest';
import { noise } from '../../tests/oracle/rig.ts';
import { decodePeaks, encodePeaks, PEAK_BIN, PEAK_FACTOR, PEAK_FIELDS, peakBuilder } from './peaks.ts';

describe('peaks', () => {
  it('holds minimum, maximum and RMS of every bin at every level, however the stream is cut', () => {
    const samples = noise(300_001, 1);
    const whole = peakBuilder();
    whole.push([samples]);
    const cut = peakBuilder();
    for (let at = 0; at < samples.length; at += 777) cut.push([samples.subarray(at, at + 777)]);
    const peaks = whole.finish();
    expect(cut.finish()).toEqual(peaks);
    expect(peaks.levels.length).toBeGreaterThan(2);
    peaks.levels.forEach((level, index) => {
      const width = PEAK_BIN * PEAK_FACTOR ** index;
      expect(level.length).toBe(Math.ceil(samples.length / width) * PEAK_FIELDS);
      for (const bin of [0, 3, level.length / PEAK_FIELDS - 1]) {
        const own = samples.subarray(bin * width, (bin + 1) * width);
        expect(level[bin * PEAK_FIELDS]).toBe(Math.round(Math.min(...own) * 32767));
        expect(level[bin * PEAK_FIELDS + 1]).toBe(Math.round(Math.max(...own) * 32767));
        const rms = Math.sqrt(own.reduce((sum, x) => sum + x * x, 0) / own.length);
        expect(level[bin * PEAK_FIELDS + 2] / 32767).toBeCloseTo(rms, 2);
      }
    });
    expect(decodePeaks(encodePeaks(peaks))).toEqual({ frames: peaks.frames, levels: peaks.levels });
  });

  it('finds the first sample that is no number', () => {
    const builder = peakBuilder();
    builder.push([Float32Array.of(0, 0.5, 0), Float32Array.of(0, -0.7, 0)]);
    builder.push([Float32Array.of(0, 0), Float32Array.of(0, Infinity)]);
    expect(builder.finish()).toMatchObject({ firstBad: 4, frames: 5 });
    const clean = peakBuilder();
    clean.push([Float32Array.of(0.25), Float32Array.of(-0.75)]);
    expect(clean.finish()).toMatchObject({ firstBad: -1, peak: 0.75 });
  });
});

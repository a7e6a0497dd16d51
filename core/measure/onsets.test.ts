// Onsets of strokes whose places are known.
import { expect, it } from 'vitest';
import { noise } from '../../tests/oracle/rig.ts';
import { createOnsets } from './onsets.ts';

it('finds strokes within 5 ms, loud and soft, fed in any pieces, and none in silence or in a steady tone', () => {
  const rate = 48000;
  const strokes = [0, 12_345, 30_000, 40_000, 77_777];
  const samples = noise(96_000, 5).map((x) => x * 0.002);
  strokes.forEach((at, i) => {
    for (let n = 0; n < 8000 && at + n < samples.length; n++)
      samples[at + n] += Math.sin(n * 0.1 + 1) * Math.exp(-n / 1500) * (i % 2 ? 0.15 : 0.8);
  });
  const onsets = createOnsets(rate);
  for (let at = 0; at < samples.length; at += 1000) onsets.feed(samples.subarray(at, at + 1000));
  const found = onsets.onsets();
  expect(found).toHaveLength(strokes.length);
  found.forEach((at, i) => expect(Math.abs(at - strokes[i])).toBeLessThanOrEqual(240));
  const silent = createOnsets(rate);
  silent.feed(new Float32Array(48_000));
  expect(silent.onsets()).toEqual([]);
  const steady = createOnsets(rate);
  steady.feed(Float32Array.from({ length: 48_000 }, (_, i) => Math.sin(i * 0.3)));
  expect(steady.onsets()).toEqual([0]);
});

// Pulses: where they fall, how loud they are, and that it does not matter where one begins to ask.
import { expect, it } from 'vitest';
import { carryOut, emptyDesk, module, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import type { Pattern } from '../session/entities.ts';
import { startKernel } from '../kernel/kernel.ts';
import { addPulses, pulsesBetween } from './pattern.ts';

const tempo = { rate: 48000, bpm: 120, beatsPerBar: 4 };
const shape = { levelDb: -6, length: 5, decay: 50 };
const quarters: Pattern = { of: 'pulse', ...shape, every: 1, accentDb: 6 };

it('falls on every note of its value, the first of a bar louder', () => {
  expect(pulsesBetween(quarters, tempo, 1, 120_001)).toEqual(
    [24_000, 48_000, 72_000, 96_000, 120_000].map((at) => ({ at, db: at === 96_000 ? 0 : -6 }))
  );
  const triplets: Pattern = { ...quarters, every: 1 / 3, accentDb: 0 };
  expect(pulsesBetween(triplets, tempo, 0, 24_000).map(({ at }) => at)).toEqual([0, 8000, 16_000]);
});

it('plays notes with their velocities and onsets at their frames', () => {
  const notes: Pattern = { of: 'notes', ...shape, file: 'a.mid', at: [0, 0.5, 2], velocity: [1, 0.5, 0] };
  expect(pulsesBetween(notes, tempo, 0, 1e6)).toEqual([
    { at: 0, db: -6 },
    { at: 12_000, db: -26 }
  ]);
  const onsets: Pattern = { of: 'onsets', ...shape, trackId: 'a', at: [10, 500, 90_000] };
  expect(pulsesBetween(onsets, tempo, 400, 90_000).map(({ at }) => at)).toEqual([500]);
});

it('gives the same samples in pieces as at once, with the level and the fall it says', () => {
  const kernel = startKernel(module);
  const whole = new Float32Array(30_000);
  addPulses(whole, 0, quarters, tempo, kernel);
  const pieces = new Float32Array(30_000);
  for (let at = 0; at < 30_000; at += 256) addPulses(pieces.subarray(at, at + 256), at, quarters, tempo, kernel);
  expect(pieces).toEqual(whole);
  const peak = (from: number, to: number) => 20 * Math.log10(Math.max(...whole.subarray(from, to).map(Math.abs)));
  expect(peak(0, 240)).toBeCloseTo(0, 5);
  expect(peak(24_000, 24_240)).toBeCloseTo(-6, 5);
  // 25 ms into a fall of 60 dB in 50 ms.
  expect(peak(240 + 1200, 240 + 1248)).toBeCloseTo(-30, 0);
});

it('is heard by key inputs and in cues, and never at the outputs of the mix', () => {
  const session = carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a', frames: 48_000 }]),
    { do: 'keys.add', id: 'k', name: 'Ducking' },
    { do: 'cues.add', id: 'q', name: 'Drummer' },
    { do: 'clicks.add', id: 'c', name: 'Click' },
    { do: 'inserts.add', id: 'x', channelId: 'a', type: 'comp' },
    { do: 'inserts.set', id: 'x', values: { threshold: -30, ratio: 100 } },
    { do: 'inserts.key', id: 'x', source: 'k', tap: 'pre' }
  );
  const steady = Float32Array.from({ length: 48_000 }, () => 0.1);
  const engine = rig(session, new Map([['a', [steady]]]));
  const [l] = play(engine, 4800);
  // Ducked while the pulse sounds, let go after it; the click is not in it.
  expect(Math.max(...l.subarray(600, 1200))).toBeLessThan(0.02);
  expect(engine.order()).toContain('#1');
  const cue = engine.out(0, 1);
  engine.locate(0);
  engine.period();
  expect(Math.max(...engine.out(0, 1))).toBeGreaterThan(0.1);
  expect(cue.length).toBe(64);
});

// Snapping: to the nearest of each kind, and step by step.
import { expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { snapped, stepFrom } from './snap.ts';

it('brings a frame to the nearest of what is snapped to, and steps along it', () => {
  const session = carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a', frames: 100_000 }]),
    { do: 'clips.cut', ids: ['a:1'], at: 40_000, as: 'x' },
    { do: 'markers.set', id: 'm', name: 'Verse', at: 30_000 },
    { do: 'ranges.set', id: 'r', name: 'Chorus', from: 50_000, to: 70_000 }
  );
  // 120 quarter notes a minute at 48 kHz: a beat is 24,000 frames.
  expect(
    (['bar', '1/4', '1/8', '1/16', 'edges', 'markers', 'playhead', 'off'] as const).map((snap) => snapped(session, snap, 41_234, 7))
  ).toEqual([0, 48_000, 36_000, 42_000, 40_000, 50_000, 7, 41_234]);
  expect(snapped(session, 'off', -5)).toBe(0);
  expect(snapped(emptyDesk(), 'edges', 5)).toBe(5);
  expect([stepFrom(session, '1/4', 24_000, 1), stepFrom(session, '1/4', 24_000, -1), stepFrom(session, '1/4', 0, -1)]).toEqual([
    48_000,
    0,
    null
  ]);
  expect([stepFrom(session, 'edges', 40_000, 1), stepFrom(session, 'edges', 40_000, -1), stepFrom(session, 'edges', 0, -1)]).toEqual([
    100_000,
    0,
    null
  ]);
  expect(stepFrom(session, 'markers', 30_000, 1)).toBe(50_000);
  // A beat that falls between frames is left again.
  carryOut(session, { do: 'settings.set', bpm: 104 });
  expect(stepFrom(session, '1/4', stepFrom(session, '1/4', 0, 1)!, 1)).toBe(55_385);
});

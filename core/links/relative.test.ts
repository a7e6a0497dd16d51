// Gestures: there and back, ends of ranges, silence, and what somebody else does meanwhile.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clampDb } from '../units.ts';
import { followedLevel, movedLevel, movedValue, setLevel, type Level } from './relative.ts';

const own = (level: number, last: number | null = null): Level => ({ level, last });
const db = fc.oneof(
  fc.integer({ min: -12000, max: 1200 }).map((cents) => clampDb(cents / 100)),
  fc.constant(-Infinity)
);

/** A gesture of the one under the hand along these levels, as a member that began at `began` has it. */
function along(began: Level, from: number, path: readonly number[], meanwhile: (now: Level, step: number) => Level = (now) => now): Level {
  let now = began;
  let was = from;
  path.forEach((to, step) => {
    now = setLevel(now, movedLevel(now, began.level, { lead: { from, was, to } }), true, began.level);
    now = meanwhile(now, step);
    was = to;
  });
  return now;
}

describe('a level in a gesture', () => {
  it('comes back to where it began, whatever ends of the range it met', () => {
    fc.assert(
      fc.property(db, db, fc.array(db, { maxLength: 8 }), (member, from, path) => {
        expect(along(own(member), from, [...path, from]).level).toBe(member);
      }),
      { numRuns: 500, seed: 1 }
    );
  });

  it('ends where one step would have taken it', () => {
    fc.assert(
      fc.property(db, db, fc.array(db, { maxLength: 6 }), db, (member, from, path, to) => {
        expect(along(own(member), from, [...path, to]).level).toBe(along(own(member), from, [to]).level);
      }),
      { numRuns: 500, seed: 2 }
    );
  });

  it('keeps what another page moved meanwhile', () => {
    const raised = along(own(-10), 0, [-2, -4, -6], (now, step) => (step === 1 ? own(now.level + 5) : now));
    expect(raised.level).toBe(-11);
    const silenced = along(own(-10), 0, [-2, -4], (now, step) => (step === 0 ? own(-Infinity, -Infinity) : now));
    expect(silenced.level).toBe(-Infinity);
    // At the floor by the gesture it is not silenced by anybody.
    expect(along(own(-100), 0, [-60, -4]).level).toBe(-104);
  });

  it('that silence takes remembers what it was; one that was turned off by itself stays so', () => {
    const taken = setLevel(own(-6), -Infinity, true);
    expect(taken).toEqual({ level: -Infinity, last: -6 });
    expect(movedLevel(taken, undefined, { by: 2 })).toBe(-4);
    const off = setLevel(own(-6), -Infinity, false);
    expect(movedLevel(off, undefined, { by: 2 })).toBe(-Infinity);
    // What the gesture takes away is what it began with, not where it was just before.
    expect(along(own(-6), 0, [-50, -Infinity]).last).toBe(-6);
  });
});

describe('a level that follows another', () => {
  const cases: readonly [string, Level, Level, number, number][] = [
    ['keeps its distance', own(-10), own(-2), -5, -13],
    ['is clamped', own(10), own(-2), 8, 12],
    ['goes silent with it', own(-10), own(-2), -Infinity, -Infinity],
    ['counts from what it was', own(-Infinity, -10), own(-Infinity, -2), -5, -13],
    ['never had one: takes the moved one’s', own(-Infinity), own(-20), -12, -12],
    ['never had one, and the moved one keeps its own', own(-Infinity), own(-12), -12, -Infinity],
    ['is off by itself', own(-Infinity, -Infinity), own(-20), -12, -Infinity],
    ['has one where the moved one never had', own(-10), own(-Infinity), -3, -10]
  ];
  it.each(cases)('%s', (_, now, lead, to, expected) => {
    expect(followedLevel(now, lead, to)).toBe(expected);
  });
});

describe('a value on a logarithmic scale', () => {
  const scale = { ratio: true, clamp: (value: number) => Math.max(20, Math.min(20_000, value)) };
  it('moves by the same ratio and comes back', () => {
    expect(movedValue(scale, 500, undefined, { lead: { from: 1000, was: 1000, to: 2000 } })).toBe(1000);
    const up = movedValue(scale, 15_000, 15_000, { lead: { from: 1000, was: 1000, to: 4000 } });
    expect(up).toBe(20_000);
    expect(movedValue(scale, up, 15_000, { lead: { from: 1000, was: 4000, to: 1000 } })).toBe(15_000);
    expect(movedValue(scale, 500, undefined, { by: 2 })).toBe(1000);
  });
});

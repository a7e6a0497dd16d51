// The trim: it inverts, swaps, folds and waits.
import { describe, expect, it } from 'vitest';
import { apart, noise } from '../../../tests/oracle/rig.ts';
import { FRAMES, through } from '../../../tests/oracle/through.ts';

describe('trim', () => {
  it('turns, swaps, folds and waits', () => {
    const [a, b] = [noise(FRAMES, 21), noise(FRAMES, 22)];
    const trim = (values: Record<string, number>) => through('trim', values, [a, b]);
    expect(trim({ turnL: 1 })[0]).toEqual(a.map((x) => -x));
    expect(trim({ swap: 1 })).toEqual([b, a]);
    const [mono, same] = trim({ mono: 1 });
    expect(mono).toEqual(same);
    expect(
      apart(
        mono,
        a.map((x, i) => (x + b[i]) / 2)
      )
    ).toBeLessThan(-140);
    expect(trim({ delay: 1000 })[1].subarray(1000)).toEqual(b.subarray(0, FRAMES - 1000));
    expect(
      apart(
        trim({ gain: 6 })[0],
        a.map((x) => x * 10 ** 0.3)
      )
    ).toBeLessThan(-130);
    expect(through('trim', { turnL: 1, mono: 1, delay: 3 }, [a])[0].subarray(3)).toEqual(a.map((x) => -x).subarray(0, FRAMES - 3));
  });
});

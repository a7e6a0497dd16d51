// Every processor moved from any settings to any others while a low tone plays: what is heard of the move above 5 kHz is no more than the
// glides’ own. What the settings do to the tone by themselves, before or after, is theirs.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { eqOracle } from '../processors/eq/oracle.ts';
import { processors, specsOf, valuesOf } from '../processors/index.ts';
import type { InsertType } from '../session/entities.ts';
import { sine, throughMoves } from '../../tests/oracle/through.ts';
import { RATE } from '../../tests/oracle/rig.ts';

const anywhere = (type: InsertType) =>
  fc.record(
    Object.fromEntries(
      [...specsOf(type).values()].map(({ id, min, max, default: value, choices }) => [
        id,
        choices ? fc.integer({ min: 0, max: choices.length - 1 }) : fc.oneof(fc.constant(value), fc.double({ min, max, noNaN: true }))
      ])
    )
  ) as fc.Arbitrary<Record<string, number>>;

const MOVE = RATE / 2;
const LENGTH = RATE;
const HIGH = valuesOf('eq', { 'b1.on': 1, 'b1.freq': 5000, 'b1.slope': 5 });
const loudest = (signal: ArrayLike<number>, from: number, to: number) => {
  let most = 0;
  for (let i = from; i < to; i++) most = Math.max(most, Math.abs(signal[i]));
  return most;
};

/** What once made a step: from where to where. */
const KNOWN: Readonly<Record<string, readonly (readonly [Record<string, number>, Record<string, number>])[]>> = {
  comp: [
    [
      { ratio: 1, keyLow: 500 },
      { mix: 0, listen: 1 }
    ],
    [
      { threshold: 0, knee: 0, release: 5, character: 1, keyLow: 500 },
      { ratio: 1.2, attack: 0.9, makeUp: 24, auto: 1, keyLow: 500 }
    ]
  ],
  outside: [
    [{ unit: 1 }, { unit: 1, latency: 192 }],
    [
      { unit: 2, latency: 192 },
      { unit: 1, latency: 192, drive: 7 }
    ]
  ],
  reverb: [
    [
      { decay: 0.1, damp: 500, mix: 100 },
      { decay: 1.4, damp: 6500, mix: 100 }
    ]
  ]
};

describe.each(Object.keys(processors) as InsertType[])('%s', (type) => {
  it('goes from any settings to any others without a step', () => {
    // It comes in softly: a beginning would ring and go round.
    const tone = sine(90, 0.25, LENGTH).map((x, i) => x * Math.sin(Math.min(1, i / 4800) * (Math.PI / 2)) ** 2);
    fc.assert(
      fc.property(anywhere(type), anywhere(type), (first, second) => {
        const [heard] = throughMoves(type, first, [[MOVE, second]], [tone, tone]);
        const high = eqOracle(Float64Array.from(heard), HIGH, RATE);
        const own = Math.max(loudest(high, MOVE - 4800, MOVE), loudest(high, LENGTH - 4800, LENGTH));
        const level = Math.max(loudest(heard, MOVE - 4800, LENGTH), 0.01);
        expect(loudest(high, MOVE, LENGTH)).toBeLessThan(4 * own + level * 10 ** (-30 / 20));
      }),
      {
        examples: (KNOWN[type] ?? []).map(([from, to]) => [valuesOf(type, from), valuesOf(type, to)]),
        numRuns: Number(process.env.RUNS ?? 20),
        seed: Number(process.env.SEED ?? 6)
      }
    );
  });
});

// Every processor at the ends of its ranges: whatever is set, and however it is moved while it sounds, what comes out is a number, stays
// within reason, and dies away after the music.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { specsOf, processors } from '../processors/index.ts';
import type { InsertType } from '../session/entities.ts';
import { planBatch } from '../commands/plan.ts';

const LOUD = RATE / 2;
const AFTER = RATE;

/** Full-scale noise with a click at full scale in front, then nothing. */
const burst = (seed: number) => {
  const samples = new Float32Array(LOUD + AFTER);
  noise(LOUD, seed).forEach((x, i) => (samples[i] = Math.max(-1, Math.min(1, x * 4))));
  samples[0] = 1;
  return samples;
};

/** A value for each parameter: an end of its range, its default, or something between. */
const settings = (type: InsertType) =>
  fc.record(
    Object.fromEntries(
      [...specsOf(type).values()].map(({ id, min, max, default: value, choices }) => [
        id,
        choices
          ? fc.integer({ min: 0, max: choices.length - 1 })
          : fc.oneof(fc.constantFrom(min, max, value), fc.double({ min, max, noNaN: true }))
      ])
    )
  ) as fc.Arbitrary<Record<string, number>>;

/** The most a processor may add to full scale, dB: what its own gains allow, and resonances on top. */
const MOST_DB: Readonly<Record<string, number>> = { eq: 150, comp: 60, limiter: 0.1, trim: 48, delay: 60, reverb: 36, outside: 36 };

describe.each(Object.keys(processors) as InsertType[])('%s', (type) => {
  it('gives numbers within reason at any settings, moved from any to any, and falls silent', () => {
    fc.assert(
      fc.property(settings(type), settings(type), fc.integer({ min: 1, max: 1000 }), (first, second, seed) => {
        const session = carryOut(
          emptyDesk(),
          trackCommand([{ id: 'a', width: 2, frames: LOUD + AFTER }]),
          { do: 'inserts.add', id: 'x', channelId: 'a', type } as Command,
          { do: 'inserts.set', id: 'x', values: first } as Command
        );
        const engine = rig(session, new Map([['a', [burst(seed), burst(seed + 1)]]]));
        const planned = planBatch(session, [{ do: 'inserts.set', id: 'x', values: second } as Command]);
        if (!planned.ok) throw new Error(planned.error.message);
        engine.schedule(LOUD / 2, planned.value.changes);
        const loud = play(engine, LOUD, 512);
        const after = play(engine, AFTER, 512);
        let peak = 0;
        for (const side of [...loud, ...after])
          for (const x of side) {
            if (!Number.isFinite(x)) throw new Error(`not a number after ${JSON.stringify({ first, second })}`);
            peak = Math.max(peak, Math.abs(x));
          }
        const ceiling = type === 'limiter' ? Math.max(first.ceiling, second.ceiling) : 0;
        expect(20 * Math.log10(peak + 1e-9)).toBeLessThan(ceiling + (MOST_DB[type] ?? 60));
        // What rings long never grows; a delay’s echoes may come as late as they like.
        if (type === 'delay') return;
        const late = Math.max(...after[0].subarray(AFTER - 4800).map(Math.abs));
        // A resonance at 10 Hz is at its highest some tenths of a second after the music.
        let early = 0;
        for (const x of after[0].subarray(0, AFTER - 9600)) early = Math.max(early, Math.abs(x));
        expect(late).toBeLessThanOrEqual(early * 1.05 + 1e-6);
      }),
      { numRuns: Number(process.env.RUNS ?? 25), seed: Number(process.env.SEED ?? 5) }
    );
  });

  it('lets nothing stay of what is no sound: 1e30, infinities, none at all, denormals', () => {
    const frames = 3 * RATE;
    const wild = [1e30, -1e30, Infinity, -Infinity, NaN, 1e-40, -3e38];
    // The first part twice: wild, and silent. What follows is the same.
    const [disturbed, plain] = [true, false].map((is) =>
      Float32Array.from({ length: frames }, (_, i) => (i < 4800 ? (is ? wild[i % wild.length] : 0) : 0))
    );
    const values = type === 'eq' ? { 'b1.on': 1, 'b3.on': 1, 'b3.gain': 24, 'b3.freq': 60, 'b6.on': 1 } : { decay: 0.4, feedback: 20 };
    const known = Object.fromEntries(Object.entries(values).filter(([id]) => specsOf(type).has(id)));
    const heard = [disturbed, plain].map((samples) => {
      const session = carryOut(
        emptyDesk(),
        trackCommand([{ id: 'a', width: 2, frames }]),
        { do: 'inserts.add', id: 'x', channelId: 'a', type } as Command,
        { do: 'inserts.set', id: 'x', values: known } as Command
      );
      return play(rig(session, new Map([['a', [samples, samples]]])), frames)[0];
    });
    expect(heard[0].every(Number.isFinite)).toBe(true);
    expect(heard[1].every(Number.isFinite)).toBe(true);
    const left = heard.map((side) => side.subarray(frames - 4800));
    expect(Math.max(...left[0].map((x, i) => Math.abs(x - left[1][i])))).toBeLessThan(1e-5);
  });
});

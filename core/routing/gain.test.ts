// Path gain against the engine: an impulse sent through random sessions arrives with the gain that is said.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { gainBetween, levelsOf, paths } from './gain.ts';

const pan = fc.integer({ min: -100, max: 100 });
const level = fc.integer({ min: -30, max: 6 });
const send = fc.record({
  source: fc.nat(5),
  target: fc.nat(5),
  level,
  tap: fc.constantFrom('input' as const, 'pre' as const, 'post' as const),
  mono: fc.boolean(),
  pan: fc.option(pan),
  on: fc.boolean()
});
const desk = fc.record({
  width: fc.constantFrom(1 as const, 2 as const),
  law: fc.constantFrom(-3 as const, -4.5 as const, -6 as const, 0 as const),
  pans: fc.array(pan, { minLength: 6, maxLength: 6 }),
  levels: fc.array(level, { minLength: 6, maxLength: 6 }),
  outputs: fc.array(fc.nat(5), { minLength: 5, maxLength: 5 }),
  muted: fc.option(fc.nat(5)),
  swap: fc.boolean(),
  sends: fc.array(send, { maxLength: 8 })
});

describe('path gain', () => {
  it('is what the engine does to an impulse, on random sessions, to 0.01 dB', () => {
    fc.assert(
      fc.property(desk, ({ width, law, pans, levels, outputs, muted, swap, sends }) => {
        const session = carryOut(emptyDesk(), trackCommand([{ id: 'c0', width, frames: 64 }]), { do: 'settings.set', panLaw: law });
        for (let i = 1; i < 6; i++) carryOut(session, { do: 'buses.add', id: `c${i}`, name: `B${i}` });
        outputs.forEach((to, i) => to > i && carryOut(session, { do: 'channels.route', ids: [`c${i}`], to: `c${to}` }));
        const commands: Command[] = [
          { do: 'pans.set', pans: pans.map((at, i) => ({ id: `c${i}`, pan: at })) },
          { do: 'faders.set', levels: levels.map((db, i) => ({ id: `c${i}`, level: db })) },
          { do: 'trims.set', levels: [{ id: 'c2', level: -4 }] },
          { do: 'polarities.set', ids: ['c3'], on: true },
          { do: 'inserts.add', id: 'x', channelId: 'c4', type: 'trim' },
          { do: 'inserts.set', id: 'x', values: { swap: swap ? 1 : 0, turnL: 1, gain: 3 } }
        ];
        if (muted !== null) commands.push({ do: 'mutes.set', ids: [`c${muted}`], on: true });
        for (const { source, target, ...rest } of sends)
          if (source < target) commands.push({ do: 'sends.set', sends: [{ source: `c${source}`, target: `c${target}`, ...rest }] });
        carryOut(session, ...commands);
        const one = (side: number) => Array.from({ length: width }, (_, i) => Float32Array.of(i === side ? 1 : 0));
        const arrived = (side: number) => play(rig(session, new Map([['c0', one(side)]]), false), 64).map((samples) => samples[0]);
        const [ll, rl, lr, rr] = gainBetween(session, 'c0', 'mix') ?? [0, 0, 0, 0];
        const near = (got: number, said: number) => expect(Math.abs(got - said)).toBeLessThan(1e-6 + Math.abs(said) * 0.001);
        const [left, right] = arrived(0);
        near(left, width === 1 ? ll + rl : ll);
        near(right, width === 1 ? lr + rr : lr);
        if (width === 2) {
          const [fromRight, toRight] = arrived(1);
          near(fromRight, rl);
          near(toRight, rr);
        }
      }),
      { numRuns: 60, seed: 11 }
    );
  });

  it('adds parallel ways, and lists them loudest first', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', width: 2 }]),
      { do: 'buses.add', id: 'b', name: 'B', members: ['a'] },
      { do: 'returns.add', id: 'r', name: 'R', effect: 'none' },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -6.0206 }] }
    );
    expect(levelsOf(gainBetween(session, 'a', 'mix')!).left).toBeCloseTo(3.52, 2);
    const list = paths(session, 'a', 'mix', 5);
    expect(list.map(({ stations }) => stations.join(' '))).toEqual(['a b mix', 'a r mix']);
    expect(levelsOf(list[1].gain).power).toBeCloseTo(-6.02, 2);
    expect(gainBetween(session, 'r', 'b')).toBeNull();
  });
});

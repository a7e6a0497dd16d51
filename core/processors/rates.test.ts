// Every processor at low and high rates against its float64 oracle: what is counted in frames has to fit there too.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import { double } from '../../tests/oracle/through.ts';
import type { Command } from '../commands/index.ts';
import { valuesOf } from './index.ts';
import type { Oracle } from './oracle.ts';

const oracles: Record<string, { readonly oracle: Oracle }> = import.meta.glob('./*/oracle.ts', { eager: true });
const FRAMES = 8000;
const TRIED: readonly (readonly [type: string, values: Record<string, number>])[] = [
  ['comp', { threshold: -20, character: 1, keyHigh: 100 }],
  ['delay', { 't1.time': 20, mode: 2, feedback: 50 }],
  ['eq', { 'b1.on': 1, 'b3.on': 1, 'b3.gain': 9, 'b3.freq': 3000, 'b5.on': 1, 'b5.gain': -6 }],
  ['limiter', { drive: 6, ceiling: -6 }],
  ['outside', { unit: 1, noise: -140, latency: 5 }],
  ['outside', { unit: 2, noise: -140, latency: 0, drive: 9 }],
  ['reverb', { type: 0, mix: 100, size: 40, preDelay: 0 }],
  ['reverb', { type: 2, mix: 100, size: 160 }]
];

describe.each([1000, 8000, 44100, 192_000])('at %d Hz', (rate) => {
  it.each(TRIED)('%s agrees with its oracle: %o', (type, tried) => {
    const values = { ...(type === 'delay' ? { mix: 60 } : {}), ...tried };
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', width: 2, frames: FRAMES }]),
      { do: 'inserts.add', id: 'x', channelId: 'a', type } as Command,
      { do: 'inserts.set', id: 'x', values } as Command
    );
    session.settings.set('settings', { ...session.settings.get('settings')!, rate });
    const sides = [noise(FRAMES, 1), noise(FRAMES, 2)];
    const heard = play(rig(session, new Map([['a', sides]])), FRAMES);
    const wanted = oracles[`./${type}/oracle.ts`].oracle(double(sides), {
      key: double(sides),
      values: valuesOf(type, values),
      rate,
      bpm: 120
    });
    for (const side of [0, 1]) expect(apart(heard[side], wanted[side])).toBeLessThan(-110);
  });
});

// A recording through one insert, as the engine plays it: what the processors' tests share.
import type { Command } from '../../core/commands/index.ts';
import { carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from './rig.ts';

export const FRAMES = 24000;

/** A recording of one or two sides through one insert of a track, unity in and out; `key` plays on a track of its own. */
export function through(type: string, values: Record<string, number>, sides: readonly Float32Array[], key?: Float32Array): Float32Array[] {
  const frames = sides[0].length;
  const session = carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', width: sides.length as 1 | 2, frames },
      { id: 'k', frames }
    ]),
    { do: 'channels.route', ids: ['k'], to: null },
    { do: 'inserts.add', id: 'x', channelId: 'a', type },
    { do: 'inserts.set', id: 'x', values },
    ...(sides.length === 1 ? [{ do: 'pans.set', pans: [{ id: 'a', pan: -100 }] } as Command] : []),
    ...(key ? [{ do: 'inserts.key', id: 'x', source: 'k', tap: 'pre' } as Command] : [])
  );
  const recordings = new Map([
    ['a', sides],
    ['k', [key ?? new Float32Array(frames)]]
  ]);
  return play(rig(session, recordings), frames).slice(0, sides.length);
}

export const double = (sides: readonly Float32Array[]): Float64Array[] => sides.map((side) => Float64Array.from(side));
export const sine = (freq: number, level: number, frames = FRAMES): Float32Array =>
  Float32Array.from({ length: frames }, (_, i) => level * Math.sin((2 * Math.PI * freq * i) / RATE + 0.3));
/** Loud and soft by turns, so that attack and release both work. */
export const music = (seed: number): Float32Array => noise(FRAMES, seed).map((x, i) => x * (Math.floor(i / 3000) % 2 ? 3.5 : 0.2));
export const impulse = (frames: number): Float32Array => Float32Array.from({ length: frames }, (_, i) => (i === 0 ? 1 : 0));

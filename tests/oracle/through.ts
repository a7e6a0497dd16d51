// A recording through one insert, as the engine plays it: what the processors' tests share.
import type { Command } from '../../core/commands/index.ts';
import { planBatch } from '../../core/commands/plan.ts';
import { commit } from '../../core/session/changes.ts';
import { carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from './rig.ts';

export const FRAMES = 24000;

/** A desk where a recording of one or two sides goes through one insert, unity in and out; `key` plays on a track of its own. */
function deskThrough(type: string, values: Record<string, number>, sides: readonly Float32Array[], key?: Float32Array) {
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
  return { session, engine: rig(session, recordings) };
}

/** What comes out of it. */
export const through = (type: string, values: Record<string, number>, sides: readonly Float32Array[], key?: Float32Array): Float32Array[] =>
  play(deskThrough(type, values, sides, key).engine, sides[0].length).slice(0, sides.length);

/** The same with values that are set while it plays, each at a frame: `[[4800, { time: 20 }]]`. Frames are in rising order. */
export function throughMoves(
  type: string,
  values: Record<string, number>,
  moves: readonly (readonly [at: number, values: Record<string, number>])[],
  sides: readonly Float32Array[]
): Float32Array[] {
  const { session, engine } = deskThrough(type, values, sides);
  const out = sides.map((side) => new Float32Array(side.length));
  let at = 0;
  for (const [next, later] of [...moves, [sides[0].length, null] as const]) {
    play(engine, next - at).forEach((played, side) => out[side]?.set(played, at));
    at = next;
    if (!later) continue;
    const planned = planBatch(session, [{ do: 'inserts.set', id: 'x', values: later }]);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
    engine.update(planned.value.changes);
  }
  return out;
}

export const double = (sides: readonly Float32Array[]): Float64Array[] => sides.map((side) => Float64Array.from(side));
export const sine = (freq: number, level: number, frames = FRAMES): Float32Array =>
  Float32Array.from({ length: frames }, (_, i) => level * Math.sin((2 * Math.PI * freq * i) / RATE + 0.3));
/** Loud and soft by turns, so that attack and release both work. */
export const music = (seed: number): Float32Array => noise(FRAMES, seed).map((x, i) => x * (Math.floor(i / 3000) % 2 ? 3.5 : 0.2));
export const impulse = (frames: number): Float32Array => Float32Array.from({ length: frames }, (_, i) => (i === 0 ? 1 : 0));

/** Level of a signal at a frequency under a Hann window, dB: a sine of peak 1 reads 0. */
export function levelAt(signal: ArrayLike<number>, frequency: number): number {
  let [re, im] = [0, 0];
  for (let n = 0; n < signal.length; n++) {
    const x = signal[n] * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / signal.length));
    re += x * Math.cos((2 * Math.PI * frequency * n) / RATE);
    im -= x * Math.sin((2 * Math.PI * frequency * n) / RATE);
  }
  return 20 * Math.log10((4 * Math.hypot(re, im)) / signal.length + 1e-30);
}

// What each processor costs, in ns a frame and side: a desk of stereo tracks with one each beside the same desk without, in turn.
// npm run bench -- processors [--tracks N] [--json]
import { readFileSync } from 'node:fs';
import { createEngine, type Engine } from '../core/engine/engine.ts';
import { kernelModule } from '../core/kernel/kernel.ts';
import { newSession } from '../core/session/create.ts';
import type { Command } from '../core/commands/index.ts';
import { carryOut, cpu, many, option, RATE, tracks } from './desk.ts';

const count = option('tracks', 8);
const ROUNDS = 9;
const module = kernelModule(readFileSync('dist/kernel.wasm'));
/** Settings at which each has all its work to do. */
const TRIED: readonly (readonly [name: string, type: string, values: Record<string, number>])[] = [
  ['equaliser, four bands', 'eq', { 'b1.on': 1, 'b2.on': 1, 'b2.gain': 2, 'b3.on': 1, 'b3.gain': -3, 'b5.on': 1, 'b5.gain': 2.5 }],
  ['compressor', 'comp', { threshold: -24 }],
  ['compressor, key filters', 'comp', { threshold: -24, keyHigh: 100, keyLow: 5000 }],
  ['compressor, coloured', 'comp', { threshold: -24, character: 1 }],
  ['limiter', 'limiter', { drive: 12 }],
  ['limiter, nothing to do', 'limiter', { drive: -12 }],
  ['delay', 'delay', { mode: 2, taps: 2 }],
  ['reverb', 'reverb', {}],
  ['outside device, tape', 'outside', { unit: 2 }],
  ['outside device, spring', 'outside', { unit: 1 }],
  ['trim', 'trim', { gain: -3 }]
];

function desk(type: string | null, values: Record<string, number>): Engine {
  const session = newSession({ name: 'Bench', rate: RATE });
  const ids = many(count, 't');
  const made = tracks(ids) as unknown as { do: 'tracks.add'; tracks: { media: object }[] };
  carryOut(
    session,
    { ...made, tracks: made.tracks.map((track) => ({ ...track, media: { ...track.media, channels: 2 } })) } as unknown as Command,
    ...ids.flatMap((channelId): Command[] =>
      type
        ? [
            { do: 'inserts.add', id: `${channelId}:x`, channelId, type },
            { do: 'inserts.set', id: `${channelId}:x`, values }
          ]
        : []
    )
  );
  let state = 1;
  const noise = Float32Array.from({ length: 65536 }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0;
    return state / 2 ** 32;
  });
  return createEngine({
    module,
    session,
    solo: false,
    pcm: (_, channel, from, into) => into.set(noise.subarray((from + channel * 7) % 60000, ((from + channel * 7) % 60000) + into.length))
  });
}

const [left, right] = [new Float32Array(1024), new Float32Array(1024)];
/** ns a frame and side of one second. */
function second(engine: Engine): number {
  const began = cpu();
  for (let frames = 0; frames < RATE; frames += 1024) engine.render(left, right);
  return ((cpu() - began) * 1e9) / (RATE * count * 2);
}
const middle = (list: readonly number[]): number => list.toSorted((a, b) => a - b)[list.length >> 1];

const base = desk(null, {});
const result: Record<string, number> = {};
for (const [name, type, values] of TRIED) {
  const engine = desk(type, values);
  // Until both are compiled as they will stay.
  for (let i = 0; i < 3; i++) {
    second(engine);
    second(base);
  }
  const costs = Array.from({ length: ROUNDS }, () => second(engine) - second(base));
  result[name] = Number(middle(costs).toFixed(1));
}
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else for (const [name, ns] of Object.entries(result)) console.log(`${name.padEnd(26)} ${ns.toFixed(1).padStart(6)} ns a frame and side`);

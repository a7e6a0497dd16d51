// What taking stock does to the sound: resting channels are as if they were not there, pairs and splits change nothing.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { commit } from '../session/changes.ts';
import { topologyOf } from './topology.ts';

const FRAMES = 6000;
const recordings = new Map([
  ['a', [noise(FRAMES, 1)]],
  ['b', [noise(FRAMES, 2)]],
  ['c', [noise(FRAMES, 3), noise(FRAMES, 4)]]
]);
const desk = (...commands: Command[]) =>
  carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', frames: FRAMES },
      { id: 'b', frames: FRAMES },
      { id: 'c', width: 2, frames: FRAMES }
    ]),
    ...commands
  );
const heard = (session: ReturnType<typeof desk>) => play(rig(session, recordings), FRAMES);
const difference = (a: ReturnType<typeof desk>, b: ReturnType<typeof desk>) => {
  const [one, other] = [heard(a), heard(b)];
  return Math.max(apart(one[0], other[0]), apart(one[1], other[1]));
};

describe('a resting channel', () => {
  it('makes no sound and costs nothing: no strip, no edge, no instance', () => {
    const wired: Command[] = [
      { do: 'returns.add', id: 'room', name: 'Room', sources: ['a', 'c'] },
      { do: 'buses.add', id: 'bus', name: 'BUS', members: ['b'] },
      { do: 'inserts.add', id: 'duck', channelId: 'c', type: 'comp' },
      { do: 'inserts.key', id: 'duck', source: 'a', tap: 'post' }
    ];
    const rested = desk(...wired, { do: 'rests.set', ids: ['a', 'room', 'bus'], on: true });
    const { strips, edges } = topologyOf(rested);
    expect(strips.map(({ channel }) => channel.id).sort()).toEqual(['b', 'c', 'mix']);
    expect(edges.map(({ from }) => from).sort()).toEqual(['c', 'mix']);
    // What its key was from is silent, so that nothing ducks.
    expect(difference(rested, desk({ do: 'channels.remove', ids: ['a', 'b'] }))).toBeLessThan(-115);
  });

  it('falls silent and wakes while playing', () => {
    const session = desk({
      do: 'faders.set',
      levels: [
        { id: 'b', level: -Infinity },
        { id: 'c', level: -Infinity }
      ]
    });
    const tone = new Map(recordings).set('a', [Float32Array.from({ length: FRAMES }, (_, i) => Math.sin(i / 40) / 2)]);
    const engine = rig(session, tone);
    const step = (command: Command) => {
      const planned = planBatch(session, [command]);
      if (!planned.ok) throw new Error(planned.error.message);
      commit(session, planned.value.changes);
      engine.update(planned.value.changes);
    };
    const first = play(engine, 1280)[0];
    step({ do: 'rests.set', ids: ['a'], on: true });
    const second = play(engine, 2560)[0];
    expect(Math.max(...second.subarray(1280).map(Math.abs))).toBe(0);
    expect(Math.max(...first.map(Math.abs))).toBeGreaterThan(0.3);
    step({ do: 'rests.set', ids: ['a'], on: false });
    expect(Math.max(...play(engine, 2000)[0].map(Math.abs))).toBeGreaterThan(0.3);
  });
});

describe('pairs', () => {
  it('two mono tracks panned to the sides, or one stereo track of them: the same samples', () => {
    const sides = desk({
      do: 'pans.set',
      pans: [
        { id: 'a', pan: -100 },
        { id: 'b', pan: 100 }
      ]
    });
    const pair = desk({ do: 'tracks.pair', left: 'a', right: 'b', name: 'Pair' });
    expect(pair.channel.has('b')).toBe(false);
    expect(pair.media.size).toBe(3);
    expect(difference(sides, pair)).toBeLessThan(-115);
  });

  it('a stereo track split in two, or a pair split again: the same samples', () => {
    const split = desk({ do: 'tracks.split', id: 'c', right: 'd' });
    expect([split.channel.get('c'), split.channel.get('d')]).toMatchObject([
      { name: 'Track c L', width: 1, pan: -100 },
      { name: 'Track c R', width: 1, pan: 100 }
    ]);
    expect(difference(split, desk())).toBeLessThan(-115);
    const again = desk({ do: 'tracks.pair', left: 'a', right: 'b' }, { do: 'tracks.split', id: 'a', right: 'e' });
    expect(
      difference(
        again,
        desk({
          do: 'pans.set',
          pans: [
            { id: 'a', pan: -100 },
            { id: 'b', pan: 100 }
          ]
        })
      )
    ).toBeLessThan(-115);
  });
});

// Lanes as they sound: functions of the position alone, whatever way one comes there; values of inserts to the period; and moves of lanes
// while they play. That they sound as the rules say on any desk is for the random desks.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, module, noise, play, rig, trackCommand } from '../../../tests/oracle/rig.ts';
import type { Command } from '../../commands/index.ts';
import { planBatch } from '../../commands/plan.ts';
import { commit } from '../../session/changes.ts';
import type { Session } from '../../session/entities.ts';
import { startKernel } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import type { Engine } from '../engine.ts';

const FRAMES = 40_000;
const flat = new Map([
  ['a', [new Float32Array(FRAMES).fill(0.5)]],
  ['b', [new Float32Array(FRAMES).fill(0.25), new Float32Array(FRAMES).fill(0.25)]]
]);
const rough = new Map([
  ['a', [noise(FRAMES, 1)]],
  ['b', [noise(FRAMES, 2), noise(FRAMES, 3)]]
]);
const points = (lane: string, ...list: readonly (readonly [number, number, ('hold' | 'linear' | 'eased')?])[]): Command => ({
  do: 'points.set',
  lane,
  points: list.map(([at, value, shape]) => ({ at, value, shape }))
});
/** Two tracks, one late by 500 frames, a bus, an echo; lanes on faders, pan, send, mute, a VCA, a trim and a filter. */
const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', frames: FRAMES },
      { id: 'b', width: 2, frames: FRAMES }
    ]),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
    { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'none' },
    { do: 'sends.set', sends: [{ source: 'a', target: 'echo', level: -6 }] },
    { do: 'inserts.add', id: 'way', channelId: 'a', type: 'outside' },
    { do: 'inserts.set', id: 'way', values: { latency: 500, noise: -140 } },
    { do: 'inserts.add', id: 'tone', channelId: 'b', type: 'eq' },
    { do: 'inserts.set', id: 'tone', values: { 'b3.on': 1, 'b3.gain': 12 } },
    { do: 'vcas.add', id: 'vca', name: 'VCA', members: ['bus'] },
    ...(
      [
        [
          'f',
          { channelId: 'a', of: 'fader' },
          points('f', [0, -6], [3001, 0, 'hold'], [7000, -Infinity], [12_000, 3, 'eased'], [30_000, -20])
        ],
        ['p', { channelId: 'a', of: 'pan' }, points('p', [500, -80, 'eased'], [15_000, 60])],
        ['s', { channelId: 'a', of: 'sendLevel', target: 'echo' }, points('s', [0, -Infinity, 'hold'], [9000, -3, 'hold'], [9040, -20])],
        ['m', { channelId: 'b', of: 'mute' }, points('m', [0, 0, 'hold'], [5000, 1, 'hold'], [6000, 0, 'hold'])],
        ['v', { channelId: 'vca', of: 'fader' }, points('v', [0, 0], [20_000, -12])],
        ['t', { channelId: 'bus', of: 'faderTrim' }, points('t', [0, 0], [1000, 1.5], [2000, -1.5])],
        ['q', { channelId: 'b', of: 'param', insertId: 'tone', param: 'b3.freq' }, points('q', [0, 300], [25_000, 5000])]
      ] as const
    ).flatMap(([id, lane, set]): Command[] => [{ do: 'lanes.add', id, ...lane }, set])
  );
const sides = (engine: Engine, frames: number, block?: number) => play(engine, frames, block);

describe('lanes', () => {
  it('are functions of the position alone: from the middle, in blocks of any size, through a rewind', () => {
    const whole = sides(rig(desk(), flat), 34_000);
    fc.assert(
      fc.property(fc.nat(30_000), fc.constantFrom(64, 100, 999), (from, block) => {
        // A filter begins anew, and what is late has to come first: what flows straight through is the same bits from then on.
        const late = 500 + 64;
        const session = desk();
        carryOut(session, { do: 'inserts.bypass', ids: ['tone'], on: true });
        const dry = rig(session, flat);
        dry.locate(from);
        const own = sides(dry, 3000, block);
        const all = rig(session, flat);
        const [l, r] = sides(all, from + 3000);
        for (const [side, wanted] of [l, r].entries()) expect(own[side].subarray(late)).toEqual(wanted.subarray(from + late));
      }),
      { numRuns: 12, seed: 32 }
    );
    const session = desk();
    const engine = rig(session, flat, true, true);
    const heard = [new Float32Array(34_000), new Float32Array(34_000)];
    for (let turn = 0; engine.rendered() < 34_000 - PERIOD; turn++) {
      const at = engine.rendered();
      engine.period();
      for (const side of [0, 1] as const) heard[side].set(engine.out(side), at);
      // Back, and over the same again.
      if (turn % 37 === 30) engine.rewind(engine.rendered() - 1000);
    }
    for (const side of [0, 1]) expect(heard[side].subarray(0, 33_000)).toEqual(whole[side].subarray(0, 33_000));
  });

  it('are the same bits from anywhere, however their points crowd, rest, or fall on the engine’s periods', () => {
    const place = fc.oneof(
      fc.nat(6000),
      fc.nat(93).map((n) => n * PERIOD),
      fc.nat(60).map((n) => 3000 + n)
    );
    const some = (values: readonly number[]) =>
      fc
        .uniqueArray(fc.tuple(place, fc.constantFrom(...values), fc.constantFrom('hold' as const, 'linear' as const, 'eased' as const)), {
          selector: ([at]) => at,
          minLength: 1,
          maxLength: 25
        })
        .map((list) => list.sort(([a], [b]) => a - b));
    const levels = some([-Infinity, -12, -6, -6, 0, 3]);
    fc.assert(
      fc.property(levels, some([-100, -30, 0, 100]), levels, fc.nat(6500), (fader, pan, sent, from) => {
        const session = carryOut(
          emptyDesk(),
          trackCommand([{ id: 'a', frames: FRAMES }]),
          { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'none' },
          { do: 'sends.set', sends: [{ source: 'a', target: 'echo', level: -6 }] },
          { do: 'lanes.add', id: 'f', channelId: 'a', of: 'fader' },
          points('f', ...fader),
          { do: 'lanes.add', id: 'p', channelId: 'a', of: 'pan' },
          points('p', ...pan),
          { do: 'lanes.add', id: 's', channelId: 'a', of: 'sendLevel', target: 'echo' },
          points('s', ...sent)
        );
        const whole = sides(rig(session, flat), 7500);
        const later = rig(session, flat);
        later.locate(from);
        for (const [side, own] of sides(later, 1000).entries())
          expect(own.subarray(PERIOD)).toEqual(whole[side].subarray(from + PERIOD, from + 1000));
      }),
      { numRuns: 60, seed: 32 }
    );
  });

  it('go over a loop’s jump in 64 frames, for what is late as much later', () => {
    const session = desk();
    carryOut(
      session,
      { do: 'inserts.remove', id: 'tone' },
      { do: 'mutes.set', ids: ['b'], on: true },
      { do: 'sends.remove', sources: ['a'], target: 'echo' }
    );
    const engine = rig(session, flat);
    engine.setLoop({ from: 8001, to: 11_003 });
    engine.locate(8001);
    const [l] = sides(engine, 9000);
    const straight = rig(session, flat);
    straight.locate(8001);
    const [first] = sides(straight, 3200);
    const jump = 3002 + 500;
    expect(l.subarray(0, 3200)).toEqual(first);
    // The second time round is the first again, but for what was on its way and the 64 frames.
    expect(l.subarray(jump + 64, jump + 2400)).toEqual(l.subarray(500 + 64, 2900));
    for (let i = jump; i < jump + 64; i++) expect(Math.abs(l[i] - l[i - 1])).toBeLessThan(Math.abs(l[jump - 1] - l[jump + 64]) / 40);
  });

  it('move values of inserts to what they are at the end of each period, in that period', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: FRAMES }]),
      { do: 'inserts.add', id: 'gain', channelId: 'a', type: 'trim' },
      { do: 'lanes.add', id: 'g', channelId: 'a', of: 'param', insertId: 'gain', param: 'gain' },
      points('g', [640, 0], [6400, -12, 'hold'], [12_800, -3]),
      { do: 'lanes.add', id: 'y', channelId: 'a', of: 'bypass', insertId: 'gain' },
      points('y', [0, 0, 'hold'], [19_200, 1, 'hold'])
    );
    for (const from of [0, 3200]) {
      const engine = rig(session, flat);
      engine.locate(from);
      const [l] = sides(engine, 25_000);
      const dbAt = (frame: number) => 20 * Math.log10((l[frame - from] / 0.5) * Math.SQRT2);
      for (const at of [640, 3200, 4480, 6400].filter((frame) => frame >= from)) expect(dbAt(at)).toBeCloseTo((-12 * (at - 640)) / 5760, 2);
      expect(dbAt(12_700)).toBeCloseTo(-12, 3);
      expect(dbAt(12_800 + 64)).toBeCloseTo(-3, 3);
      expect(dbAt(19_200 + 64)).toBeCloseTo(0, 3);
    }
  });

  it('glide to another course when they are moved, come or go while they play', () => {
    const moves: Command[][] = [
      [points('f', [3001, -12, 'hold'])],
      [{ do: 'lanes.set', ids: ['f'], plays: false }],
      [{ do: 'lanes.set', ids: ['f', 'p'], plays: true }],
      [{ do: 'lanes.remove', ids: ['t', 'v'] }],
      [{ do: 'lanes.add', id: 'n', channelId: 'bus', of: 'fader' }, points('n', [0, -9])],
      [{ do: 'lanes.add', id: 'w', channelId: 'b', of: 'spread' }, points('w', [0, 40])]
    ];
    const session = desk();
    carryOut(session, { do: 'inserts.remove', id: 'tone' }, { do: 'lanes.remove', ids: ['m', 's'] });
    const engine = rig(session, flat, true, true);
    sides(engine, 3000);
    const last = sides(engine, 64).map((side) => side.at(-1)!);
    for (const commands of moves) {
      const planned = planBatch(session, commands);
      if (!planned.ok) throw new Error(planned.error.message);
      commit(session, planned.value.changes);
      engine.update(planned.value.changes);
      const heard = sides(engine, 2560);
      heard.forEach((side, i) => {
        for (const x of side) {
          // 0.7 of full scale in 512 frames is 0.0014 a frame; a jump would be a hundred times that.
          expect(Math.abs(x - last[i])).toBeLessThan(0.004);
          last[i] = x;
        }
      });
    }
  });

  it('that stand still are to the bit what a fader is, and one that is muted is nothing', () => {
    const fixed = (...commands: Command[]) =>
      sides(rig(carryOut(emptyDesk(), trackCommand([{ id: 'a', frames: FRAMES }]), ...commands), rough), 9000);
    const faded = fixed({ do: 'faders.set', levels: [{ id: 'a', level: -7.3 }] }, { do: 'pans.set', pans: [{ id: 'a', pan: 31 }] });
    const lane = (id: string, of: 'fader' | 'pan' | 'mute', value: number): Command[] => [
      { do: 'lanes.add', id, channelId: 'a', of },
      points(id, [100, value, 'hold'], [5000, value, 'hold'])
    ];
    expect(fixed(...lane('x', 'fader', -7.3), ...lane('y', 'pan', 31))).toEqual(faded);
    expect(Math.max(...fixed(...lane('z', 'mute', 1))[0])).toBe(0);
  });
});

it('the sums of lanes are the kernel’s within 10⁻⁹', () => {
  const kernel = startKernel(module);
  for (let db = -140; db <= 40; db += 0.37) expect(kernel.amplitudeOf(db) / kernel.gainOf(db)).toBeCloseTo(1, 9);
  for (const [i, law] of [0, -3, -4.5, -6].entries())
    for (let place = -100; place <= 100; place += 0.7)
      for (const side of [0, 1])
        expect(kernel.pinOf(place, 2 * i + side)).toBeCloseTo(kernel.panLeft((side ? -place : place) / 100, law), 9);
  expect(kernel.amplitudeOf(0)).toBe(1);
  expect(kernel.amplitudeOf(-1e6)).toBe(0);
});

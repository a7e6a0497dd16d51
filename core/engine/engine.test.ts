// The engine against the float64 oracle, and what must never matter: block size, grouping, where one starts counting.
import { describe, expect, it } from 'vitest';
import { graphOracle } from '../../tests/oracle/graph.ts';
import { desk, FRAMES } from '../../tests/oracle/desk.ts';
import { apart, carryOut, emptyDesk, module, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import { commit } from '../session/changes.ts';
import type { Command } from '../commands/index.ts';
import type { Session } from '../session/entities.ts';
import { planBatch } from '../commands/plan.ts';
import { spansFrom } from './engine.ts';
import { renderMix } from '../../tests/oracle/mix.ts';
import { constantsOf, opOf, startKernel } from '../kernel/kernel.ts';
import { INSERT_TYPES } from '../processors/index.ts';

describe('prints', () => {
  it('wait for an echo that is still on its way, however quiet it is until then', () => {
    const frames = 4800;
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames }]),
      { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'delay' },
      { do: 'inserts.set', id: 'echo:delay', values: { 't1.time': 3000, feedback: 10, high: 20, low: 20000 } },
      { do: 'sends.set', sends: [{ source: 'a', target: 'echo', level: 0 }] }
    );
    const tone = Float32Array.from({ length: frames }, (_, i) => 0.5 * Math.sin(i / 10));
    const pcm = (_id: string, _channel: number, from: number, into: Float32Array) => into.set(tone.subarray(from, from + into.length));
    const out: number[] = [];
    for (const { left } of renderMix(module, session, pcm)) out.push(...left);
    const peak = (from: number, to: number) => Math.max(...out.slice(from * RATE, to * RATE).map(Math.abs));
    // At 3 s, at 6 s a tenth of it, at 9 s a hundredth, at 12 s under −60 dBFS and still there; then it ends.
    expect([peak(3, 3.1), peak(6, 6.1), peak(9, 9.1)].map((x) => Math.round(x * 1000) / 1000)).toEqual([0.354, 0.035, 0.004]);
    expect(peak(1, 2.9)).toBe(0);
    expect(out.length / RATE).toBeGreaterThan(12);
    expect(out.length / RATE).toBeLessThan(20);
  });

  it('an outside spring comes to its end, and what is too little to hear in a recording is silence', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: RATE }]),
      { do: 'inserts.add', id: 'o', channelId: 'a', type: 'outside' },
      { do: 'inserts.set', id: 'o', values: { unit: 1, noise: -140 } }
    );
    const burst = Float32Array.from({ length: RATE }, (_, i) => (i < 2000 ? 0.5 * Math.sin(i / 7) : 1e-39));
    const engine = rig(session, new Map([['a', [burst]]]));
    play(engine, RATE * 20);
    expect(Math.max(...play(engine, RATE)[0].map(Math.abs))).toBe(0);
    const denormal = rig(carryOut(emptyDesk(), trackCommand([{ id: 'a' }])), new Map([['a', [new Float32Array(RATE).fill(1e-39)]]]));
    expect(Math.max(...play(denormal, 6400)[0])).toBe(0);
  });
});

describe('engine', () => {
  it('agrees with the float64 oracle on a whole graph to −115 dBFS', () => {
    const { session, recordings } = desk();
    const [left, right] = play(rig(session, recordings), FRAMES);
    const [wantL, wantR] = graphOracle(session, recordings, FRAMES, RATE);
    expect(Math.max(...left)).toBeGreaterThan(0.1);
    expect(apart(left, wantL)).toBeLessThan(-115);
    expect(apart(right, wantR)).toBeLessThan(-115);
  });

  it('gives the same samples in blocks of 64, 100, 128 and 1024, moves and all', () => {
    const moves: [number, Command[]][] = [
      [
        3000,
        [
          {
            do: 'faders.set',
            levels: [
              { id: 't3', level: -20 },
              { id: 'all', level: 3 }
            ]
          }
        ]
      ],
      [5001, [{ do: 'inserts.set', id: 'eq-t0', values: { 'b3.freq': 900, 'b3.on': 1, 'b1.slope': 4 } }]],
      [
        7777,
        [
          { do: 'channels.route', ids: ['t3'], to: 'mix' },
          { do: 'sends.set', sends: [{ source: 't8', target: 'room', level: 0, tap: 'pre' }] }
        ]
      ],
      [
        8100,
        [
          { do: 'inserts.set', id: 'c-t5', values: { threshold: -40, mix: 40 } },
          { do: 'inserts.set', id: 'lim-low', values: { ceiling: -20 } },
          { do: 'inserts.set', id: 'echo-delay', values: { 't1.time': 120, taps: 2 } },
          { do: 'inserts.set', id: 'trim-t4', values: { delay: 0, gain: 3 } },
          { do: 'inserts.key', id: 'c-t3', source: 't0', tap: 'input' },
          { do: 'sends.set', sends: [{ source: 't7', target: 'echo', pan: -20 }] },
          { do: 'settings.set', bpm: 90 }
        ]
      ],
      [
        9000,
        [
          { do: 'inserts.set', id: 'room:reverb', values: { size: 60, decay: 3 } },
          { do: 'solos.set', ids: ['low'], on: true }
        ]
      ]
    ];
    const runs = [64, 100, 128, 1024].map((block) => {
      const { session, recordings } = desk();
      const engine = rig(session, recordings);
      const ahead = desk().session;
      for (const [at, commands] of moves) {
        const planned = planBatch(ahead, commands);
        if (!planned.ok) throw new Error(planned.error.message);
        commit(ahead, planned.value.changes);
        engine.schedule(at, planned.value.changes);
      }
      return play(engine, FRAMES, block);
    });
    for (const run of runs.slice(1)) expect(run).toEqual(runs[0]);
  });

  it('does not depend on which channels share a register', () => {
    const { session, recordings } = desk();
    const engine = rig(session, recordings);
    play(engine, 4096);
    const before = engine.tap('t7', 0)!.slice();
    const alone = desk();
    carryOut(alone.session, { do: 'channels.remove', ids: ['t0', 't4'] });
    const small = rig(alone.session, alone.recordings);
    play(small, 4096);
    expect(small.tap('t7', 0)).toEqual(before);
  });

  it('moves a fader and re-routes without a click', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a' }]),
      { do: 'buses.add', id: 'b', name: 'B' },
      { do: 'returns.add', id: 'r', name: 'R', effect: 'none' },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: 0 }] }
    );
    const tone = Float32Array.from({ length: RATE }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 100 * i) / RATE));
    const engine = rig(session, new Map([['a', [tone]]]));
    const change = (...commands: Command[]) => {
      carryOut(session, ...commands);
      engine.update();
    };
    const steps = [
      play(engine, 4800),
      (change({ do: 'faders.set', levels: [{ id: 'a', level: -40 }] }), play(engine, 4800)),
      (change({ do: 'faders.set', levels: [{ id: 'a', level: 0 }] }), play(engine, 4800)),
      (change({ do: 'channels.route', ids: ['a'], to: 'b' }), play(engine, 4800)),
      (change({ do: 'sends.remove', sources: ['a'], target: 'r' }), play(engine, 4800))
    ];
    const whole = Float32Array.from(steps.flatMap(([left]) => [...left]));
    const steepest = Math.max(...whole.slice(1).map((x, i) => Math.abs(x - whole[i])));
    // Two unity copies of the tone at −3 dB move by at most 0.0093 a frame; a click would be far over it.
    expect(steepest).toBeLessThan(0.0105);
    expect(Math.max(...steps[4][0].slice(2000))).toBeCloseTo(0.5 * Math.SQRT1_2, 3);
  });

  it('loops within a chunk and says where it is', () => {
    const ramp = Float32Array.from({ length: 4000 }, (_, i) => i / 8192);
    const session = carryOut(emptyDesk(), trackCommand([{ id: 'a', frames: 4000 }]), { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] });
    const engine = rig(session, new Map([['a', [ramp]]]));
    engine.setLoop({ from: 1000, to: 1600 });
    engine.locate(1200);
    const [left] = play(engine, 2000, 64);
    const wanted = Array.from({ length: 2000 }, (_, i) => (1000 + ((200 + i) % 600)) / 8192);
    expect(apart(left, wanted)).toBeLessThan(-120);
    expect(engine.position()).toBe(1000 + ((200 + engine.rendered()) % 600));
    expect(spansFrom(1500, 256, { from: 1000, to: 1600 })).toEqual([
      { from: 1500, to: 1600 },
      { from: 1000, to: 1156 }
    ]);
  });

  it('meters peak and RMS after the fader: a sine’s RMS is 3.01 dB under its peak; reading clears', () => {
    const sine = Float32Array.from({ length: 4800 }, (_, i) => Math.sin((2 * Math.PI * 1000 * i) / RATE));
    const session = carryOut(emptyDesk(), trackCommand([{ id: 'a', width: 2, frames: 4800 }]), {
      do: 'faders.set',
      levels: [{ id: 'a', level: -6 }]
    });
    const engine = rig(session, new Map([['a', [sine, sine.map((x) => x / 2)]]]));
    play(engine, 4800, 64);
    const cells = new Float32Array(12);
    engine.meters(cells);
    const at = engine.order().indexOf('a') * 4;
    const db = (x: number) => 20 * Math.log10(x);
    expect(db(cells[at])).toBeCloseTo(-6, 4);
    expect(db(cells[at + 1])).toBeCloseTo(-6 - 6.0206, 4);
    expect(db(Math.sqrt(cells[at + 2] / 4800))).toBeCloseTo(-6 - 3.0103, 3);
    engine.meters(cells);
    expect([...cells]).toEqual(new Array(12).fill(0));
  });

  it('prints as if nothing were soloed', () => {
    const { session, recordings } = desk();
    const whole = play(rig(session, recordings, false), 2048);
    carryOut(session, { do: 'solos.set', ids: ['t5'], on: true });
    expect(play(rig(session, recordings, false), 2048)).toEqual(whole);
    expect(play(rig(session, recordings, true), 2048)).not.toEqual(whole);
  });

  it('prints from the first frame, whatever the mix bus is late by', () => {
    const { session, recordings } = desk();
    const pcm = (mediaId: string, channel: number, from: number, into: Float32Array) =>
      into.set(recordings.get(mediaId.slice(2))![channel].subarray(from, from + into.length));
    const rendered = (of: Session) => [...renderMix(module, of, pcm, 1024)].map(({ left }) => left.length);
    const first = (of: Session) => renderMix(module, of, pcm, 4096).next().value!.left.slice();
    const plain = first(session);
    carryOut(
      session,
      { do: 'inserts.add', id: 'late', channelId: 'mix', type: 'limiter' },
      { do: 'inserts.set', id: 'late', values: { ceiling: 0 } }
    );
    expect(first(session).subarray(0, 3000)).toEqual(plain.subarray(0, 3000));
    expect(rendered(session).every((length) => length > 0 && length <= 1088)).toBe(true);
  });

  it('asks the kernel for its offsets, and says which one is not there', () => {
    const kernel = startKernel(module);
    expect(constantsOf(kernel, 'OP', ['sum', 'words'])).toEqual({ sum: 1, words: 12 });
    expect(() => constantsOf(kernel, 'COMP', ['wet', 'damp'])).toThrow('The kernel exports no constant COMP_DAMP.');
    // Each processor that has a part of its own has a place of its own in the module.
    const parts = INSERT_TYPES.filter((type) => `${type}Op` in kernel.exported);
    expect(parts.length).toBeGreaterThan(5);
    expect(new Set(parts.map((type) => opOf(kernel, type))).size).toBe(parts.length);
  });
});

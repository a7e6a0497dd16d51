// The delay: its float64 oracle, and note values.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, sine, through, throughMoves } from '../../../tests/oracle/through.ts';
import { planBatch } from '../../commands/plan.ts';
import { commit } from '../../session/changes.ts';
import { valuesOf } from '../index.ts';
import { eqOracle } from '../eq/oracle.ts';
import { delayOracle } from './oracle.ts';
import { delayShape } from './params.ts';

describe('delay', () => {
  it.each([0, 1, 2])('way %i agrees with the oracle', (mode) => {
    const sides = [noise(FRAMES, 11), noise(FRAMES, 12)].map((side) => side.map((x, i) => (i < 5000 ? x : 0)));
    const values = {
      ...{ mode, taps: 3, feedback: 70, mix: 60, apart: 7, 't1.time': 31, 't2.note': 3, 't2.pan': -60 },
      ...{ 't3.time': 333, 't3.level': -9, 't3.pan': 80 }
    };
    const [l, r] = through('delay', values, sides);
    const [wantL, wantR] = delayOracle(...(double(sides) as [Float64Array, Float64Array]), valuesOf('delay', values), RATE, 120);
    expect(Math.max(apart(l, wantL), apart(r, wantR))).toBeLessThan(-115);
    expect(Math.max(...l.subarray(16000))).toBeGreaterThan(0.001);
  });

  const round = { mix: 100, feedback: 80, high: 20, low: 20000, 't1.time': 100 };
  it('changes its times without a hole, in what is heard and in what goes round', () => {
    // A steady level: with feedback of 80 % it comes to five times itself.
    const steady = new Float32Array(4 * RATE).fill(0.1);
    const [heard] = throughMoves('delay', round, [[2 * RATE, { 't1.time': 170 }]], [steady, steady]);
    const after = heard.subarray(2 * RATE - 4800);
    expect(Math.min(...after)).toBeGreaterThan(0.49);
    expect(Math.max(...after)).toBeLessThan(0.51);
  });

  it.each([
    [{ 't1.time': 170 }],
    [{ 't1.time': 3, apart: 20 }],
    [{ mode: 2 }],
    [{ mode: 1, taps: 4 }],
    [{ 't1.level': -20, 't1.pan': 60 }]
  ])('puts nothing above 4 kHz beside a tone: %o', (later) => {
    // It comes in softly: a beginning would go round.
    const tone = sine(300, 0.1, 2 * RATE).map((x, i) => x * Math.sin(Math.min(1, i / 9600) * (Math.PI / 2)) ** 2);
    const [heard] = throughMoves('delay', { ...round, taps: 2 }, [[RATE, later]], [tone, tone]);
    const above = eqOracle(Float64Array.from(heard), valuesOf('eq', { 'b1.on': 1, 'b1.freq': 4000, 'b1.slope': 5 }), RATE);
    const changed = above.subarray(RATE - 4800);
    expect(apart(changed, new Float64Array(changed.length))).toBeLessThan(-75);
  });

  it('holds notes of many seconds; what is on its way when the tempo changes comes when the new one says', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: 20 * RATE }]),
      { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] },
      { do: 'inserts.add', id: 'x', channelId: 'a', type: 'delay' },
      { do: 'inserts.set', id: 'x', values: { mix: 100, feedback: 0, high: 20, low: 20000, 't1.note': 14 } }
    );
    const sound = new Float32Array(20 * RATE);
    for (const second of [0.5, 12.5]) sound[second * RATE] = 0.5;
    const engine = rig(session, new Map([['a', [sound]]]));
    const tempo = (bpm: number) => {
      const planned = planBatch(session, [{ do: 'settings.set', bpm }]);
      if (!planned.ok) throw new Error(planned.error.message);
      commit(session, planned.value.changes);
      engine.update(planned.value.changes);
    };
    // A whole note is 2 s at first, then 8 s, then 12 s, then 2 s again.
    const echoes: unknown[] = [];
    let began = 0;
    for (const [bpm, seconds] of [
      [120, 1],
      [30, 9],
      [20, 3],
      [120, 4]
    ]) {
      tempo(bpm);
      play(engine, seconds * RATE)[0].forEach((x, frame) => Math.abs(x) > 1e-4 && echoes.push([began + frame / RATE, x]));
      began += seconds;
    }
    expect(echoes).toEqual([
      [8.5, expect.closeTo(0.5, 5)],
      [12.5, expect.closeTo(0.5, 5)],
      [14.5, expect.closeTo(0.5, 5)]
    ]);
  });

  it('counts note values at the tempo', () => {
    const shape = (note: number) => delayShape(valuesOf('delay', { 't1.note': note }), RATE, 100).taps[0].left;
    // At 100 quarter notes a minute: a quarter 0.6 s, dotted eighth 0.45 s, eighth triplet 0.2 s.
    expect([9, 7, 5].map(shape)).toEqual([28800, 21600, 9600]);
  });
});

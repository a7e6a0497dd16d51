// Compressor, limiter, delay and trim: closed forms, float64 oracles, and what must hold whatever the material.
import { describe, expect, it } from 'vitest';
import { compOracle } from '../../tests/oracle/comp.ts';
import { outsideOracle } from '../../tests/oracle/outside.ts';
import { delayOracle } from '../../tests/oracle/delay.ts';
import { limiterOracle, truePeakDb, withoutTop } from '../../tests/oracle/limiter.ts';
import { apart, carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import type { InsertType } from '../session/entities.ts';
import { compReduction, makeUpOf } from './comp.ts';
import { delayShape } from './delay.ts';
import { limiterLatency } from './limiter.ts';
import { valuesOf } from './params.ts';

const FRAMES = 24000;
/** A recording of one or two sides through one insert of a track, unity in and out; `key` plays on a track of its own. */
function through(type: InsertType, values: Record<string, number>, sides: Float32Array[], key?: Float32Array): Float32Array[] {
  const session = carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', width: sides.length as 1 | 2, frames: FRAMES },
      { id: 'k', frames: FRAMES }
    ]),
    { do: 'channels.route', ids: ['k'], to: null },
    { do: 'inserts.add', id: 'x', channelId: 'a', type },
    { do: 'inserts.set', id: 'x', values },
    ...(sides.length === 1 ? [{ do: 'pans.set' as const, pans: [{ id: 'a', pan: -100 }] }] : []),
    ...(key ? [{ do: 'inserts.key' as const, id: 'x', source: 'k', tap: 'pre' as const }] : [])
  );
  const recordings = new Map([
    ['a', sides],
    ['k', [key ?? new Float32Array(FRAMES)]]
  ]);
  return play(rig(session, recordings), FRAMES).slice(0, sides.length);
}
const double = (sides: Float32Array[]) => sides.map((side) => Float64Array.from(side));
const sine = (freq: number, level: number, frames = FRAMES) =>
  Float32Array.from({ length: frames }, (_, i) => level * Math.sin((2 * Math.PI * freq * i) / RATE + 0.3));
/** Loud and soft by turns, so that attack and release both work. */
const music = (seed: number) => noise(FRAMES, seed).map((x, i) => x * (Math.floor(i / 3000) % 2 ? 3.5 : 0.2));

describe('compressor', () => {
  it('has the static curve of its threshold, ratio and knee', () => {
    const v = valuesOf('comp', { threshold: -20, ratio: 4, knee: 6 });
    expect(compReduction(v, -40)).toBe(0);
    expect(compReduction(v, -10)).toBeCloseTo(-7.5, 10);
    // At the threshold a quadratic knee takes (1/R − 1)·W/8.
    expect(compReduction(v, -20)).toBeCloseTo(-0.75 * (6 / 8), 10);
    expect(compReduction({ ...v, ratio: 100, knee: 0 }, -5)).toBe(-15);
    expect(makeUpOf({ ...v, auto: 1, makeUp: 1 })).toBeCloseTo(8.5, 10);
  });

  it('brings a steady level where the curve says, and attacks in its time', () => {
    const level = 0.5;
    const steady = Float32Array.from({ length: FRAMES }, (_, i) => (i % 2 ? level : -level));
    const values = { threshold: -30, ratio: 2, knee: 0, attack: 5, release: 100 };
    const [out] = through('comp', values, [steady]);
    const db = (x: number) => 20 * Math.log10(Math.abs(x));
    const reduction = compReduction(valuesOf('comp', values), db(level));
    expect(db(out[FRAMES - 1])).toBeCloseTo(db(level) + reduction, 3);
    // After one time constant 1 − 1/e of the reduction is there.
    expect(db(out[239]) - db(level)).toBeCloseTo(reduction * (1 - Math.exp(-1)), 2);
  });

  it('tells what it takes off, the deepest since the last reading, as its meter shows', () => {
    const level = 0.5;
    const steady = Float32Array.from({ length: FRAMES }, (_, i) => (i < 12000 ? (i % 2 ? level : -level) : 0));
    const values = { threshold: -30, ratio: 2, knee: 0, attack: 5, release: 10 };
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: FRAMES }]),
      { do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' },
      { do: 'inserts.add', id: 'comp', channelId: 'a', type: 'comp' },
      { do: 'inserts.set', id: 'comp', values },
      { do: 'inserts.add', id: 'limiter', channelId: 'mix', type: 'limiter' },
      { do: 'inserts.set', id: 'limiter', values: { ceiling: -20 } }
    );
    const engine = rig(session, new Map([['a', [steady]]]));
    const read = () => {
      const into = new Float32Array(8);
      engine.reductions(into);
      return Object.fromEntries(engine.reducers().map((id, i) => [id, into[i]]));
    };
    play(engine, 12000);
    const deepest = compReduction(valuesOf('comp', values), 20 * Math.log10(level));
    // What leaves the compressor, panned to the middle, is so much over the ceiling.
    const over = 20 * Math.log10(level) + deepest - 20 * Math.log10(Math.SQRT2) + 20;
    const first = read();
    expect(Object.keys(first).toSorted()).toEqual(['comp', 'limiter']);
    expect(first.comp).toBeCloseTo(deepest, 3);
    expect(first.limiter).toBeLessThan(-over + 0.3);
    play(engine, 11000);
    read();
    play(engine, 64);
    const last = read();
    expect(last.comp).toBeCloseTo(0, 2);
    expect(last.limiter).toBeGreaterThan(-0.2);
  });

  it.each([
    ['clean, peak', { threshold: -24, ratio: 4, knee: 6, attack: 3, release: 60 }],
    ['quick, RMS, half wet, automatic make-up', { threshold: -30, ratio: 100, knee: 0, character: 1, detector: 1, mix: 50, auto: 1 }],
    ['patient, filtered key', { threshold: -28, ratio: 3, character: 2, keyHigh: 150, keyLow: 4000, makeUp: 4 }]
  ])('%s: agrees with the oracle, mono and stereo and keyed', (_, values) => {
    const v = valuesOf('comp', values);
    const sides = [music(1), music(2).map((x) => x * 0.3)];
    const [l, r] = through('comp', values, sides);
    const [wantL, wantR] = compOracle(double(sides), double(sides), v, RATE);
    // Make-up may bring the result over full scale: judged beside its own peak.
    const scale = Math.max(1, ...wantL);
    expect(Math.max(apart(l, wantL), apart(r, wantR)) - 20 * Math.log10(scale)).toBeLessThan(-115);
    const key = music(3).map((x, i) => (i < 9000 ? 0 : x * 2));
    const [keyed] = through('comp', values, [sides[0]], key);
    expect(apart(keyed, compOracle(double([sides[0]]), double([key]), v, RATE)[0])).toBeLessThan(-115);
    const [listened] = through('comp', { ...values, listen: 1, character: 0, keyHigh: 20, keyLow: 20000 }, [sides[0]], key);
    expect(listened).toEqual(key);
  });
});

describe('limiter', () => {
  it('holds its ceiling between the frames too, within 0.1 dB, and agrees with its oracle', () => {
    const sources: [string, Float32Array][] = [
      ['a sine at a quarter of the rate', sine(12000, 1)],
      ['a high sine', sine(17321, 1.3)],
      ['a low sine, far over', sine(97, 3.9)],
      ['bursts', withoutTop(music(7))]
    ];
    for (const [name, samples] of sources) {
      const values = { ceiling: -3, drive: 6, release: 40 };
      const [out] = through('limiter', values, [samples]);
      expect(apart(out, limiterOracle(double([samples]), valuesOf('limiter', values), RATE)[0]), name).toBeLessThan(-110);
      const peak = truePeakDb(out.subarray(2000, 8000));
      expect(peak, name).toBeLessThan(-2.9);
      if (name !== 'bursts') expect(peak, name).toBeGreaterThan(-3.2);
    }
  }, 60_000);

  it('is a plain wait for what stays under the ceiling, and for everything while bypassed', () => {
    const late = limiterLatency(RATE);
    const soft = [noise(FRAMES, 4), noise(FRAMES, 5)];
    const [l, r] = through('limiter', { ceiling: 0 }, soft);
    expect(l.subarray(late)).toEqual(soft[0].subarray(0, FRAMES - late));
    expect(r.subarray(late)).toEqual(soft[1].subarray(0, FRAMES - late));
  });
});

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

  it('counts note values at the tempo', () => {
    const shape = (note: number) => delayShape(valuesOf('delay', { 't1.note': note }), RATE, 100).taps[0].left;
    // At 100 quarter notes a minute: a quarter 0.6 s, dotted eighth 0.45 s, eighth triplet 0.2 s.
    expect([9, 7, 5].map(shape)).toEqual([28800, 21600, 9600]);
  });
});

describe('trim', () => {
  it('turns, swaps, folds and waits', () => {
    const [a, b] = [noise(FRAMES, 21), noise(FRAMES, 22)];
    const trim = (values: Record<string, number>) => through('trim', values, [a, b]);
    expect(trim({ turnL: 1 })[0]).toEqual(a.map((x) => -x));
    expect(trim({ swap: 1 })).toEqual([b, a]);
    const [mono, same] = trim({ mono: 1 });
    expect(mono).toEqual(same);
    expect(
      apart(
        mono,
        a.map((x, i) => (x + b[i]) / 2)
      )
    ).toBeLessThan(-140);
    expect(trim({ delay: 1000 })[1].subarray(1000)).toEqual(b.subarray(0, FRAMES - 1000));
    expect(
      apart(
        trim({ gain: 6 })[0],
        a.map((x) => x * 10 ** 0.3)
      )
    ).toBeLessThan(-130);
    expect(through('trim', { turnL: 1, mono: 1, delay: 3 }, [a])[0].subarray(3)).toEqual(a.map((x) => -x).subarray(0, FRAMES - 3));
  });
});

describe('outside device', () => {
  it.each([
    ['a wire with its noise', { noise: -60 }],
    ['a spring', { unit: 1, drive: 6, noise: -140, latency: 77 }],
    ['something tape-like, half wet', { unit: 2, drive: 12, noise: -90, mix: 50, latency: 4096 }]
  ])('%s: agrees with the oracle, and comes as late as it says', (_, values) => {
    const sides = [music(11), music(12)];
    const v = valuesOf('outside', values);
    const out = through('outside', values, sides);
    const want = outsideOracle(double(sides), v, RATE);
    out.forEach((side, s) => expect(apart(side.subarray(0, FRAMES), want[s])).toBeLessThan(-115));
  });

  it('keeps the rest of the desk waiting: two ways of different latency null', () => {
    const samples = [noise(FRAMES, 21)];
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: FRAMES }]),
      { do: 'returns.add', id: 'r', name: 'Round', effect: 'outside' },
      { do: 'inserts.set', id: 'r:outside', values: { latency: 1234, noise: -140 } },
      { do: 'inserts.add', id: 't', channelId: 'r', type: 'trim' },
      { do: 'inserts.set', id: 't', values: { turnL: 1, turnR: 1 } },
      { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: 0 }] }
    );
    const [l, r] = play(rig(session, new Map([['a', samples]])), FRAMES);
    expect([...l, ...r].every((x) => x === 0)).toBe(true);
    // Bypassed it keeps its latency: the same twice is 6 dB more, exactly.
    carryOut(session, { do: 'inserts.bypass', ids: ['r:outside', 't'], on: true });
    const [twice] = play(rig(session, new Map([['a', samples]])), FRAMES);
    carryOut(session, { do: 'sends.remove', sources: ['a'], target: 'r' });
    const [once] = play(rig(session, new Map([['a', samples]])), FRAMES);
    expect(twice).toEqual(once.map((x) => x * 2));
    expect(once.findIndex((x) => x !== 0)).toBe(1234);
  });
});

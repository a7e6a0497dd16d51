// The compressor: its static curve, its times, its meter, and its float64 oracle.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, play, rig, RATE, trackCommand } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, levelAt, music, sine, through } from '../../../tests/oracle/through.ts';
import { decodeSession, encodeSession } from '../../session/tables.ts';
import { valuesOf } from '../index.ts';
import { compOracle } from './oracle.ts';
import { compReduction, compSpecs, makeUpOf, sineReading } from './params.ts';

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

  it.each([
    [0, 10, 150, 0],
    [0, 0.05, 150, 0],
    [0, 50, 100, 0],
    [0, 40, 150, 1],
    [1, 10, 150, 0]
  ])('takes a sine for what it says: detector %i, %d and %d ms, character %i', (detector, attack, release, character) => {
    const values = { threshold: -60, ratio: 2, knee: 0, attack, release, detector, character };
    const tone = sine(1000, 0.5, 4 * FRAMES);
    const [out] = through('comp', values, [tone]);
    const reduction = levelAt(out.subarray(3 * FRAMES), 1000) - levelAt(tone.subarray(3 * FRAMES), 1000);
    const read = -60 - 2 * reduction - 20 * Math.log10(0.5);
    expect(Math.abs(read - sineReading(valuesOf('comp', values)))).toBeLessThan(0.15);
  });

  it('says its true times where the character makes others of them', () => {
    const notes = (values: Record<string, number>) =>
      Object.fromEntries(compSpecs.flatMap(({ id, note }) => (note ? [[id, note(valuesOf('comp', values))]] : [])));
    expect(notes({})).toEqual({ attack: null, release: null, detector: 'A sine reads 1.4 dB under its peak.' });
    expect(notes({ character: 1 })).toMatchObject({ attack: 'Quick makes 3 ms of it.', release: 'Quick makes 45 ms of it.' });
    expect(notes({ character: 2, detector: 1 })).toEqual({
      attack: null,
      release: 'What lasted is let go in 750 ms.',
      detector: 'A sine reads 3.0 dB under its peak.'
    });
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

  it('bends the wave of its quick character without folding it back, rising everywhere, and not at all at 0 % wet', () => {
    const values = { threshold: 0, ratio: 1, character: 1 };
    const [tone] = through('comp', values, [sine(9000, 1)]);
    // 27, 45 and 63 kHz would be found at 21, 3 and 15.
    const folded = [21000, 3000, 15000].map((frequency) => levelAt(tone.subarray(4800), frequency));
    expect(Math.max(...folded) - levelAt(tone.subarray(4800), 9000)).toBeLessThan(-85);
    // A third harmonic that can be heard is there.
    const [low] = through('comp', values, [sine(1000, 1)]);
    expect(levelAt(low.subarray(4800), 3000) - levelAt(low.subarray(4800), 1000)).toBeGreaterThan(-40);
    const rising = Float32Array.from({ length: FRAMES }, (_, i) => (i * 5) / FRAMES);
    const [risen] = through('comp', values, [rising]);
    expect(risen.subarray(100).every((x, i) => x > risen[99 + i])).toBe(true);
    const samples = music(5);
    expect(through('comp', { ...values, threshold: -30, ratio: 4, mix: 0 }, [samples])[0]).toEqual(samples);
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

  it('on a mono channel hears both sides of its key, and lets both be listened to', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([
        { id: 'a', frames: FRAMES },
        { id: 'k', width: 2, frames: FRAMES }
      ]),
      { do: 'channels.route', ids: ['k'], to: null },
      { do: 'pans.set', pans: [{ id: 'a', pan: -100 }] },
      { do: 'inserts.add', id: 'x', channelId: 'a', type: 'comp' },
      { do: 'inserts.set', id: 'x', values: { threshold: -40, ratio: 4, attack: 1 } },
      { do: 'inserts.key', id: 'x', source: 'k', tap: 'pre' }
    );
    const [tone, key, none] = [music(FRAMES), sine(200, 0.7), new Float32Array(FRAMES)];
    const values = session.insert.get('x')!.params;
    const [wanted] = compOracle(double([tone]), double([none, key]), valuesOf('comp', values), RATE);
    for (const sides of [
      [none, key],
      [key, none]
    ]) {
      const recordings = new Map([
        ['a', [tone]],
        ['k', sides]
      ]);
      expect(apart(play(rig(session, recordings), FRAMES)[0], wanted)).toBeLessThan(-115);
      const listening = carryOut(decodeSession(encodeSession(session)), { do: 'inserts.set', id: 'x', values: { listen: 1 } });
      const half = key.map((x) => x / 2);
      expect(apart(play(rig(listening, recordings), FRAMES)[0], half)).toBeLessThan(-115);
    }
  });
});

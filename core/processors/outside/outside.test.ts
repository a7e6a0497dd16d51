// The outside device: its float64 oracle, and a desk that waits for it.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../../tests/oracle/rig.ts';
import { double, FRAMES, levelAt, music, sine, through, throughMoves } from '../../../tests/oracle/through.ts';
import { valuesOf } from '../index.ts';
import { outsideOracle } from './oracle.ts';

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

  it.each([
    [0, -80],
    [12, -60],
    [24, -48]
  ])('bends like tape without folding back: 9 kHz at full scale, driven by %d dB', (drive, most) => {
    const [tone] = through('outside', { unit: 2, drive, noise: -140 }, [sine(9000, 1)]);
    const settled = tone.subarray(4800);
    // 27, 45, 63, 81 and 99 kHz would be found here.
    const folded = [21000, 3000, 15000, 15000, 3000].map((frequency) => levelAt(settled, frequency));
    expect(Math.max(...folded) - levelAt(settled, 9000)).toBeLessThan(most);
  });

  it('has a spring that comes to rest while another unit is heard: nothing of before comes out of it later', () => {
    const burst = Float32Array.from({ length: 2 * RATE }, (_, i) => (i < 9600 ? 0.5 * Math.sin(i * 0.05) : 0));
    const values = { unit: 1, drive: 6, noise: -140, latency: 0, mix: 100 };
    const back = Math.round(1.2 * RATE);
    const [heard] = throughMoves(
      'outside',
      values,
      [
        [9600, { unit: 0 }],
        [back, { unit: 1 }]
      ],
      [burst, burst]
    );
    expect(Math.max(...heard.subarray(0, 9600))).toBeGreaterThan(0.1);
    expect(heard.subarray(back - 4800).every((x) => x === 0)).toBe(true);
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

// What only playing needs: going back to render again what was rendered ahead, and changes of shape without a click.
import { describe, expect, it } from 'vitest';
import { desk } from '../../tests/oracle/desk.ts';
import { carryOut, emptyDesk, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { commit } from '../session/changes.ts';
import type { Engine } from './engine.ts';
import { PERIOD } from '../kernel/period.ts';

/** As the mix worker does it: the session first, then back to about a frame, then the engine. Answers where it went back to. */
function late(engine: Engine, session: Parameters<typeof carryOut>[0], to: number, commands: readonly Command[]): number {
  const planned = planBatch(session, commands);
  if (!planned.ok) throw new Error(planned.error.message);
  commit(session, planned.value.changes);
  const back = engine.rewind(to);
  engine.update(planned.value.changes);
  return back ?? engine.rendered();
}
/** The same moves without going back. */
function onTime(engine: Engine, session: Parameters<typeof carryOut>[0], commands: readonly Command[]): void {
  const planned = planBatch(session, commands);
  if (!planned.ok) throw new Error(planned.error.message);
  commit(session, planned.value.changes);
  engine.update(planned.value.changes);
}
function periods(engine: Engine, until: number, into: number[][]): void {
  while (engine.rendered() < until) {
    const at = engine.rendered();
    engine.period();
    into[at / PERIOD] = [...engine.out(0), ...engine.out(1)];
  }
}

describe('going back', () => {
  it('renders the same samples as if the move had come in time, whatever moves and however often', () => {
    const moves: [number, Command[]][] = [
      [3100, [{ do: 'faders.set', levels: [{ id: 't3', level: -20 }] }]],
      [3900, [{ do: 'faders.set', levels: [{ id: 't3', level: -4 }] }]],
      [4700, [{ do: 'inserts.set', id: 'plate:reverb', values: { size: 40, decay: 2.5 } }]],
      [5600, [{ do: 'inserts.set', id: 'eq-t0', values: { 'b3.freq': 900, 'b3.on': 1, 'b1.slope': 4 } }]],
      [6400, [{ do: 'solos.set', ids: ['low'], on: true }]],
      [7300, [{ do: 'inserts.set', id: 'echo-delay', values: { 't1.time': 140, feedback: 20 } }]],
      [8000, [{ do: 'inserts.bypass', ids: ['lim-low', 'c-t3', 'trim-t4'], on: true }]],
      [8800, [{ do: 'solos.clear' }, { do: 'sends.set', sends: [{ source: 't3', target: 'echo', level: 3, pan: 10 }] }]],
      [9700, [{ do: 'mutes.set', ids: ['high'], on: true }]]
    ];
    const { session, recordings } = desk();
    const engine = rig(session, recordings, true, true);
    const heard: number[][] = [];
    const places: number[] = [];
    for (const [at, commands] of moves) {
      // Rendered 3000 frames ahead of where the move is meant for.
      periods(engine, at + 3000, heard);
      places.push(late(engine, session, at, commands));
    }
    periods(engine, 16_000, heard);
    for (const [i, place] of places.entries()) expect(place - moves[i][0]).toBeGreaterThanOrEqual(0);
    for (const [i, place] of places.entries()) expect(place - moves[i][0]).toBeLessThan(128);
    const other = desk();
    const reference = rig(other.session, other.recordings, true);
    const wanted: number[][] = [];
    moves.forEach(([, commands], i) => {
      periods(reference, places[i], wanted);
      onTime(reference, other.session, commands);
    });
    periods(reference, 16_000, wanted);
    wanted.forEach((samples, i) => expect(heard[i], `period ${i}`).toEqual(samples));
  });

  it('goes back as far in time at 192 kHz: rings and kept states are as long there', () => {
    const fast = () => {
      const { session, recordings } = desk();
      session.settings.set('settings', { ...session.settings.get('settings')!, rate: 192_000 });
      return { session, recordings };
    };
    // 90 ms, about what the mix worker renders ahead.
    const AHEAD = 17_280;
    const move: Command[] = [
      { do: 'inserts.set', id: 'plate:reverb', values: { decay: 3 } },
      { do: 'faders.set', levels: [{ id: 't3', level: -30 }] }
    ];
    const { session, recordings } = fast();
    const engine = rig(session, recordings, true, true);
    const heard: number[][] = [];
    periods(engine, 4096 + AHEAD, heard);
    const place = late(engine, session, 4096, move);
    expect(place - 4096).toBeLessThan(1024);
    periods(engine, 24_000, heard);
    const other = fast();
    const reference = rig(other.session, other.recordings, true);
    const wanted: number[][] = [];
    periods(reference, place, wanted);
    onTime(reference, other.session, move);
    periods(reference, 24_000, wanted);
    wanted.forEach((samples, i) => expect(heard[i], `period ${i}`).toEqual(samples));
  });

  it('goes back before a change of shape too, and not past one', () => {
    const { session, recordings } = desk();
    const engine = rig(session, recordings, true, true);
    periods(engine, 6000, []);
    const place = late(engine, session, 4000, [{ do: 'channels.route', ids: ['t3'], to: 'mix' }]);
    expect(place).toBe(4096);
    const heard: number[][] = [];
    periods(engine, 9000, heard);
    expect(engine.rewind(4000)).toBeGreaterThan(4096);
    const other = desk();
    const reference = rig(other.session, other.recordings, true);
    const wanted: number[][] = [];
    periods(reference, 4096, []);
    onTime(reference, other.session, [{ do: 'channels.route', ids: ['t3'], to: 'mix' }]);
    periods(reference, 9000, wanted);
    wanted.forEach((samples, i) => i >= 64 && expect(heard[i], `period ${i}`).toEqual(samples));
  });
});

describe('changes of shape', () => {
  it('never click: routing against the order, inserts, latency, width, removal', () => {
    const session = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: RATE * 2 }, { id: 'z' }]),
      { do: 'buses.add', id: 'b', name: 'B' },
      { do: 'buses.add', id: 'c', name: 'C' },
      { do: 'channels.route', ids: ['a'], to: 'b' },
      {
        do: 'faders.set',
        levels: [
          { id: 'a', level: -6 },
          { id: 'z', level: -Infinity }
        ]
      }
    );
    const tone = Float32Array.from({ length: RATE * 2 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 100 * i) / RATE));
    const engine = rig(session, new Map([['a', [tone]]]));
    const steps: Command[][] = [
      [
        { do: 'channels.route', ids: ['c'], to: 'b' },
        { do: 'channels.route', ids: ['a'], to: 'c' }
      ],
      [
        { do: 'channels.route', ids: ['a'], to: 'mix' },
        { do: 'channels.route', ids: ['c'], to: 'mix' },
        { do: 'channels.route', ids: ['b'], to: 'c' }
      ],
      [
        { do: 'inserts.add', id: 'x', channelId: 'a', type: 'outside' },
        { do: 'inserts.set', id: 'x', values: { latency: 1999, noise: -140 } }
      ],
      [{ do: 'inserts.set', id: 'x', values: { latency: 40 } }],
      [{ do: 'inserts.remove', id: 'x' }],
      [{ do: 'buses.add', id: 'd', name: 'D', members: ['a'] }],
      [{ do: 'buses.dissolve', ids: ['d'] }],
      [
        { do: 'chain.add', id: 'e', name: 'E' },
        { do: 'inserts.add', id: 'l', channelId: 'e', type: 'limiter' }
      ],
      [{ do: 'channels.remove', ids: ['c', 'z'] }],
      [{ do: 'channels.remove', ids: ['a'] }]
    ];
    let last = [0, 0];
    let steepest = 0;
    const listen = (frames: number) => {
      const [l, r] = play(engine, frames);
      for (let i = 0; i < l.length; i++) {
        steepest = Math.max(steepest, Math.abs(l[i] - last[0]), Math.abs(r[i] - last[1]));
        last = [l[i], r[i]];
      }
      return Math.max(...l.subarray(-1000));
    };
    listen(4800);
    const before = steepest;
    for (const commands of steps.slice(0, -1)) {
      onTime(engine, session, commands);
      expect(listen(6400)).toBeCloseTo(0.5 * Math.SQRT1_2 * 10 ** (-6 / 20), 3);
      // Of a tone cross-faded into itself at another time no step is more than a few times its own steepest.
      expect(steepest, JSON.stringify(commands)).toBeLessThan(before * 1.6);
    }
    onTime(engine, session, steps.at(-1)!);
    expect(listen(6400)).toBe(0);
    expect(steepest).toBeLessThan(before * 1.6);
  });
});

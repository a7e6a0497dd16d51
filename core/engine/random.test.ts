// The engine against the float64 oracle on random desks: any routing, taps, pans, widths, mutes, keys, lanes and
// chains of inserts; and the same samples whatever the size of the blocks.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { graphOracle } from '../../tests/oracle/graph.ts';
import { apart, carryOut, emptyDesk, noise, play, rig, RATE, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { processors, specsOf } from '../processors/index.ts';
import { commit } from '../session/changes.ts';
import type { InsertType, Session } from '../session/entities.ts';

const FRAMES = 6000;
const TRACKS = ['t0', 't1', 't2', 't3', 't4'];
const ALL = [...TRACKS, 'b0', 'b1', 'b2', 'r0', 'r1', 'mix'];

const id = fc.constantFrom(...ALL);
const track = fc.constantFrom(...TRACKS);
const bus = fc.constantFrom('b0', 'b1', 'b2', 'r0', 'r1', 'mix');
const tap = fc.constantFrom('input' as const, 'pre' as const, 'post' as const);
const level = fc.double({ min: -30, max: 3, noNaN: true });
const pan = fc.integer({ min: -100, max: 100 });

/** Most parameters at their defaults, some anywhere in their ranges. */
const settings = (type: InsertType) =>
  fc.dictionary(fc.constantFrom(...specsOf(type).keys()), fc.double({ min: 0, max: 1, noNaN: true }), { maxKeys: 5 }).map((places) =>
    Object.fromEntries(
      Object.entries(places).map(([name, place]) => {
        const { min, max, choices } = specsOf(type).get(name)!;
        return [name, choices ? Math.round(place * (choices.length - 1)) : min + place * (max - min)];
      })
    )
  );
const insert = fc
  .constantFrom(...(Object.keys(processors) as InsertType[]))
  .chain((type) => fc.record({ type: fc.constant(type), on: id, values: settings(type), key: fc.option(fc.record({ source: id, tap })) }));
const desks = fc.record({
  widths: fc.array(fc.constantFrom(1 as const, 2 as const), { minLength: 5, maxLength: 5 }),
  routes: fc.array(fc.record({ from: id, to: bus }), { maxLength: 8 }),
  sends: fc.array(fc.record({ source: id, target: bus, level, tap, mono: fc.boolean(), pan: fc.option(pan), on: fc.boolean() }), {
    maxLength: 8
  }),
  faders: fc.array(fc.record({ id, level }), { minLength: 1, maxLength: 8 }),
  pans: fc.array(fc.record({ id, pan, right: fc.option(pan), spread: fc.constantFrom(100, 100, 0, 130) }), { minLength: 1, maxLength: 6 }),
  muted: fc.option(track),
  turned: fc.option(id),
  /** What stands first on every track: these go through lanes together, and hand them on. */
  rack: fc.array(
    fc
      .constantFrom('eq' as const, 'comp' as const, 'trim' as const)
      .chain((type) => fc.record({ type: fc.constant(type), values: settings(type) })),
    { maxLength: 3 }
  ),
  inserts: fc.array(insert, { maxLength: 6 }),
  lanes: fc.array(
    fc.record({
      channelId: id,
      of: fc.constantFrom('fader', 'faderTrim', 'pan', 'panRight', 'spread', 'mute', 'sendLevel', 'sendTrim', 'sendOn'),
      points: fc.uniqueArray(fc.nat(FRAMES - 1), { minLength: 1, maxLength: 12 }).chain((at) =>
        fc.tuple(
          ...at
            .sort((a, b) => a - b)
            .map((each) =>
              fc.record({
                at: fc.constant(each),
                place: fc.double({ min: 0, max: 1, noNaN: true }),
                shape: fc.constantFrom('hold', 'linear', 'eased')
              })
            )
        )
      )
    }),
    { maxLength: 8 }
  )
});

/** What a place 0 … 1 stands for in a lane. */
const valueIn = (of: string, place: number): number => {
  if (of === 'spread') return Math.round(place * 200);
  if (of === 'pan' || of === 'panRight') return Math.round(place * 200 - 100);
  if (of === 'mute' || of === 'sendOn') return Math.round(place);
  return place < 0.1 ? -Infinity : Math.round((-30 + place * 33) * 100) / 100;
};

/** What the rules refuse, a loop for one, is left away. */
function attempt(session: Session, ...commands: Command[]): void {
  for (const command of commands) {
    const planned = planBatch(session, [command]);
    if (planned.ok) commit(session, planned.value.changes);
  }
}

function made(desk: typeof desks extends fc.Arbitrary<infer T> ? T : never): Session {
  const session = carryOut(
    emptyDesk(),
    trackCommand(TRACKS.map((name, i) => ({ id: name, width: desk.widths[i], frames: FRAMES }))),
    ...['b0', 'b1', 'b2'].map((name): Command => ({ do: 'buses.add', id: name, name })),
    ...['r0', 'r1'].map((name): Command => ({ do: 'returns.add', id: name, name, effect: 'none' }))
  );
  attempt(
    session,
    ...desk.routes.map(({ from, to }): Command => ({ do: 'channels.route', ids: [from], to })),
    ...desk.sends.map((send): Command => ({ do: 'sends.set', sends: [send] })),
    { do: 'faders.set', levels: desk.faders },
    ...(desk.muted ? [{ do: 'mutes.set', ids: [desk.muted], on: true } as Command] : []),
    ...(desk.turned ? [{ do: 'polarities.set', ids: [desk.turned], on: true } as Command] : []),
    ...TRACKS.flatMap((channelId) =>
      desk.rack.flatMap(({ type, values }, i): Command[] => [
        { do: 'inserts.add', id: `${channelId}:${i}`, channelId, type },
        { do: 'inserts.set', id: `${channelId}:${i}`, values }
      ])
    ),
    ...desk.inserts.flatMap(({ type, on, values, key }, i): Command[] => [
      { do: 'inserts.add', id: `i${i}`, channelId: on, type },
      { do: 'inserts.set', id: `i${i}`, values },
      ...(key ? [{ do: 'inserts.key', id: `i${i}`, ...key } as Command] : [])
    ]),
    // Pins and width are for what leaves in stereo: once it is known what does.
    { do: 'pans.set', pans: desk.pans },
    ...desk.lanes.flatMap(({ channelId, of, points }, i): Command[] => [
      {
        do: 'lanes.add',
        id: `l${i}`,
        channelId,
        of: of as 'fader',
        target: [...session.send.values()].find(({ sourceId }) => sourceId === channelId)?.targetId
      },
      {
        do: 'points.set',
        lane: `l${i}`,
        points: points.map(({ at, place, shape }) => ({
          at,
          value: valueIn(of, place),
          shape: (of === 'mute' || of === 'sendOn' ? 'hold' : shape) as 'hold'
        }))
      }
    ])
  );
  return session;
}

it('is the oracle’s sum within −110 dB of its peak on any desk, in blocks of any size', () => {
  fc.assert(
    fc.property(desks, fc.constantFrom(64, 100, 1024), (desk, block) => {
      const session = made(desk);
      const recordings = new Map(
        TRACKS.map((name, i) => [name, Array.from({ length: desk.widths[i] }, (_, c) => noise(FRAMES, i * 2 + c + 1))])
      );
      const wanted = graphOracle(session, recordings, FRAMES, RATE);
      const heard = play(rig(session, recordings, false), FRAMES, block);
      let peak = 0.25;
      for (const side of wanted) for (const x of side) peak = Math.max(peak, Math.abs(x));
      const off = Math.max(apart(heard[0], wanted[0]), apart(heard[1], wanted[1])) - 20 * Math.log10(peak);
      expect(off).toBeLessThan(-110);
    }),
    { numRuns: 24, seed: 9 }
  );
});

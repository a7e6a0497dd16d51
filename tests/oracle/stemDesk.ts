// Desks of three stems with insides, a shared effects stem and a chain of two stages, at random; and what is printed of them.
import fc from 'fast-check';
import type { Command } from '../../core/commands/index.ts';
import { planBatch } from '../../core/commands/plan.ts';
import type { Pcm } from '../../core/engine/engine.ts';
import { plannedFiles, readOrder, type FileOrder, type PlannedFile, type Tail } from '../../core/prints/order.ts';
import type { Pass } from '../../core/prints/passes.ts';
import { renderPass, spanOf, type Span } from '../../core/prints/render.ts';
import { commit } from '../../core/session/changes.ts';
import type { Session } from '../../core/session/entities.ts';
import { apart, carryOut, emptyDesk, module, noise, trackCommand } from './rig.ts';

export const FRAMES = 5000;
const widths = { t0: 1, t1: 2, t2: 1, t3: 1, t4: 2 } as const;
export const recordings = new Map<string, Float32Array[]>(
  Object.entries(widths).map(([id, width], i) => [`m-${id}`, Array.from({ length: width }, (_, side) => noise(FRAMES, i * 2 + side + 1))])
);
export const pcmOf =
  (from: ReadonlyMap<string, readonly Float32Array[]>): Pcm =>
  (media, channel, at, into) => {
    const samples = from.get(media)?.[channel];
    if (samples && at + into.length > 0) into.set(samples.subarray(Math.max(0, at), at + into.length), Math.max(0, -at));
  };

/** Three stems with insides, a shared effects stem, a chain of two stages. */
export const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand(Object.entries(widths).map(([id, width]) => ({ id, width, frames: FRAMES }))),
    { do: 'buses.add', id: 'a', name: 'A', members: ['t0', 't1'] },
    { do: 'buses.add', id: 'b', name: 'B', members: ['t2'] },
    { do: 'buses.add', id: 'c', name: 'C', members: ['t3', 't4'] },
    { do: 'buses.add', id: 'inner', name: 'INNER', members: ['t3'] },
    { do: 'channels.route', ids: ['inner'], to: 'c' },
    { do: 'returns.add', id: 'room', name: 'Room', outputId: 'a', sources: ['t0'] },
    { do: 'buses.add', id: 'fx', name: 'FX' },
    { do: 'returns.add', id: 'hall', name: 'Hall', outputId: 'fx', sources: ['t1', 't2'] },
    {
      do: 'sends.set',
      sends: [
        { source: 't0', target: 'room', level: -6 },
        { source: 't1', target: 'hall', level: -9 },
        { source: 't2', target: 'hall', level: -12 }
      ]
    },
    { do: 'inserts.add', id: 'late', channelId: 't2', type: 'outside' },
    { do: 'inserts.set', id: 'late', values: { latency: 333, noise: -140 } },
    { do: 'inserts.add', id: 'glue', channelId: 'mix', type: 'comp' },
    { do: 'inserts.set', id: 'glue', values: { threshold: -30, ratio: 3 } },
    { do: 'chain.add', id: 'last', name: 'LAST' },
    { do: 'inserts.add', id: 'lim', channelId: 'last', type: 'limiter' },
    { do: 'stems.set', ids: ['a', 'b', 'c'], on: true },
    { do: 'stems.set', ids: ['fx'], on: true, common: true }
  );

const track = fc.constantFrom(...Object.keys(widths));
const inside = fc.constantFrom(...Object.keys(widths), 'a', 'b', 'c', 'inner', 'room', 'hall', 'fx');
const chain = fc.constantFrom('mix', 'last');
const level = fc.double({ min: -20, max: 6, noNaN: true });
/** A lane with its points, as two commands. */
const lanes = fc
  .record({
    id: fc.constantFrom('l1', 'l2', 'l3', 'l4'),
    channelId: fc.oneof(inside, chain, fc.constantFrom('v1', 'v2')),
    of: fc.constantFrom('fader', 'faderTrim', 'mute', 'pan', 'spread', 'sendLevel', 'sendOn', 'bypass', 'param'),
    at: fc.uniqueArray(fc.nat(FRAMES), { minLength: 1, maxLength: 5 }),
    places: fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 5, maxLength: 5 }),
    shape: fc.constantFrom('hold', 'linear', 'eased')
  })
  .map(({ id, channelId, of, at, places, shape }): Command[] => {
    const steps = of === 'mute' || of === 'sendOn' || of === 'bypass';
    const value = (place: number) =>
      steps
        ? Math.round(place)
        : of === 'pan'
          ? place * 100 - 50
          : of === 'spread'
            ? place * 150
            : of === 'param'
              ? -40 + 30 * place
              : place * 24 - 20;
    return [
      {
        do: 'lanes.add',
        ...{ id, channelId, of: of as 'fader', target: channelId === 't0' ? 'room' : 'hall' },
        ...(channelId === 'last' ? { insertId: 'lim', param: 'ceiling' } : { insertId: 'glue', param: 'threshold' })
      },
      {
        do: 'points.set',
        lane: id,
        points: at
          .sort((a, b) => a - b)
          .map((frame, i) => ({
            at: frame,
            value: of === 'param' && channelId === 'last' ? places[i] * -6 : value(places[i]),
            shape: steps ? 'hold' : (shape as 'hold')
          }))
      }
    ];
  });

/** What makes desks differ and leaves the stems sound. */
export const moves = fc
  .array<Command | Command[]>(
    fc.oneof(
      fc.record({
        do: fc.constant('faders.set' as const),
        levels: fc.array(fc.record({ id: fc.oneof(inside, chain), level }), { minLength: 1, maxLength: 3 })
      }),
      fc.record({
        do: fc.constant('trims.set' as const),
        levels: fc.array(fc.record({ id: fc.oneof(inside, chain), level }), { minLength: 1, maxLength: 2 })
      }),
      fc.record({
        do: fc.constant('pans.set' as const),
        pans: fc.array(
          fc.record({ id: fc.oneof(inside, chain), pan: fc.integer({ min: -100, max: 100 }), spread: fc.constantFrom(100, 100, 40) }),
          { minLength: 1, maxLength: 2 }
        )
      }),
      fc.record({ do: fc.constant('mutes.set' as const), ids: fc.array(inside, { minLength: 1, maxLength: 2 }), on: fc.boolean() }),
      fc.record({
        do: fc.constant('polarities.set' as const),
        ids: fc.array(fc.oneof(inside, chain), { minLength: 1, maxLength: 2 }),
        on: fc.boolean()
      }),
      fc.record({
        do: fc.constant('widths.set' as const),
        ids: fc.constantFrom('mix', 'a', 'last', 'fx').map((id) => [id]),
        width: fc.constantFrom(1 as const, 2 as const)
      }),
      fc.record({
        do: fc.constant('inserts.add' as const),
        id: fc.constantFrom('i1', 'i2'),
        channelId: fc.oneof(inside, chain),
        type: fc.constantFrom('eq', 'comp', 'limiter', 'delay', 'outside', 'trim')
      }),
      fc.record({
        do: fc.constant('inserts.key' as const),
        id: fc.constant('glue'),
        source: fc.option(track),
        tap: fc.constantFrom('input' as const, 'pre' as const, 'post' as const)
      }),
      fc.record({
        do: fc.constant('fades.set' as const),
        in: fc.record({ frames: fc.nat(2000), curve: fc.constantFrom('linear' as const, 'power' as const) }),
        out: fc.record({ frames: fc.nat(4000), curve: fc.constantFrom('slow' as const, 'fast' as const) })
      }),
      lanes,
      fc.record({
        do: fc.constant('vcas.add' as const),
        id: fc.constantFrom('v1', 'v2'),
        name: fc.constant('V'),
        members: fc.array(fc.oneof(inside, fc.constant('mix')), { minLength: 1, maxLength: 3 })
      })
    ),
    { maxLength: 8 }
  )
  .map((list) => list.flat());

export function attempt(session: Session, commands: readonly Command[]): Session {
  for (const command of commands) {
    const planned = planBatch(session, [command]);
    if (planned.ok) commit(session, planned.value.changes);
  }
  return session;
}
export function files(session: Session, ...asked: FileOrder[]): PlannedFile[] {
  const order = readOrder({ files: asked, tail: 'none' });
  if (!order.ok) throw new Error(order.error.message);
  const planned = plannedFiles(session, order.value);
  if (!planned.ok) throw new Error(planned.error.message);
  return planned.value;
}
export type Sides = [Float32Array, Float32Array];
export function rendered(pass: Pass, pcm: Pcm, span: Span = spanOf(pass, { preRoll: null }, null), tail: Tail = 'none'): Sides[] {
  const parts: Sides[][] = pass.outlets.map(() => []);
  for (const { sides } of renderPass(module, pass, pcm, span, tail, 1000))
    sides.forEach(([l, r], i) => parts[i].push([l.slice(), r.slice()]));
  return parts.map((own) => [0, 1].map((side) => Float32Array.from(own.flatMap((part) => [...part[side]]))) as Sides);
}
/** Peak of the difference, dBFS. */
export const farApart = (a: Sides, b: Sides) => Math.max(apart(a[0], b[0]), apart(a[1], b[1]));
/** Left to right as the engine adds: in float32. */
export const summed = (stems: readonly Sides[]): Sides =>
  [0, 1].map((side) => stems.reduce((sum, stem) => sum.map((x, i) => Math.fround(x + stem[side][i])), new Float32Array(FRAMES))) as Sides;

// Prints on random desks: stems add up to what comes into the mix bus, the chain makes of their sum the mix, a version that changes
// nothing is the mix, and one that does is what the session would be: all to the bit.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, module, noise, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import type { Engine, Pcm } from '../engine/engine.ts';
import { shareRing, type Share } from '../engine/share.ts';
import { topologyOf } from '../engine/topology.ts';
import { levelOf } from '../routing/level.ts';
import { commit } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { judgeStems } from '../stems/soundness.ts';
import { AS_MIXED, chainAlone, keyFiles, keyName, SUM, waitOf } from './chainAlone.ts';
import { plannedFiles, readOrder, type FileOrder, type PlannedFile } from './order.ts';
import { passesOf, type Pass } from './passes.ts';
import { crossingOf, engineOf, renderPass, spanOf, type Span } from './render.ts';

const FRAMES = 5000;
const widths = { t0: 1, t1: 2, t2: 1, t3: 1, t4: 2 } as const;
const recordings = new Map<string, Float32Array[]>(
  Object.entries(widths).map(([id, width], i) => [`m-${id}`, Array.from({ length: width }, (_, side) => noise(FRAMES, i * 2 + side + 1))])
);
const pcmOf =
  (from: ReadonlyMap<string, readonly Float32Array[]>): Pcm =>
  (media, channel, at, into) => {
    const samples = from.get(media)?.[channel];
    if (samples && at + into.length > 0) into.set(samples.subarray(Math.max(0, at), at + into.length), Math.max(0, -at));
  };

/** Three stems with insides, a shared effects stem, a chain of two stages. */
const desk = (): Session =>
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
/** What makes desks differ and leaves the stems sound. */
const moves = fc.array(
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
    fc.record({
      do: fc.constant('vcas.add' as const),
      id: fc.constantFrom('v1', 'v2'),
      name: fc.constant('V'),
      members: fc.array(fc.oneof(inside, fc.constant('mix')), { minLength: 1, maxLength: 3 })
    })
  ),
  { maxLength: 8 }
);

function attempt(session: Session, commands: readonly Command[]): Session {
  for (const command of commands) {
    const planned = planBatch(session, [command]);
    if (planned.ok) commit(session, planned.value.changes);
  }
  return session;
}
function files(session: Session, ...asked: FileOrder[]): PlannedFile[] {
  const order = readOrder({ files: asked, tail: 'none' });
  if (!order.ok) throw new Error(order.error.message);
  const planned = plannedFiles(session, order.value);
  if (!planned.ok) throw new Error(planned.error.message);
  return planned.value;
}
type Sides = [Float32Array, Float32Array];
function rendered(pass: Pass, pcm: Pcm, span: Span = spanOf(pass, { preRoll: null }, null)): Sides[] {
  const parts: Sides[][] = pass.outlets.map(() => []);
  for (const { sides } of renderPass(module, pass, pcm, span, 'none', 1000))
    sides.forEach(([l, r], i) => parts[i].push([l.slice(), r.slice()]));
  return parts.map((own) => [0, 1].map((side) => Float32Array.from(own.flatMap((part) => [...part[side]]))) as Sides);
}
/** Peak of the difference, dBFS. */
const farApart = (a: Sides, b: Sides) => Math.max(apart(a[0], b[0]), apart(a[1], b[1]));
/** Left to right as the engine adds: in float32. */
const summed = (stems: readonly Sides[]): Sides =>
  [0, 1].map((side) => stems.reduce((sum, stem) => sum.map((x, i) => Math.fround(x + stem[side][i])), new Float32Array(FRAMES))) as Sides;

describe('one pass', () => {
  it('gives stems that add up to the mix-bus input, and a chain that makes the mix of their sum, to the bit', () => {
    fc.assert(
      fc.property(moves, (commands) => {
        const session = attempt(desk(), commands);
        expect(judgeStems(session).sound).toBe(true);
        const wanted = [...files(session, { kind: 'stem' }, { kind: 'input' }, { kind: 'mix' }), ...keyFiles(session)];
        const [pass, ...more] = passesOf(session, wanted);
        expect(more).toEqual([]);
        const takes = rendered(pass, pcmOf(recordings));
        const sum = summed(takes.slice(0, 4));
        expect(sum).toEqual(takes[4]);
        const alone = chainAlone(session, AS_MIXED, FRAMES * 2);
        const wait = waitOf(module, pass, alone, pass.outlets[5].id);
        const feeds = new Map<string, Sides>([[SUM, sum]]);
        wanted.slice(6).forEach(({ id, tap }, i) => feeds.set(keyName(id, tap), takes[6 + i]));
        const pcm: Pcm = (media, channel, at, into) => pcmOf(feeds)(media, channel, at - wait, into);
        const span = { start: 0, from: wait, to: wait + FRAMES, fadesAt: { late: wait, end: FRAMES } };
        const again = rendered(alone, pcm, span)[0];
        // A noise floor sounds before the first frame too, which the chain hears and no file holds.
        const noisy = [...session.insert.values()].some(({ type, params }) => type === 'outside' && (params.noise ?? -110) > -140);
        if (noisy) expect(farApart(again, takes[5])).toBeLessThan(-115);
        else expect(again).toEqual(takes[5]);
      }),
      { numRuns: 20 }
    );
  });

  it('gives of each version what the session would be, were its chain and stems like that', () => {
    fc.assert(
      fc.property(
        moves,
        fc.constantFrom('a', 'b', 'c', 'fx'),
        fc.constantFrom(3, -6, '-inf' as const),
        fc.boolean(),
        fc.boolean(),
        (commands, stem, by, fader, fades) => {
          const session = attempt(desk(), commands);
          // No key listens to a stem, and none is at an end that a level would pass.
          const level = session.channel.get(stem)!.faderDb + (by === '-inf' ? -Infinity : by);
          carryOut(
            session,
            { do: 'versions.add', id: 'same', name: 'Same' },
            { do: 'versions.add', id: 'v', name: 'V', stems: { [stem]: by }, inserts: { lim: false }, fader, fades },
            { do: 'versions.add', id: 'apart', name: 'Apart', channels: [{ id: 't3', mute: true }] }
          );
          const wanted = files(session, { kind: 'mix' }, { kind: 'version' });
          const passes = passesOf(session, wanted);
          expect(passes.map(({ outlets }) => outlets.map(({ file }) => file))).toEqual([[0, 1, 2], [3]]);
          const [mix, same, version] = rendered(passes[0], pcmOf(recordings));
          expect(same).toEqual(mix);
          const [muted] = rendered(passes[1], pcmOf(recordings));
          const mixOf = (of: Session) => rendered(passesOf(of, files(of, { kind: 'mix' }))[0], pcmOf(recordings))[0];
          const changed = (...more: Command[]) => {
            const copy: Session = {
              ...session,
              channel: new Map(session.channel),
              insert: new Map(session.insert),
              settings: new Map(session.settings)
            };
            return carryOut(copy, ...more);
          };
          expect(muted).toEqual(mixOf(changed({ do: 'mutes.set', ids: ['t3'], on: true, alone: true })));
          const other = changed(
            { do: 'inserts.bypass', ids: ['lim'], on: true },
            ...(fades
              ? []
              : [{ do: 'fades.set' as const, in: { frames: 0, curve: 'linear' as const }, out: { frames: 0, curve: 'linear' as const } }])
          );
          const row = other.channel.get(stem)!;
          other.channel.set(stem, { ...row, faderDb: level });
          if (!fader) {
            const held = levelOf(other, other.channel.get('mix')!) - other.channel.get('mix')!.faderDb;
            other.channel.set('mix', { ...other.channel.get('mix')!, faderDb: -held });
          }
          // A level on the edge and one in the fader are two roundings.
          expect(farApart(version, mixOf(other))).toBeLessThan(-100);
        }
      ),
      { numRuns: 14 }
    );
  });

  it('is the same to the bit in two shares, wherever it is cut', () => {
    fc.assert(
      fc.property(moves, fc.double({ min: 0, max: 1, noNaN: true }), (commands, place) => {
        const session = attempt(desk(), commands);
        carryOut(session, { do: 'versions.add', id: 'v', name: 'V', stems: { a: '-inf' } });
        const wanted = files(
          session,
          { kind: 'stem' },
          { kind: 'input' },
          { kind: 'mix' },
          { kind: 'version' },
          { kind: 'raw' },
          { kind: 'dry' }
        );
        const [pass] = passesOf(session, wanted);
        const { strips } = topologyOf(pass.session);
        // Any beginning of an order in which what feeds comes first.
        const first = new Set(strips.slice(0, 1 + Math.floor(place * (strips.length - 2))).map(({ channel }) => channel.id));
        const ring = shareRing(crossingOf(module, pass, first));
        const engine = (share?: Share) => engineOf(module, pass, pcmOf(recordings), { to: FRAMES, share });
        const [whole, ahead, behind] = [engine(), engine({ part: 0, first, ring }), engine({ part: 1, first, ring })];
        const heard = (of: Engine) => pass.outlets.map(({ id, tap }) => [0, 1].map((side) => of.tap(id, side as 0 | 1, tap)));
        // In one thread: by turns, as far as the ring lets the first go ahead.
        for (let period = 0; period < FRAMES / 64; period++) {
          if (period % 4 === 0) for (let i = 0; i < 4; i++) ahead.period();
          behind.period();
          whole.period();
          expect(heard(behind)).toEqual(heard(whole));
        }
      }),
      { numRuns: 8 }
    );
  });
});

// What holds for any sequence of commands, sensible or not: it is taken back by its undos, closes no loop, contradicts nothing, and
// survives the wire; and whatever arguments a command is given, it answers in words.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { allEdges, successors, way } from '../routing/graph.ts';
import { checkSession } from '../session/check.ts';
import { commit, decodeChanges, encodeChanges, inverse, merge, type Change } from '../session/changes.ts';
import { decodeSession, encodeSession, type SessionDocument } from '../session/tables.ts';
import { commands, type Command } from './index.ts';
import { plan } from './plan.ts';

const desk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b', width: 2 }, { id: 'c' }, { id: 'd' }]),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['b', 'c'] },
    { do: 'returns.add', id: 'ret', name: 'Room' }
  );
/** Recordings for tracks that may or may not stand ready for one. */
const recordings = (['a', 'bus', 'x1'] as const).map((id) =>
  (trackCommand([{ id, frames: 100 }]) as unknown as { tracks: { id: string; media: never }[] }).tracks.map(({ media }) => ({ id, media }))
);

/** Commands over a small fixed set of ids, sensible or not. */
const anyCommand = (): fc.Arbitrary<Command> => {
  const id = fc.constantFrom('a', 'b', 'c', 'd', 'bus', 'ret', 'x1', 'x2', 'mix');
  const some = fc.uniqueArray(id, { minLength: 1, maxLength: 4 });
  const tap = fc.constantFrom('input' as const, 'pre' as const, 'post' as const);
  const level = fc.oneof(fc.constant(-Infinity), fc.double({ min: -150, max: 30, noNaN: true }));
  const fresh = fc.constantFrom('x1', 'x2');
  const name = fc.constantFrom('X', 'Y', ' padded ', '');
  const hue = fc.double({ min: -1, max: 13, noNaN: true });
  const insert = fc.constantFrom('i1', 'i2', 'ret:reverb');
  const set = fc.constantFrom('s1', 's2');
  const pulse = fc.record({
    of: fc.constant('pulse' as const),
    every: fc.constantFrom(1, 0.5, 0.3),
    accentDb: fc.constant(0),
    levelDb: level,
    length: fc.integer({ min: -1, max: 20_000 }),
    decay: fc.constant(80)
  });
  return fc.oneof(
    fc.record({ do: fc.constant('buses.add' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('X'), members: some }),
    fc.record({ do: fc.constant('returns.add' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('R'), sources: some }),
    fc.record({ do: fc.constant('channels.remove' as const), ids: some }),
    fc.record({ do: fc.constant('channels.route' as const), ids: some, to: fc.option(id) }),
    fc.record({ do: fc.constant('channels.move' as const), ids: some, before: fc.option(id) }),
    fc.record({
      do: fc.constant('sends.set' as const),
      sends: fc.array(
        fc.record({ source: id, target: id, level, tap, mono: fc.boolean(), pan: fc.option(fc.integer({ min: -200, max: 200 })) }),
        {
          minLength: 1,
          maxLength: 3
        }
      )
    }),
    fc.record({ do: fc.constant('faders.set' as const), levels: fc.array(fc.record({ id, level }), { minLength: 1, maxLength: 3 }) }),
    fc.record({ do: fc.constant('inserts.key' as const), id: fc.constantFrom('i1', 'i2'), source: fc.option(id), tap }),
    fc.record({ do: fc.constant('trims.set' as const), levels: fc.array(fc.record({ id, level }), { minLength: 1, maxLength: 3 }) }),
    fc.record({ do: fc.constantFrom('mutes.set' as const, 'rests.set' as const, 'hides.set' as const), ids: some, on: fc.boolean() }),
    fc.record({ do: fc.constant('tracks.pair' as const), left: id, right: id }),
    fc.record({ do: fc.constant('buses.insert' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('I'), into: id }),
    fc.record({ do: fc.constant('buses.dissolve' as const), ids: some, gain: fc.constantFrom('commit' as const, 'drop' as const) }),
    fc.record({ do: fc.constant('chain.add' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('STAGE') }),
    fc.record({
      do: fc.constant('channels.duplicate' as const),
      ids: some,
      as: fc.constantFrom('x1', 'y1'),
      branch: fc.boolean(),
      sends: fc.boolean()
    }),
    fc.record({ do: fc.constant('returns.parallel' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('P'), sources: some }),
    fc.record({ do: fc.constant('returns.drive' as const), id, by: fc.integer({ min: -30, max: 30 }) }),
    fc.record({
      do: fc.constant('returns.twin' as const),
      id,
      twins: fc.array(fc.record({ id: fc.constantFrom('x1', 'x2'), bus: id }), { minLength: 1, maxLength: 2 })
    }),
    fc.record({ do: fc.constant('returns.merge' as const), ids: some, to: fc.constantFrom('mix', 'bus') }),
    fc.record({
      do: fc.constant('cues.add' as const),
      id: fc.constantFrom('x1', 'x2'),
      name: fc.constant('Cue'),
      from: fc.constantFrom('mix' as const, 'nothing' as const)
    }),
    fc.record({ do: fc.constantFrom('clicks.add' as const, 'keys.add' as const), id: fc.constantFrom('x1', 'x2'), name: fc.constant('K') }),
    fc.record({ do: fc.constant('cues.share' as const), id, token: fc.constant('a-token-of-some-length') }),
    fc.record({
      do: fc.constant('sends.tap' as const),
      sends: fc.array(fc.record({ source: id, target: id }), { minLength: 1, maxLength: 2 }),
      tap,
      keep: fc.boolean()
    }),
    fc.record({
      do: fc.constant('pans.set' as const),
      pans: fc.array(
        fc.record({
          id,
          pan: fc.integer({ min: -120, max: 120 }),
          right: fc.option(fc.integer({ min: -100, max: 100 })),
          spread: fc.nat(250)
        }),
        { minLength: 1, maxLength: 2 }
      )
    }),
    fc.record({ do: fc.constant('widths.set' as const), ids: some, width: fc.constantFrom(1 as const, 2 as const) }),
    fc.record({ do: fc.constant('tracks.key' as const), ids: some, on: fc.boolean() }),
    fc.record({ do: fc.constantFrom('solos.clear' as const, 'solos.recall' as const) }),
    fc.record({ do: fc.constantFrom('solos.set' as const, 'pins.set' as const), ids: some, on: fc.boolean() }),
    fc.record({ do: fc.constant('columns.order' as const), ids: some }),
    fc.record({ do: fc.constant('inserts.copy' as const), id: fc.constantFrom('i1', 'i2'), to: some, as: fc.constant('i2') }),
    fc.record({ do: fc.constant('tracks.split' as const), id, right: fc.constantFrom('x1', 'x2') }),
    fc.record({ do: fc.constant('channels.order' as const), ids: some }),
    fc.record({
      do: fc.constant('dividers.set' as const),
      id: fc.constantFrom('y1', 'y2'),
      caption: fc.constant('Y'),
      before: fc.option(id)
    }),
    fc.record({
      do: fc.constant('channels.colour' as const),
      ids: some,
      colour: fc.integer({ min: 0, max: 47 }).map((n) => n / 4),
      auto: fc.boolean()
    }),
    fc.record({
      do: fc.constant('inserts.add' as const),
      id: fc.constantFrom('i1', 'i2'),
      channelId: id,
      type: fc.constantFrom(
        'eq' as const,
        'comp' as const,
        'limiter' as const,
        'trim' as const,
        'delay' as const,
        'reverb' as const,
        'outside' as const
      )
    }),
    fc.record({
      do: fc.constantFrom(
        ...(['solos.set', 'safes.set', 'pins.set', 'polarities.set', 'columns.hide', 'tracks.key'] as const),
        ...(['mutes.set', 'rests.set', 'hides.set'] as const)
      ),
      ids: some,
      on: fc.boolean()
    }),
    fc.record({ do: fc.constantFrom('solos.clear' as const, 'solos.recall' as const) }),
    fc.record({ do: fc.constant('channels.rename' as const), names: fc.array(fc.record({ id, name }), { minLength: 1, maxLength: 3 }) }),
    fc.record({ do: fc.constant('roles.set' as const), ids: some, role: fc.constantFrom('drum' as const, 'voice' as const, '' as const) }),
    fc.record({
      do: fc.constant('colours.set' as const),
      colours: fc.array(fc.record({ id, colour: hue }), { minLength: 1, maxLength: 3 })
    }),
    fc.record({ do: fc.constant('keys.add' as const), id: fresh, name }),
    fc.record({ do: fc.constant('clicks.add' as const), id: fresh, name }),
    fc.record({ do: fc.constant('patterns.set' as const), id, pattern: fc.option(pulse) }),
    fc.record({ do: fc.constant('sends.remove' as const), sources: some, target: id }),
    fc.record({ do: fc.constant('inserts.remove' as const), id: insert }),
    fc.record({ do: fc.constant('inserts.bypass' as const), ids: fc.uniqueArray(insert, { minLength: 1 }), on: fc.boolean() }),
    fc.record({ do: fc.constant('inserts.move' as const), id: insert, before: fc.option(insert) }),
    fc.record({
      do: fc.constant('inserts.set' as const),
      id: insert,
      values: fc.dictionary(fc.constantFrom('threshold', 'mix', 'b1.on', 't1.time', 'nothing'), fc.double({ noNaN: true }), { minKeys: 1 })
    }),
    fc.record({ do: fc.constant('settings.set' as const), bpm: fc.double({ noNaN: true }) }),
    fc.record({ do: fc.constant('settings.set' as const), name, soloDimDb: fc.option(level) }) as fc.Arbitrary<never>,
    fc.record({ do: fc.constant('dividers.remove' as const), ids: fc.uniqueArray(fc.constantFrom('y1', 'y2'), { minLength: 1 }) }),
    fc.record({ do: fc.constant('showings.save' as const), id: set, number: fc.integer({ min: 0, max: 10 }), name, ids: some }),
    fc.record({ do: fc.constant('showings.recall' as const), id: set }),
    fc.record({ do: fc.constant('showings.remove' as const), ids: fc.uniqueArray(set, { minLength: 1 }) }),
    fc.record({ do: fc.constant('cues.unshare' as const), ids: some }),
    fc.record({ do: fc.constant('tracks.fill' as const), tracks: fc.constantFrom(...recordings) })
  );
};

const sorted = (document: SessionDocument) =>
  Object.entries(document).map(([table, rows]) => [table, rows.map((row) => JSON.stringify(Object.entries(row).sort())).sort()]);

describe('any sequence of commands', () => {
  it('is taken back by its undos, never closes a loop, and survives the wire', () => {
    fc.assert(
      fc.property(fc.array(anyCommand(), { maxLength: 25 }), (commands) => {
        const session = desk();
        const start = encodeSession(session);
        const undos: Change[][] = [];
        let whole: Change[] = [];
        for (const command of commands) {
          const before = encodeSession(session);
          const planned = plan(session, command);
          // Rows may stand elsewhere in their maps: no sum and no view goes by that.
          expect(sorted(encodeSession(session))).toEqual(sorted(before));
          if (!planned.ok) continue;
          const wire = decodeChanges(JSON.parse(JSON.stringify(encodeChanges(planned.value.changes))) as Change[]);
          expect(wire).toEqual(planned.value.changes);
          undos.push(commit(session, wire));
          whole = merge(whole, wire);
          const next = successors(allEdges(session));
          for (const { from, to } of allEdges(session)) expect(way(next, to, from)).toBeNull();
          expect(checkSession(session).ok).toBe(true);
        }
        const end = encodeSession(session);
        expect(encodeSession(decodeSession(JSON.parse(JSON.stringify(end)) as typeof end))).toEqual(end);
        // The merged list takes the whole sequence back at once, as the last undo of each would one by one.
        const merged = decodeSession(end);
        commit(merged, inverse(whole));
        expect(sorted(encodeSession(merged))).toEqual(sorted(start));
        for (const undo of undos.reverse()) commit(session, undo);
        expect(sorted(encodeSession(session))).toEqual(sorted(start));
      }),
      { numRuns: 500, seed: 7 }
    );
  });
});

describe('any arguments', () => {
  const names = Object.keys(commands) as (keyof typeof commands)[];
  const everything = () => encodeSession(desk());

  it('of every command are either right or refused in words; nothing throws, nothing is half done', () => {
    const session = desk();
    const before = everything();
    // Fields that commands have, with what belongs there and what does not.
    const value = fc.oneof(
      ...[fc.constantFrom('a', 'bus', 'ret', 'mix', 'gone', '', '-inf'), fc.integer(), fc.double(), fc.boolean(), fc.constant(null)],
      fc.array(fc.constantFrom('a', 'bus', 'gone', 3, null), { maxLength: 3 }),
      fc.array(
        fc.record(
          { id: fc.constantFrom('a', 'gone'), source: fc.constant('a'), target: fc.constant('ret'), level: fc.jsonValue() },
          { noNullPrototype: true }
        )
      ),
      fc.jsonValue()
    );
    const field = fc.constantFrom(
      ...['id', 'ids', 'to', 'name', 'names', 'levels', 'sends', 'pans', 'pair', 'pattern', 'tracks', 'values', 'type', 'channelId'],
      ...['members', 'into', 'sources', 'target', 'source', 'tap', 'before', 'on', 'colour', 'role', 'as', 'twins', 'token', 'caption']
    );
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.dictionary(field, value, { maxKeys: 6, noNullPrototype: true }), (name, given) => {
        const planned = plan(session, { ...given, do: name } as unknown as Command);
        if (!planned.ok) expect(planned.error.message).toMatch(/\S+ .*\S/s);
        else JSON.stringify(encodeChanges(planned.value.changes));
        expect(encodeSession(session)).toEqual(before);
      }),
      { numRuns: 4000, seed: 11 }
    );
  });

  it('each command is among those that sequences are made of', () => {
    const made = new Set(fc.sample(anyCommand(), { numRuns: 6000, seed: 3 }).map((command) => command.do));
    // A batch’s name changes nothing; recordings come in with a file.
    expect(names.filter((name) => !made.has(name))).toEqual(['tracks.add', 'batch.name']);
  });
});

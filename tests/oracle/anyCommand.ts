// Commands over a small fixed desk, sensible or not: what property tests of the core and of the server are made of.
import fc from 'fast-check';
import type { Command } from '../../core/commands/index.ts';
import { INSERT_TYPES } from '../../core/processors/index.ts';
import { LANE_OF } from '../../core/session/tables/lane.ts';
import { examples } from './examples.ts';
import { carryOut, emptyDesk, trackCommand } from './rig.ts';

export const smallDesk = () =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b', width: 2 }, { id: 'c' }, { id: 'd' }]),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['b', 'c'] },
    { do: 'returns.add', id: 'ret', name: 'Room' }
  );
/** The same with a VCA, a link group, and two lanes. */
export const groupedDesk = () =>
  carryOut(
    smallDesk(),
    { do: 'vcas.add', id: 'vca', name: 'VCA', members: ['a', 'bus'] },
    {
      do: 'links.add',
      id: 'link',
      name: 'Link',
      badge: 'link',
      members: ['a', 'b', 'vca'],
      attributes: ['level', 'pan', 'sendLevel', 'mute', 'automation']
    },
    { do: 'lanes.add', id: 'l1', channelId: 'c', of: 'fader', begin: true },
    { do: 'lanes.add', id: 'l2', channelId: 'vca', of: 'mute' },
    {
      do: 'points.set',
      lane: 'l2',
      points: [
        { at: 100, value: 0 },
        { at: 7000, value: 1, shape: 'hold' },
        { at: 8000, value: 0 }
      ]
    }
  );
/** Recordings for tracks that may or may not stand ready for one. */
const recordings = (['a', 'bus', 'x1'] as const).map((id) =>
  (trackCommand([{ id, frames: 100 }]) as unknown as { tracks: { id: string; media: never }[] }).tracks.map(({ media }) => ({ id, media }))
);

/** Recordings that arrive as tracks, with all that such a row may have. */
const arrivals = (['x1', 'x2'] as const).map((id, i): Command => {
  const [track] = (trackCommand([{ id, width: (i + 1) as 1 | 2, frames: 100 }]) as { tracks: { media: object }[] }).tracks;
  const origin = { format: 'FLAC', sha256: 'f'.repeat(64), rate: 44100 };
  const media = { ...track.media, peakDb: -3.5, loudness: [-20.5, null, -18].slice(0, i ? 3 : 1), origin: i ? origin : null };
  return {
    do: 'tracks.add',
    tracks: [{ ...track, media, start: i * 480, timeReference: null, channel: 0, width: i + 1 }]
  } as unknown as Command;
});

/** Commands over a small fixed set of ids, sensible or not. */
export const anyCommand = (): fc.Arbitrary<Command> => {
  const id = fc.constantFrom('a', 'b', 'c', 'd', 'bus', 'ret', 'x1', 'x2', 'mix', 'vca');
  const some = fc.uniqueArray(id, { minLength: 1, maxLength: 4 });
  const tap = fc.constantFrom('input' as const, 'pre' as const, 'post' as const);
  const level = fc.oneof(fc.constant(-Infinity), fc.double({ min: -150, max: 30, noNaN: true }));
  const fresh = fc.constantFrom('x1', 'x2');
  const name = fc.constantFrom('X', 'Y', ' padded ', '');
  const hue = fc.double({ min: -1, max: 13, noNaN: true });
  const insert = fc.constantFrom('i1', 'i2', 'ret:reverb');
  const set = fc.constantFrom('s1', 's2');
  const lane = fc.constantFrom('l1', 'l2', 'x1');
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
    fc.record({ do: fc.constantFrom('vcas.add' as const), id: fresh, name, members: some }),
    fc.record({ do: fc.constant('vcas.members' as const), id, add: some, remove: some }),

    fc.record({ do: fc.constant('links.members' as const), id: fc.constantFrom('link', 'x1'), add: some, remove: some, mirrored: some }),
    fc.record({
      do: fc.constantFrom('faders.move' as const, 'trims.move' as const, 'pans.move' as const),
      ids: some,
      lead: fc.record({ from: level, was: level, to: level }),
      anchors: fc.dictionary(id, level)
    }),
    fc.record({ do: fc.constant('sends.move' as const), ids: some, target: id, by: level }),
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
      type: fc.constantFrom(...INSERT_TYPES)
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
    fc.record({
      do: fc.constant('lanes.add' as const),
      id: lane,
      channelId: id,
      of: fc.constantFrom(...LANE_OF),
      target: id,
      insertId: insert,
      param: fc.constantFrom('threshold', 'mix', 'decay'),
      begin: fc.boolean()
    }),
    fc.record({
      do: fc.constant('points.set' as const),
      lane,
      points: fc
        .uniqueArray(fc.nat(9000), { minLength: 1, maxLength: 6 })
        .map((at) =>
          at
            .sort((x, y) => x - y)
            .map((each, i) => ({ at: each, value: [0, 1, -3, 0.5][i % 4], shape: i % 3 ? ('hold' as const) : undefined }))
        ),
      replace: fc.boolean(),
      edge: fc.nat(500)
    }),
    fc.record({ do: fc.constant('lanes.trim' as const), ids: fc.uniqueArray(lane, { minLength: 1 }), by: fc.integer({ min: -9, max: 9 }) }),
    fc.record({ do: fc.constant('points.remove' as const), lane, from: fc.nat(9000), to: fc.nat(9000) }),
    fc.record({
      do: fc.constant('lanes.throw' as const),
      ids: some,
      target: id,
      from: fc.nat(9000),
      to: fc.integer({ min: 9000, max: 12_000 }),
      level,
      as: fresh
    }) as fc.Arbitrary<never>,
    fc.record({ do: fc.constant('vcas.remove' as const), ids: some, fold: fc.boolean() }),
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
    fc.record({ do: fc.constant('tracks.fill' as const), tracks: fc.constantFrom(...recordings) }),
    fc.constantFrom(...arrivals),
    // Of every other command, and now and then of these, the example in its docstring.
    fc.constantFrom(...examples.values())
  );
};

/** Values that do not belong anywhere, of every kind. */
export const oddValue: fc.Arbitrary<unknown> = fc.oneof(
  fc.constantFrom<unknown>(null, undefined, NaN, Infinity, -Infinity, -0, 2 ** 53, 1e15, 1e308, -1e308, 5e-324, 0.5, -1, 1e9, true),
  fc.constantFrom<unknown>(
    '',
    '-inf',
    'a\u0000b',
    '\ud83e',
    'half \udd41',
    'x\u0007',
    '__proto__',
    'constructor',
    'toString',
    'x'.repeat(300),
    '🥁'.repeat(60)
  ),
  fc.constantFrom<unknown>([], {}, [null], [[]], ['a', 'a', 'a'], { id: 'a' }, JSON.parse('{"__proto__":{"x":1},"constructor":2}')),
  // Neither text nor a number can be made of these.
  fc.constantFrom<unknown>({ toString: 1, valueOf: 1 }, [{ toString: null, valueOf: null }], { toJSON: 1, toString: 'x' }),
  fc.constantFrom<unknown>('mix', 'a', 'bus', 'ret', 'q', 'key', 'gone'),
  fc.string({ unit: 'binary', maxLength: 5 }),
  fc.jsonValue({ maxDepth: 2 })
);

/** A command with one of its values, at whatever depth, exchanged for an odd one; with `field` that is a field it does not have. */
export function bent(command: Command, odd: unknown, pick: number, field: string | null): Command {
  const copy = structuredClone(command) as unknown as Record<string, unknown>;
  const places: (readonly [object, string])[] = [];
  const walk = (node: unknown) => {
    if (typeof node !== 'object' || node === null) return;
    for (const name of Object.keys(node)) {
      if (name !== 'do') places.push([node, name]);
      walk((node as Record<string, unknown>)[name]);
    }
  };
  walk(copy);
  if (places.length === 0) return { ...copy, ...(field ? { [field]: odd } : {}) } as unknown as Command;
  const [node, name] = places[pick % places.length];
  Object.defineProperty(node, field ?? name, { value: odd, enumerable: true, configurable: true, writable: true });
  return copy as unknown as Command;
}

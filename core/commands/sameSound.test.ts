// Commands that promise that nothing heard changes, on desks that nobody thought of: rendered before and after, they keep the promise or
// say by name why they cannot. Inserts on these desks are linear, so that sums may be taken apart.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, noise, rig, trackCommand } from '../../tests/oracle/rig.ts';
import { decodeSession, encodeSession } from '../session/tables.ts';
import { inOrder, insertsOf } from '../session/select.ts';
import { mutedOf } from '../routing/level.ts';
import { sendId, type Session } from '../session/entities.ts';
import type { Command } from './index.ts';
import { plan } from './plan.ts';

const FRAMES = 1024;
const TRACKS = [
  { id: 'a', width: 1, frames: FRAMES },
  { id: 'b', width: 2, frames: FRAMES },
  { id: 'c', width: 1, frames: FRAMES }
] as const;
const recordings = new Map(
  TRACKS.map(({ id, width }, i) => [id, Array.from({ length: width }, (_, side) => noise(FRAMES, 2 * i + side + 1))])
);
function out(session: Session): Float32Array[] {
  const engine = rig(session, new Map([...recordings, ['right', recordings.get('c')!]]));
  const heard = [0, 1, 2, 3].map(() => new Float32Array(FRAMES));
  for (let at = 0; at < FRAMES; at += 64) {
    engine.period();
    for (const [i, into] of heard.entries()) into.set(engine.out((i % 2) as 0 | 1, i >> 1), at);
  }
  return heard;
}
/** The peak difference of what leaves outputs 1–4, dBFS. */
const difference = (one: Session, other: Session) => {
  const [a, b] = [out(one), out(other)];
  return Math.max(...a.map((side, i) => apart(side, b[i])));
};
const copy = (session: Session) => decodeSession(encodeSession(session));
/** The command keeps what is heard within `most` dBFS, or is refused with a channel's name in its sentence. */
function keeps(session: Session, command: Command, most = -118): 'kept' | string {
  const planned = plan(session, command);
  if (!planned.ok) return planned.error.code;
  const after = carryOut(copy(session), command);
  const apart = difference(session, after);
  // What only moves between levels that add up is the same to the bit.
  if (command.do === 'vcas.remove') expect(apart, JSON.stringify(command)).toBe(-600);
  expect(apart, JSON.stringify(command)).toBeLessThan(most);
  return 'kept';
}

const base = () =>
  carryOut(
    emptyDesk(),
    trackCommand(TRACKS),
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a', 'b'] },
    { do: 'returns.add', id: 'r1', name: 'One', effect: 'none' },
    { do: 'returns.add', id: 'r2', name: 'Two', effect: 'none' },
    // What a channel is reached by on two ways counts once.
    { do: 'vcas.add', id: 'w', name: 'W', members: ['b', 'r1'] },
    { do: 'vcas.add', id: 'v', name: 'V', members: ['a', 'bus', 'w', 'b'] },
    { do: 'vcas.add', id: 'u', name: 'U', members: ['v', 'c'] }
  );

/** What is done to a desk before: anything of a routing that could matter. */
const source = fc.constantFrom('a', 'b', 'c', 'bus');
const side = fc.constantFrom(-100, -60, 0, 0, 0, 35, 100);
const db = fc.constantFrom(-12, -3.5, 0, 0, 4);
/** Half of what is done is done to the subject of the command. */
const movesOn = (subject: string): fc.Arbitrary<Command> => {
  const channel = fc.oneof(fc.constant(subject), fc.constantFrom('a', 'b', 'c', 'bus', 'r1', 'r2', 'v', 'w'));
  return fc.oneof(
    fc.record({ do: fc.constant('faders.set' as const), levels: fc.tuple(fc.record({ id: channel, level: db })) }),
    fc.record({ do: fc.constant('trims.set' as const), levels: fc.tuple(fc.record({ id: channel, level: db })) }),
    fc.record({
      do: fc.constant('pans.set' as const),
      pans: fc.tuple(
        fc.record({ id: channel, pan: side, right: fc.option(side), spread: fc.constantFrom(100, 40, 160) }, { requiredKeys: ['id'] })
      )
    }),
    fc.record({
      do: fc.constant('sends.set' as const),
      sends: fc.tuple(
        fc.record({
          source: fc.oneof(source, fc.constant('r1')),
          target: fc.constantFrom('r1', 'r2'),
          level: db,
          tap: fc.constantFrom('input' as const, 'pre' as const, 'post' as const),
          on: fc.constantFrom(true, true, false),
          mono: fc.boolean(),
          pan: fc.option(side)
        })
      )
    }),
    fc.record({
      do: fc.constantFrom('mutes.set' as const, 'rests.set' as const, 'polarities.set' as const),
      ids: fc.tuple(channel),
      on: fc.constant(true)
    }),
    fc.record({ do: fc.constant('channels.route' as const), ids: fc.tuple(channel), to: fc.constantFrom('mix', 'bus', 'r1', null) }),
    fc.record({ do: fc.constant('channels.route' as const), ids: fc.tuple(channel), pair: fc.constant(1) }),
    // It makes two sides of one, at work or not.
    fc.record({
      do: fc.constant('inserts.add' as const),
      id: fc.constant('delay'),
      channelId: channel,
      type: fc.constant('delay' as const)
    }),
    fc.record({ do: fc.constant('widths.set' as const), ids: fc.tuple(fc.constantFrom('bus', 'r1', 'r2')), width: fc.constant(1 as const) })
  );
};
const promises = fc.oneof(
  fc.record({ do: fc.constant('buses.dissolve' as const), ids: fc.constant(['bus']) }),
  fc.record({
    do: fc.constant('vcas.remove' as const),
    ids: fc.constantFrom(['v'], ['w'], ['v', 'w'], ['u', 'v']),
    fold: fc.constant(true)
  }),
  fc.record({ do: fc.constant('returns.merge' as const), ids: fc.constant(['r1', 'r2']) }),
  fc.record({ do: fc.constant('tracks.split' as const), id: fc.constant('b'), right: fc.constant('right') }),
  fc.record({
    do: fc.constant('buses.add' as const),
    id: fc.constant('new'),
    name: fc.constant('NEW'),
    members: fc.uniqueArray(source, { minLength: 1, maxLength: 1 })
  }),
  fc.record({
    do: fc.constant('buses.insert' as const),
    id: fc.constant('new'),
    name: fc.constant('NEW'),
    into: fc.constantFrom('bus', 'mix', 'r1')
  }),
  fc.record({ do: fc.constant('chain.add' as const), id: fc.constant('new'), name: fc.constant('NEW') }),
  fc.record({
    do: fc.constant('returns.parallel' as const),
    id: fc.constant('new'),
    name: fc.constant('P'),
    sources: fc.uniqueArray(source, { minLength: 1, maxLength: 2 })
  }),
  fc.record({ do: fc.constant('returns.drive' as const), id: fc.constantFrom('r1', 'r2'), by: fc.constantFrom(3, -5) }),
  fc.record({
    do: fc.constant('sends.tap' as const),
    sends: fc.tuple(fc.record({ source, target: fc.constantFrom('r1', 'r2') })),
    tap: fc.constantFrom('input' as const, 'pre' as const, 'post' as const),
    keep: fc.constant(true)
  })
) as fc.Arbitrary<Command>;

const subjectOf = (command: Command): string => {
  if (command.do === 'buses.dissolve') return 'bus';
  if (command.do === 'tracks.split') return 'b';
  if (command.do === 'vcas.remove') return 'v';
  return command.do.startsWith('returns') ? 'r1' : 'a';
};
const tried = promises.chain((command) => fc.tuple(fc.constant(command), fc.array(movesOn(subjectOf(command)), { maxLength: 6 })));

describe('what promises to change nothing that is heard', () => {
  it('keeps the promise on any desk, or says why not', () => {
    const said = new Map<string, number>();
    fc.assert(
      fc.property(tried, ([command, before]) => {
        const session = base();
        for (const move of before) if (plan(session, move).ok) carryOut(session, move);
        // A send there is, whatever was done before.
        if (command.do === 'sends.tap') {
          const [{ source: from, target }] = command.sends! as { source: string; target: string }[];
          const send: Command = { do: 'sends.set', sends: [{ source: from, target, level: -3.5 }] };
          if (plan(session, send).ok) carryOut(session, send);
          // Across inserts only the gain is kept, and the label says so.
          const crosses = (session.send.get(sendId(from, target))?.tap === 'input') !== (command.tap === 'input');
          if (crosses && insertsOf(session, from).length) return;
        }
        // A muted source’s sends before the fader are open or closed by a setting; moving their tap past it is another matter.
        if (command.do === 'sends.tap' && mutedOf(session, session.channel.get(command.sends![0].source!)!)) return;
        const result = `${command.do} ${keeps(session, command)}`;
        said.set(result, (said.get(result) ?? 0) + 1);
      }),
      { numRuns: Number(process.env.RUNS ?? 450), seed: 5 }
    );
    // Each of them is tried where it can be done, and often enough.
    for (const name of new Set([...said.keys()].map((key) => key.split(' ')[0]))) expect(said.get(`${name} kept`), name).toBeGreaterThan(2);
  });

  it('pairs two tracks that stand where a pair’s sides would, or were not placed at all; what one alone has is named', () => {
    const desk = () =>
      carryOut(
        base(),
        { do: 'channels.route', ids: ['a', 'c'], to: 'mix' },
        { do: 'vcas.members', id: 'u', remove: ['c'] },
        { do: 'vcas.members', id: 'v', add: ['c'] },
        {
          do: 'pans.set',
          pans: [
            { id: 'a', pan: -70 },
            { id: 'c', pan: 45 }
          ]
        },
        { do: 'sends.set', sends: ['a', 'c'].map((id) => ({ source: id, target: 'r1', level: -4 })) }
      );
    // The pair plays from the left track’s row: both recordings are found by their media.
    const pair: Command = { do: 'tracks.pair', left: 'a', right: 'c' };
    const paired = carryOut(desk(), pair);
    expect(paired.channel.get('a')).toMatchObject({ pan: -70, panRight: 45, width: 2 });
    expect(difference(desk(), paired)).toBeLessThan(-118);
    expect(
      carryOut(
        base(),
        { do: 'vcas.remove', ids: ['u', 'v', 'w'], fold: true },
        { do: 'channels.route', ids: ['a'], to: 'mix' },
        pair
      ).channel.get('a')
    ).toMatchObject({
      pan: 0,
      panRight: null
    });
    for (const [own, words] of [
      [{ do: 'sends.set', sends: [{ source: 'c', target: 'r2', level: -9 }] }, 'sends to Two'],
      [{ do: 'faders.set', levels: [{ id: 'c', level: -1 }] }, 'differ in their faders'],
      [{ do: 'polarities.set', ids: ['c'], on: true }, 'polarities'],
      [{ do: 'vcas.members', id: 'w', add: ['c'] }, 'different VCAs']
    ] as [Command, string][]) {
      const planned = plan(carryOut(desk(), own), pair);
      expect(planned.ok ? '' : planned.error.message).toContain(words);
    }
  });

  it('a key whose source goes hears nothing, not its own input', () => {
    const keyed = carryOut(
      base(),
      { do: 'inserts.add', id: 'comp', channelId: 'bus', type: 'comp' },
      { do: 'inserts.set', id: 'comp', values: { threshold: -50, ratio: 20 } }
    );
    const own = copy(keyed);
    carryOut(keyed, { do: 'inserts.key', id: 'comp', source: 'c' }, { do: 'channels.route', ids: ['c'], to: null });
    const gone = carryOut(copy(keyed), { do: 'channels.remove', ids: ['c'] });
    const still = carryOut(copy(keyed), { do: 'rests.set', ids: ['c'], on: true });
    expect(gone.insert.get('comp')!.keyId).toBe('c');
    expect(difference(gone, still)).toBe(-600);
    expect(difference(gone, carryOut(own, { do: 'channels.remove', ids: ['c'] }))).toBeGreaterThan(-40);
    const label = plan(keyed, { do: 'channels.remove', ids: ['c'] });
    expect(label.ok && label.value.label).toBe('Remove Track c; a key on BUS hears nothing now');
  });
});

describe('places and lists', () => {
  it('the two-hundredth duplicate of a row stands right below it, and dividers stay where they are', () => {
    const session = carryOut(base(), { do: 'dividers.set', id: 'd', caption: 'Rest', before: 'c' });
    const copies: string[] = [];
    for (let i = 0; i < 200; i++) {
      carryOut(session, { do: 'channels.duplicate', ids: ['b'], as: `x${i}` });
      copies.unshift(`x${i}:0`);
    }
    const order = inOrder(session).map(({ id }) => id);
    const at = order.indexOf('b');
    expect(order.slice(at + 1, at + 201)).toEqual(copies);
    const below = inOrder(session).find(({ position }) => position > session.divider.get('d')!.position);
    expect(below!.id).toBe('c');
  });

  it('a copy of a cue has outputs of its own, or there is none', () => {
    const session = carryOut(base(), { do: 'cues.add', id: 'q', name: 'Q' }, { do: 'channels.duplicate', ids: ['q'], as: 'x' });
    expect([...session.channel.values()].filter(({ kind }) => kind === 'cue').map(({ outputPair }) => outputPair)).toEqual([1, 2]);
    carryOut(session, { do: 'cues.add', id: 'q3', name: 'Q3' });
    expect(plan(session, { do: 'channels.duplicate', ids: ['q'], as: 'y' })).toMatchObject({ ok: false, error: { code: 'no-output' } });
  });

  it('a crosspoint listed twice is one; the mix chain does not rest; what became a key track is not soloed again', () => {
    const session = base();
    carryOut(session, {
      do: 'sends.set',
      sends: [
        { source: 'a', target: 'r1', level: -3 },
        { source: 'a', target: 'r1', tap: 'pre' }
      ]
    });
    expect(session.send.get('a\nr1')).toMatchObject({ levelDb: -3, tap: 'pre' });
    carryOut(session, { do: 'chain.add', id: 'last', name: 'LAST' });
    for (const id of ['mix', 'last'])
      expect(plan(session, { do: 'rests.set', ids: [id], on: true })).toMatchObject({ ok: false, error: { code: 'mix-bus' } });
    carryOut(session, { do: 'solos.set', ids: ['a', 'c'], on: true }, { do: 'solos.clear' }, { do: 'tracks.key', ids: ['c'], on: true });
    carryOut(session, { do: 'solos.recall' });
    expect([...session.channel.values()].filter(({ solo }) => solo).map(({ id }) => id)).toEqual(['a']);
  });

  it('one recording under two names is two rows; sets forget rows that are gone', () => {
    const session = base();
    const [first] = (trackCommand([{ id: 'x', frames: FRAMES }]) as { tracks: { media: { name: string } }[] }).tracks;
    const twice = [
      { ...first, id: 'x', name: 'X' },
      { ...first, id: 'y', name: 'Y', media: { ...first.media, name: 'other.wav' } }
    ];
    carryOut(session, { do: 'tracks.add', tracks: twice } as unknown as Command);
    const fileOf = (id: string) => session.media.get([...session.clip.values()].find(({ channelId }) => channelId === id)!.mediaId)!.name;
    expect([fileOf('x'), fileOf('y')]).toEqual(['x.wav', 'other.wav']);
    carryOut(session, { do: 'showings.save', id: 's', number: 1, name: 'Two', ids: ['x', 'a'] }, { do: 'channels.remove', ids: ['x'] });
    expect(session.showing.get('s')!.ids).toEqual(['a']);
    carryOut(session, { do: 'channels.remove', ids: ['a'] });
    expect(session.showing.size).toBe(0);
  });
});

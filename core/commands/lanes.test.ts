// Lanes and points by their commands: what is made, refused, moved, replaced, thrown, folded; what a hand on a playing lane does.
import { describe, expect, it } from 'vitest';
import { apart, carryOut, emptyDesk, play, rig, trackCommand } from '../../tests/oracle/rig.ts';
import { thinned } from '../lanes/edit.ts';
import { kindOf } from '../lanes/kinds.ts';
import { valueAt } from '../lanes/course.ts';
import { laneOf, pointsOf } from '../lanes/points.ts';
import { fits } from '../formats/gate.ts';
import { readDocument, writeDocument } from '../formats/document.ts';
import { commit, encodeChanges, inverse } from '../session/changes.ts';
import { encodeSession } from '../session/tables.ts';
import type { Session } from '../session/entities.ts';
import { fact, known } from '../session/facts.ts';
import { flowOf } from '../stems/flow.ts';
import type { Command } from './index.ts';
import { plan, planBatch } from './plan.ts';
import { writtenBy } from './written.ts';

const FRAMES = 30_000;
const heardFlow = fact(['routing', 'clips'], flowOf);
const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand(['a', 'b', 'c'].map((id) => ({ id, frames: FRAMES }))),
    { do: 'returns.add', id: 'echo', name: 'Echo', effect: 'delay' },
    { do: 'sends.set', sends: ['a', 'b'].map((source) => ({ source, target: 'echo', level: -20 })) },
    { do: 'inserts.add', id: 'eq', channelId: 'a', type: 'eq' },
    { do: 'lanes.add', id: 'f', channelId: 'a', of: 'fader' },
    {
      do: 'points.set',
      lane: 'f',
      points: [
        { at: 0, value: -6 },
        { at: 10_000, value: 0, shape: 'hold' },
        { at: 20_000, value: -12 }
      ]
    }
  );
const shown = (session: Session, lane: string) => pointsOf(session, lane).map(({ at, value, shape }) => [at, value, shape]);
const why = (session: Session, ...commands: Command[]) => {
  const planned = planBatch(session, commands);
  return planned.ok ? null : `${planned.error.code}: ${planned.error.message}`;
};

describe('lanes', () => {
  it('are one for each value, of what is there, within its range; what is wrong is said', () => {
    const session = desk();
    const add = (more: object) => why(session, { do: 'lanes.add', id: 'x', channelId: 'a', ...more } as never);
    expect(add({ of: 'fader' })).toBe('exists: There is a lane for the fader of Track a already.');
    expect(add({ of: 'sendLevel' })).toMatch(/^bad-arguments: .*“target”/);
    expect(add({ of: 'sendLevel', target: 'mix' })).toMatch(/does not send there yet/);
    expect(add({ of: 'param', insertId: 'eq', param: 'nothing' })).toMatch(/Name a “param” of the equaliser: .*b1\.freq/);
    expect(add({ of: 'bypass', insertId: 'echo:delay' })).toMatch(/not on Track a/);
    expect(add({ of: 'spread' })).toMatch(/mono/);
    expect(add({ channelId: 'gone', of: 'fader' })).toMatch(/no longer in the session/);
    const set = (...points: object[]) => why(session, { do: 'points.set', lane: 'f', points } as never);
    expect(set({ at: 5, value: 0 }, { at: 5, value: 1 })).toMatch(/order of time/);
    expect(set({ at: 5, value: 13 })).toMatch(/out of range: the fader of Track a goes from −∞ to 12 dB/);
    expect(set({ at: -1, value: 0 })).toMatch(/from 0 up/);
    expect(set({ at: 1e14, value: 0 })).toMatch(/a day long/);
    expect(set()).toMatch(/one point at least/);
    expect(set(...Array.from({ length: 100_001 }, (_, at) => ({ at, value: 0 })))).toMatch(/at most 100000/);
    carryOut(session, {
      do: 'points.set',
      lane: 'f',
      replace: true,
      points: Array.from({ length: 100_000 }, (_, i) => ({ at: i * 3, value: (i % 9) * -1 }))
    });
    expect(set({ at: 1, value: 0 })).toMatch(/^too-many: A lane has 100000 points at most/);
    const mute: Command = { do: 'lanes.add', id: 'm', channelId: 'b', of: 'mute' };
    expect(why(session, mute, { do: 'points.set', lane: 'm', points: [{ at: 0, value: 1, shape: 'linear' }] })).toMatch(
      /is a switch, which holds/
    );
    carryOut(session, { do: 'vcas.add', id: 'vca', name: 'VCA', members: ['b'] });
    expect(add({ channelId: 'vca', of: 'pan' })).toMatch(/its fader and its mute can have lanes/);
  });

  it('go with what they are of, and come back with it; they follow an insert, a twin, a copy and a package', () => {
    const session = carryOut(
      desk(),
      { do: 'lanes.add', id: 's', channelId: 'a', of: 'sendLevel', target: 'echo', begin: true },
      { do: 'lanes.add', id: 'p', channelId: 'a', of: 'param', insertId: 'eq', param: 'b1.freq', begin: true },
      { do: 'buses.add', id: 'bus', name: 'BUS', members: ['a'] }
    );
    for (const command of [
      { do: 'sends.remove', sources: ['a'], target: 'echo' },
      { do: 'inserts.remove', id: 'eq' },
      { do: 'channels.remove', ids: ['echo'] },
      { do: 'channels.remove', ids: ['a'] }
    ] as Command[]) {
      const before = encodeSession(session);
      const planned = plan(session, command);
      if (!planned.ok) throw new Error(planned.error.message);
      commit(session, planned.value.changes);
      expect(session.lane.size).toBeLessThan(3);
      expect([...session.point.values()].every(({ laneId }) => session.lane.has(laneId))).toBe(true);
      expect(fits(session, planned.value.changes)).toMatchObject({ ok: true });
      commit(session, inverse(planned.value.changes));
      expect(new Set(encodeSession(session).point)).toEqual(new Set(before.point));
      expect(session.lane.size).toBe(3);
    }
    const read = readDocument(writeDocument({ ...session, clip: new Map(), media: new Map() }));
    expect(read.ok && [...read.value.point.values()]).toEqual([...session.point.values()]);
    carryOut(session, { do: 'returns.twin', id: 'echo', twins: [{ id: 'twin', bus: 'bus' }] });
    expect(laneOf(session, { channelId: 'a', of: 'sendLevel', targetId: 'twin' })?.id).toBe('s');
    carryOut(session, { do: 'channels.duplicate', ids: ['a'], as: 'copy' });
    const copies = [...session.lane.values()].filter(({ channelId }) => channelId !== 'a');
    expect(copies.map(({ of, targetId }) => [of, targetId]).sort()).toEqual([
      ['fader', null],
      ['param', null],
      ['sendLevel', 'twin']
    ]);
    expect(copies.find(({ of }) => of === 'param')!.insertId).not.toBe('eq');
    expect(shown(session, copies.find(({ of }) => of === 'fader')!.id)).toEqual(shown(session, 'f'));
  });

  it('are trimmed, scaled, smoothed and copied within a stretch and left alone beside it', () => {
    const session = desk();
    const at = (frame: number) => valueAt(pointsOf(session, 'f'), 'level', frame);
    carryOut(session, { do: 'lanes.trim', ids: ['f'], by: -2, from: 4000, to: 6000 });
    expect([at(0), at(3500), at(4000), at(6000), at(6480), at(15_000)].map((x) => Math.round(x * 100) / 100)).toEqual([
      -6, -3.9, -5.6, -4.4, -2.11, 0
    ]);
    carryOut(session, { do: 'lanes.trim', ids: ['f'], by: 20 });
    expect(at(0)).toBe(12);
    carryOut(
      session,
      { do: 'points.remove', lane: 'f', from: 1, to: 30_000 },
      {
        do: 'points.set',
        lane: 'f',
        points: [
          { at: 100, value: 6 },
          { at: 200, value: 0 }
        ]
      }
    );
    carryOut(session, { do: 'lanes.scale', ids: ['f'], by: 0.5, around: 0 }, { do: 'lanes.smooth', ids: ['f'] });
    expect(shown(session, 'f').map(([, value]) => value)).toEqual([6, 3, 0]);
    carryOut(
      session,
      { do: 'lanes.add', id: 'b', channelId: 'b', of: 'fader', begin: true },
      { do: 'lanes.copy', lane: 'f', from: 0, to: 200, onto: [{ lane: 'b', at: 5000 }] }
    );
    expect(shown(session, 'b').map(([frame, value]) => [frame, value])).toEqual([
      [0, 0],
      [4520, 0],
      [5000, 6],
      [5100, 3],
      [5200, 0],
      [5680, 0]
    ]);
  });

  it('throw a send up and back, from what it was, and again into the same lane', () => {
    const session = desk();
    const thrown: Command = {
      do: 'lanes.throw',
      ids: ['a', 'b'],
      target: 'echo',
      from: 5000,
      to: 9000,
      level: -3,
      rise: 100,
      fall: 1000,
      as: 't'
    };
    carryOut(session, thrown);
    for (const id of ['t:a', 't:b'])
      expect(shown(session, id)).toEqual([
        [0, -20, 'linear'],
        [5000, -20, 'linear'],
        [5100, -3, 'linear'],
        [9000, -3, 'linear'],
        [10_000, -20, 'linear']
      ]);
    carryOut(session, { ...thrown, from: 20_000, to: 22_000, level: -Infinity });
    expect(shown(session, 't:a').slice(-5)).toEqual([
      [10_000, -20, 'linear'],
      [20_000, -20, 'linear'],
      [20_100, -Infinity, 'linear'],
      [22_000, -Infinity, 'linear'],
      [23_000, -20, 'linear']
    ]);
    expect(why(session, { ...thrown, ids: ['c'] })).toMatch(/Track c does not send there yet/);
    expect(why(session, { ...thrown, to: 5050 })).toMatch(/falls after it has risen/);
  });

  it('move points between their neighbours, many at once; each is a row of its own', () => {
    const session = desk();
    const planned = plan(session, { do: 'points.move', lane: 'f', at: [10_000], by: 50_000, add: -1 });
    expect(planned.ok && encodeChanges(planned.value.changes).map(({ table }) => table)).toEqual(['point', 'point']);
    if (planned.ok) commit(session, planned.value.changes);
    expect(shown(session, 'f')).toEqual([
      [0, -6, 'linear'],
      [19_999, -1, 'hold'],
      [20_000, -12, 'linear']
    ]);
    carryOut(session, { do: 'points.move', lane: 'f', at: [0, 19_999], by: -500, add: 100 });
    expect(shown(session, 'f')).toEqual([
      [0, 12, 'linear'],
      [19_999, 12, 'hold'],
      [20_000, -12, 'linear']
    ]);
    expect(why(session, { do: 'points.move', lane: 'f', at: [7] })).toMatch(/no longer there/);
  });

  it('settle where they stand still', () => {
    const session = carryOut(
      desk(),
      { do: 'lanes.add', id: 's', channelId: 'b', of: 'fader' },
      { do: 'points.set', lane: 's', points: [{ at: 9, value: -4 }] }
    );
    expect(why(session, { do: 'lanes.settle', ids: ['f'] })).toMatch(/moves: only a lane that stays/);
    carryOut(session, { do: 'lanes.settle', ids: ['s'] });
    expect([session.channel.get('b')!.faderDb, session.lane.has('s')]).toEqual([-4, false]);
  });
});

it('lanes of a link group with automation go together, keeping their distance', () => {
  const session = carryOut(
    desk(),
    { do: 'faders.set', levels: [{ id: 'b', level: -4 }] },
    { do: 'links.add', id: 'l', name: 'Pair', badge: 'pair', members: ['a', 'b'], attributes: ['automation'] },
    { do: 'lanes.set', ids: ['f'], plays: true },
    { do: 'points.set', lane: 'f', points: [{ at: 30_000, value: -10 }] }
  );
  const own = laneOf(session, { channelId: 'b', of: 'fader' })!;
  // From −12 to −10 the lead, and so its follower, which stood at −4.
  expect(shown(session, own.id)).toEqual([[30_000, -2, 'linear']]);
  carryOut(session, { do: 'lanes.trim', ids: ['f'], by: -1 }, { do: 'points.move', lane: 'f', at: [30_000], by: 500, add: 0 });
  expect(shown(session, own.id)).toEqual([[30_500, -3, 'linear']]);
  carryOut(session, { do: 'lanes.throw', ids: ['a'], target: 'echo', from: 0, to: 900, level: 0, as: 't' });
  expect(session.lane.has('t:b')).toBe(true);
  carryOut(
    session,
    { do: 'points.remove', lane: 'f', at: [30_500] },
    { do: 'points.set', lane: 'f', points: [{ at: 4, value: 0 }], alone: true }
  );
  expect(shown(session, own.id)).toEqual([]);
});

describe('a hand on a value whose lane plays', () => {
  it('is refused in words, trims all of the lane, or writes a point; a lane that is off is in nobody’s way', () => {
    const session = desk();
    const set: Command = {
      do: 'faders.set',
      levels: [
        { id: 'a', level: -10 },
        { id: 'b', level: -1 }
      ]
    };
    expect(why(session, set)).toBe(
      'automated: The fader of Track a follows its lane. Trim or write the lane (“lane”), or switch it off first.'
    );
    for (const refused of [
      { do: 'faders.move', ids: ['a'], by: 1 },
      { do: 'lanes.add', id: 'f', channelId: 'a', of: 'fader' }
    ] as Command[])
      expect(why(session, refused)).not.toBeNull();
    carryOut(session, { ...set, lane: 'trim', at: 5000 });
    expect(shown(session, 'f').map(([, value]) => value)).toEqual([-13, -7, -19]);
    expect([session.channel.get('a')!.faderDb, session.channel.get('b')!.faderDb]).toEqual([0, -1]);
    carryOut(session, {
      do: 'faders.move',
      ids: ['a'],
      lead: { from: -10, was: -10, to: -9 },
      anchors: { a: -10 },
      lane: 'trim',
      at: 5000
    });
    expect(shown(session, 'f').map(([, value]) => value)).toEqual([-12, -6, -18]);
    carryOut(session, { ...set, lane: 'write', at: 4000 });
    expect(shown(session, 'f')[1]).toEqual([4000, -10, 'linear']);
    carryOut(session, { do: 'lanes.set', ids: ['f'], plays: false }, set);
    expect(session.channel.get('a')!.faderDb).toBe(-10);
  });
});

it('a pass that is thinned is within 0.1 dB of what was done, with few points', () => {
  const session = desk();
  const kind = kindOf(session, session.lane.get('f')!)!;
  const done = Array.from({ length: 2000 }, (_, i) => ({
    at: i * 64,
    value: -10 + 6 * Math.sin(i / 150) + (i > 900 && i < 960 ? 2 : 0),
    shape: 'linear' as const
  }));
  const kept = thinned(done, kind);
  expect(kept.length).toBeLessThan(60);
  for (const { at, value } of done) expect(Math.abs(valueAt(kept, 'level', at) - value)).toBeLessThan(0.1001);
});

it('a VCA’s lanes are folded into what it holds so that nothing heard changes by 0.01 dB', () => {
  const lanes: Command[] = [
    { do: 'lanes.add', id: 'v', channelId: 'vca', of: 'fader' },
    {
      do: 'points.set',
      lane: 'v',
      points: [
        { at: 500, value: 0, shape: 'eased' },
        { at: 9000, value: -8, shape: 'hold' },
        { at: 15_000, value: 2, shape: 'linear' },
        { at: 25_000, value: -30 }
      ]
    },
    { do: 'lanes.add', id: 'm', channelId: 'vca', of: 'mute' },
    {
      do: 'points.set',
      lane: 'm',
      points: [
        { at: 0, value: 0 },
        { at: 26_000, value: 1 },
        { at: 28_000, value: 0 }
      ]
    }
  ];
  const held = () =>
    carryOut(
      desk(),
      { do: 'vcas.add', id: 'vca', name: 'VCA', members: ['a', 'b'] },
      { do: 'faders.set', levels: [{ id: 'b', level: -4 }] },
      ...lanes
    );
  const flat = new Map(['a', 'b', 'c'].map((id) => [id, [new Float32Array(FRAMES).fill(0.25)]]));
  for (const id of ['a', 'b']) {
    const only = (session: Session) =>
      carryOut(session, { do: 'solos.set', ids: [id], on: true }, { do: 'mutes.set', ids: ['echo'], on: true });
    const before = play(rig(only(held()), flat), FRAMES);
    const folded = carryOut(held(), { do: 'vcas.remove', ids: ['vca'], fold: true });
    expect(folded.channel.has('vca')).toBe(false);
    const after = play(rig(only(folded), flat), FRAMES);
    // Over the 64 frames of a step both are on their way.
    for (const at of [10_000, 15_000, 20_000, 26_000, 28_000]) for (const each of [before, after]) each[0].fill(0, at - 64, at + 130);
    before[0].forEach((x, i) => {
      if (x > 1e-4) expect(Math.abs(20 * Math.log10(after[0][i] / x)), `frame ${i}`).toBeLessThan(0.0102);
    });
    expect(apart(before[0], after[0])).toBeLessThan(-70);
  }
  expect(why(carryOut(held(), { do: 'lanes.trim', ids: ['v', 'f'], by: 9 }), { do: 'vcas.remove', ids: ['vca'], fold: true })).toMatch(
    /would pass \+12 dB/
  );
});

it('what lanes let through is audible, whatever the faders say; what they shut all the time is not', () => {
  const session = carryOut(desk(), { do: 'faders.set', levels: [{ id: 'b', level: -Infinity }] });
  const into = () => (known(session, heardFlow).to.get('mix') ?? []).map(({ from }) => from);
  expect(into()).toEqual(expect.arrayContaining(['a', 'c']));
  expect(into()).not.toContain('b');
  carryOut(
    session,
    { do: 'lanes.add', id: 'up', channelId: 'b', of: 'fader' },
    { do: 'points.set', lane: 'up', points: [{ at: 0, value: -Infinity }] }
  );
  expect(into()).not.toContain('b');
  carryOut(session, { do: 'points.set', lane: 'up', points: [{ at: 500, value: -6 }] });
  expect(into()).toContain('b');
  carryOut(
    session,
    { do: 'lanes.add', id: 'shut', channelId: 'c', of: 'mute' },
    { do: 'points.set', lane: 'shut', points: [{ at: 0, value: 1 }] }
  );
  expect(into()).not.toContain('c');
  carryOut(session, { do: 'points.set', lane: 'shut', points: [{ at: 9, value: 0 }] });
  expect(into()).toContain('c');
});

it('a hand over a link group trims its members’ lanes by the same difference, and writes them', () => {
  const session = carryOut(
    desk(),
    { do: 'links.add', id: 'l', name: 'Pair', badge: 'pair', members: ['a', 'b'], attributes: ['level'] },
    { do: 'faders.set', levels: [{ id: 'b', level: -4 }], alone: true }
  );
  // At frame 5000 the lane of a is at −3, whatever its fader is; b goes from −4 by two: so it is written too.
  const written = writtenBy(session, { do: 'faders.set', levels: [{ id: 'b', level: -2 }] }, 5000);
  expect(written?.map(({ asked, value }) => [asked.channelId, value])).toEqual([
    ['b', -2],
    ['a', -1]
  ]);
  carryOut(session, { do: 'faders.set', levels: [{ id: 'b', level: -2 }], lane: 'trim', at: 5000 });
  expect(shown(session, 'f').map(([, value]) => value)).toEqual([-4, 2, -10]);
  carryOut(session, { do: 'faders.move', ids: ['b'], by: 1, lane: 'trim', at: 5000 });
  expect(shown(session, 'f').map(([, value]) => value)).toEqual([-3, 3, -9]);
  carryOut(session, { do: 'faders.set', levels: [{ id: 'a', level: -5 }], lane: 'write', at: 5000 });
  expect(shown(session, 'f')[1]).toEqual([5000, -5, 'linear']);
  expect(session.channel.get('b')!.faderDb).toBe(-6);
  carryOut(
    session,
    { do: 'links.set', id: 'l', attributes: ['sendLevel'] },
    { do: 'lanes.add', id: 's', channelId: 'a', of: 'sendLevel', target: 'echo' },
    { do: 'points.set', lane: 's', points: [{ at: 0, value: -12 }] },
    { do: 'sends.set', sends: [{ source: 'b', target: 'echo', level: -17 }], lane: 'trim', at: 0 }
  );
  expect(shown(session, 's')).toEqual([[0, -9, 'linear']]);
});

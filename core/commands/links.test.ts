// Link groups: what follows what, and that whoever asks — page, API, command line, undo — sees the same batch.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import { readDocument, writeDocument } from '../formats/document.ts';
import { commit, merge, type Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { decodeSession, encodeSession } from '../session/tables.ts';
import { coalesced } from './coalesce.ts';
import type { Command } from './index.ts';
import { expanded, plan, planBatch } from './plan.ts';

const IDS = ['a', 'b', 'c', 'd', 'e'] as const;
/** a, b, c in one group, c, d in another: what moves a does not move d. e is in none. */
const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand(IDS.map((id) => ({ id, frames: 100 }))),
    { do: 'returns.add', id: 'r', name: 'Room' },
    { do: 'faders.set', levels: IDS.map((id, i) => ({ id, level: -2 * i })) },
    ...IDS.map((id): Command => ({ do: 'inserts.add', id: `c-${id}`, channelId: id, type: 'comp' })),
    {
      do: 'links.add',
      id: 'one',
      name: 'One',
      badge: 'one',
      members: ['a', 'b', 'c'],
      attributes: ['level', 'pan', 'mute', 'solo', 'sendLevel', 'sendOn', 'tap', 'bypass', 'insertValues', 'colour']
    },
    { do: 'links.add', id: 'two', name: 'Two', badge: 'two', members: ['c', 'd'], attributes: ['level'] }
  );
const copy = (session: Session) => decodeSession(encodeSession(session));
const faders = (session: Session) => IDS.map((id) => session.channel.get(id)!.faderDb);
const refusal = (session: Session, command: Command) => {
  const planned = plan(session, command);
  return planned.ok ? 'done' : `${planned.error.code}: ${planned.error.message}`;
};

describe('a linked move', () => {
  it('gives touched ones what was asked and moves members of their groups by the difference, each once', () => {
    expect(faders(carryOut(desk(), { do: 'faders.set', levels: [{ id: 'a', level: -1 }] }))).toEqual([-1, -3, -5, -6, -8]);
    expect(faders(carryOut(desk(), { do: 'faders.move', ids: ['c', 'a'], by: -1 }))).toEqual([-1, -3, -5, -7, -8]);
    // b follows a, which was born first; d follows c.
    const levels = [
      { id: 'c', level: 0 },
      { id: 'a', level: -10 }
    ];
    expect(faders(carryOut(desk(), { do: 'faders.set', levels }))).toEqual([-10, -12, 0, -2, -8]);
    expect(faders(carryOut(desk(), { do: 'faders.set', levels, alone: true }))).toEqual([-10, -2, 0, -6, -8]);
    const said = plan(desk(), { do: 'faders.set', levels: [{ id: 'a', level: -1 }] });
    expect(said.ok && said.value.label).toBe('Fader of Track a to −1.0 dB, and 2 linked');
  });

  it('sets all alike in that mode, and moves nothing while paused, which keeps the new offsets', () => {
    const session = carryOut(desk(), { do: 'links.set', id: 'one', mode: 'alike' }, { do: 'faders.move', ids: ['b'], by: -1 });
    expect(faders(session)).toEqual([-3, -3, -3, -6, -8]);
    carryOut(session, { do: 'links.set', id: 'one', mode: 'difference', active: false });
    carryOut(session, { do: 'faders.set', levels: [{ id: 'a', level: -9 }] }, { do: 'links.set', id: 'one', active: true });
    expect(faders(session)).toEqual([-9, -3, -3, -6, -8]);
    expect(faders(carryOut(session, { do: 'faders.move', ids: ['b'], by: 1 }))).toEqual([-8, -2, -2, -6, -8]);
  });

  it('turns mirrored pans the other way, and keeps two pins apart', () => {
    const session = carryOut(
      desk(),
      { do: 'inserts.add', id: 'wide', channelId: 'c', type: 'delay' },
      { do: 'pans.set', pans: [{ id: 'a', pan: -40 }], alone: true },
      { do: 'pans.set', pans: [{ id: 'b', pan: 40 }], alone: true },
      { do: 'pans.set', pans: [{ id: 'c', pan: -50, right: 10 }], alone: true },
      { do: 'links.members', id: 'one', mirrored: ['b'] }
    );
    const pins = () => ['a', 'b', 'c'].map((id) => [session.channel.get(id)!.pan, session.channel.get(id)!.panRight]);
    carryOut(session, { do: 'pans.move', ids: ['a'], by: -10 });
    expect(pins()).toEqual([[-50, null], [50, null], [-60, 0]]); // prettier-ignore
    carryOut(session, { do: 'pans.set', pans: [{ id: 'b', pan: 30 }] });
    expect(pins()).toEqual([[-30, null], [30, null], [-40, 20]]); // prettier-ignore
    const anchors = { a: -30, b: 30, c: -40 };
    carryOut(session, { do: 'pans.move', ids: ['a'], lead: { from: -30, was: -30, to: 70 }, anchors });
    expect(pins()).toEqual([[70, null], [-70, null], [40, 100]]); // prettier-ignore
    carryOut(session, { do: 'pans.move', ids: ['a'], lead: { from: -30, was: 70, to: -30 }, anchors });
    expect(pins()).toEqual([[-30, null], [30, null], [-40, 20]]); // prettier-ignore
  });

  it('reaches sends to the same target, made where there was none', () => {
    const session = carryOut(desk(), { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -20 }] });
    const sends = () => ['a', 'b', 'c', 'd'].map((id) => session.send.get(`${id}\nr`)?.levelDb ?? null);
    expect(sends()).toEqual([-20, -20, -20, null]);
    carryOut(session, { do: 'sends.set', sends: [{ source: 'b', target: 'r', level: -6 }], alone: true });
    carryOut(session, { do: 'sends.move', ids: ['a'], target: 'r', by: 3 });
    expect(sends()).toEqual([-17, -3, -17, null]);
    carryOut(session, { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -Infinity }] });
    expect(sends()).toEqual([-Infinity, -Infinity, -Infinity, null]);
    carryOut(session, { do: 'sends.set', sends: [{ source: 'a', target: 'r', level: -16 }] });
    expect(sends()).toEqual([-16, -2, -16, null]);
    carryOut(session, { do: 'sends.set', sends: [{ source: 'c', target: 'r', on: false, tap: 'pre' }] });
    expect(['a', 'b', 'c'].map((id) => [session.send.get(`${id}\nr`)!.on, session.send.get(`${id}\nr`)!.tap])).toEqual(
      Array(3).fill([false, 'pre'])
    );
    expect(refusal(session, { do: 'sends.move', ids: ['e'], target: 'r', by: 1 })).toContain('does not send there yet');
  });

  it('copies switches and colours, and moves values of like inserts, by ratio where these are far apart by ratio', () => {
    const session = carryOut(
      desk(),
      { do: 'inserts.add', id: 'second', channelId: 'b', type: 'comp' },
      { do: 'inserts.set', id: 'c-b', values: { threshold: -30, attack: 20 }, alone: true },
      { do: 'inserts.set', id: 'c-a', values: { threshold: -20, attack: 10 }, alone: true },
      { do: 'mutes.set', ids: ['b'], on: true },
      { do: 'solos.set', ids: ['c'], on: true },
      { do: 'inserts.bypass', ids: ['c-c'], on: true },
      { do: 'channels.colour', ids: ['a'], colour: 7 }
    );
    for (const id of ['a', 'b', 'c']) expect(session.channel.get(id)).toMatchObject({ mute: true, solo: true, colour: 7 });
    expect(session.channel.get('d')).toMatchObject({ mute: false, solo: false, colour: 0 });
    expect(['c-a', 'c-b', 'second', 'c-d'].map((id) => session.insert.get(id)!.bypass)).toEqual([true, true, false, false]);
    carryOut(session, { do: 'inserts.set', id: 'c-a', values: { threshold: -25, attack: 20, character: 1 } });
    expect(session.insert.get('c-b')!.params).toMatchObject({ threshold: -35, attack: 40, character: 1 });
    carryOut(session, { do: 'inserts.nudge', ids: ['c-b'], param: 'attack', by: 0.5 });
    expect([session.insert.get('c-a')!.params.attack, session.insert.get('c-b')!.params.attack]).toEqual([10, 20]);
    // The second of its type has none like it elsewhere.
    carryOut(session, { do: 'inserts.nudge', ids: ['second'], param: 'threshold', by: -1 });
    expect(session.insert.get('c-a')!.params.threshold).toBe(-25);
  });
});

const level = fc.integer({ min: -120, max: 12 });
const id = fc.constantFrom(...IDS);
const ids = fc.uniqueArray(id, { minLength: 1 });
const direct: fc.Arbitrary<Command> = fc.oneof(
  fc.record({ do: fc.constant('faders.move' as const), ids, by: level }),
  fc.record({
    do: fc.constant('faders.set' as const),
    levels: fc.uniqueArray(fc.record({ id, level }), { minLength: 1, selector: (each) => each.id })
  }),
  fc.record({ do: fc.constant('pans.move' as const), ids, by: fc.integer({ min: -60, max: 60 }) }),
  fc.record({ do: fc.constantFrom('mutes.set' as const, 'solos.set' as const), ids, on: fc.boolean() }),
  fc.record({
    do: fc.constant('sends.set' as const),
    sends: fc.uniqueArray(fc.record({ source: id, target: fc.constant('r'), level }), { minLength: 1, selector: (each) => each.source })
  })
);
const group = fc.record({
  members: fc.uniqueArray(id),
  attributes: fc.constant(['level', 'pan', 'mute', 'sendLevel'] as const),
  mode: fc.constantFrom('difference' as const, 'alike' as const),
  active: fc.constantFrom(true, true, true, false)
});
const groups = fc.array(group, { maxLength: 4 });
/** A desk with these groups, made in another order where asked. */
function grouped(list: readonly { members: string[]; attributes: readonly string[]; mode: string; active: boolean }[], backwards = false) {
  const session = carryOut(desk(), { do: 'links.remove', ids: ['one', 'two'] });
  const order = list.map((each, i) => [each, `g${i}`] as const);
  for (const [{ active, ...given }, link] of backwards ? order.toReversed() : order) {
    const members = backwards ? given.members.toReversed() : given.members;
    carryOut(session, { ...given, members, do: 'links.add', id: link, name: link, badge: link } as Command);
    carryOut(session, { do: 'links.set', id: link, active });
  }
  return session;
}
const turned = (command: Command): Command =>
  Object.fromEntries(
    Object.entries(command).map(([key, value]) => [key, Array.isArray(value) ? [...(value as unknown[])].reverse() : value])
  ) as Command;
const rows = (session: Session) =>
  JSON.stringify([session.channel, session.send].map((table) => [...table].sort(([a], [b]) => (a < b ? -1 : 1))));

describe('expansion', () => {
  it('does not mind the order of ids, members and groups', () => {
    fc.assert(
      fc.property(groups, direct, (list, command) => {
        expect(rows(carryOut(grouped(list, true), turned(command)))).toBe(rows(carryOut(grouped(list), command)));
      }),
      { numRuns: 150, seed: 3 }
    );
  });

  it('comes to the same carried out at once or as the commands that it gives, which are not expanded again', () => {
    fc.assert(
      fc.property(groups, direct, (list, command) => {
        const session = grouped(list);
        const steps = expanded(session, command);
        if (!steps.ok) throw new Error(steps.error.message);
        const at = copy(session);
        for (const step of steps.value) {
          const again = expanded(
            at,
            JSON.parse(JSON.stringify(step, (_, value: unknown) => (value === -Infinity ? '-inf' : value))) as Command
          );
          expect(again.ok && again.value).toEqual([step]);
          carryOut(at, step);
        }
        expect(rows(at)).toBe(rows(carryOut(session, command)));
      }),
      { numRuns: 150, seed: 4 }
    );
  });

  it('is nothing that pausing and taking up again would change', () => {
    fc.assert(
      fc.property(groups, direct, (list, command) => {
        const session = grouped(list);
        const before = rows(session);
        carryOut(session, { do: 'links.pause', on: true });
        expect(rows(session)).toBe(before);
        // Paused, it is as if there were no groups.
        const none = carryOut(grouped([]), command);
        carryOut(session, command, { do: 'links.pause', on: false });
        expect(rows(session)).toBe(rows(none));
      }),
      { numRuns: 60, seed: 5 }
    );
  });

  it('of a gesture there and back is nothing, also where its moves travel as one; undone in one step', () => {
    const path = fc.array(fc.oneof(level, fc.constant(-Infinity)), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(groups, id, path, (list, lead, tos) => {
        const session = grouped(list);
        const before = faders(session);
        const from = session.channel.get(lead)!.faderDb;
        const anchors = Object.fromEntries(IDS.map((each, i) => [each, before[i]]));
        const moves = [...tos, from].map((to, i): Command => ({
          do: 'faders.move',
          ids: [lead],
          lead: { from, was: [from, ...tos][i], to },
          anchors
        }));
        const joined = moves.slice(0, -1).reduce<Command[]>((list, next) => (list.length ? coalesced(list, [next]) : [next]), []);
        expect(joined).toHaveLength(1);
        const there = copy(session);
        let changes: Change[] = [];
        for (const move of moves.slice(0, -1)) {
          const planned = planBatch(there, [move]);
          if (!planned.ok) throw new Error(planned.error.message);
          commit(there, planned.value.changes);
          changes = merge(changes, planned.value.changes);
        }
        expect(faders(carryOut(copy(session), ...joined))).toEqual(faders(there));
        const undone = copy(there);
        for (const { table, key, before: was } of changes) commit(undone, [{ table, key, before: {}, after: was }]);
        expect(rows(undone)).toBe(rows(session));
        carryOut(there, moves.at(-1)!);
        // Alike they are not what they were; else each is back.
        if (list.every(({ mode }) => mode === 'difference')) expect(faders(there)).toEqual(before);
      }),
      { numRuns: 200, seed: 6 }
    );
  });
});

describe('link groups', () => {
  it('travel with packages, their members with copies unless asked otherwise, and are repaired when a member goes', () => {
    const session = desk();
    const back = readDocument(writeDocument(session));
    expect(back.ok && encodeSession(back.value)).toEqual(encodeSession(session));
    const copies = carryOut(copy(session), { do: 'channels.duplicate', ids: ['a'], as: 'x' });
    expect(copies.linkMember.has('one\nx:0')).toBe(true);
    const apart = carryOut(copy(session), { do: 'channels.duplicate', ids: ['a'], as: 'x', groups: false });
    expect(apart.linkMember.has('one\nx:0')).toBe(false);
    const removed = planBatch(session, [{ do: 'channels.remove', ids: ['d', 'c'] }]);
    expect(removed.ok && removed.value.label).toBe('Remove 2 channels; One has 2 left, Two goes too');
    carryOut(session, { do: 'channels.remove', ids: ['d', 'c'] });
    expect([...session.link.keys()]).toEqual(['one']);
    expect([...session.linkMember.keys()]).toEqual(['one\na', 'one\nb']);
  });

  it('say what is wrong', () => {
    const session = desk();
    expect(refusal(session, { do: 'links.members', id: 'gone', add: ['a'] })).toContain('not-found');
    expect(refusal(session, { do: 'links.members', id: 'one', mirrored: ['e'] })).toBe(
      'not-a-member: Track e is not in One. Put it in first.'
    );
    expect(refusal(session, { do: 'links.add', id: 'x', name: 'X', badge: 'far too long', members: [] })).toContain('bad-arguments');
    expect(refusal(session, { do: 'links.add', id: 'x', name: 'X', badge: 'x', attributes: ['volume'] } as unknown as Command)).toContain(
      'bad-arguments'
    );
    expect(refusal(session, { do: 'faders.move', ids: ['a'] })).toContain('a move has either “by” or “lead”');
    expect(refusal(session, { do: 'faders.move', ids: ['a'], by: 1, anchors: { a: 'high' } } as unknown as Command)).toContain(
      'numbers by id'
    );
    expect(refusal(session, { do: 'mutes.set', ids: ['a'], on: true, alone: 'yes' } as unknown as Command)).toContain(
      'alone is true or false'
    );
    // A group that takes another's keys gets them.
    carryOut(session, { do: 'links.set', id: 'one', shortcut: 'Alt+1' }, { do: 'links.set', id: 'two', shortcut: 'Alt+1' });
    expect([...session.link.values()].map(({ shortcut }) => shortcut)).toEqual(['', 'Alt+1']);
  });
});

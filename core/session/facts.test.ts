// Facts and look-ups: made once, made again when what they are made from was touched, and never another session's.
import { describe, expect, it, vi } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../tests/oracle/rig.ts';
import type { Command } from '../commands/index.ts';
import { planBatch } from '../commands/plan.ts';
import { columns, heard, pinned, tree } from '../routing/facts.ts';
import { commit, inverse } from './changes.ts';
import type { Session } from './entities.ts';
import { fact, known } from './facts.ts';
import { idsBy, orderedIds, rowsBy } from './lookup.ts';
import { decodeSession, encodeSession } from './tables.ts';

const desk = (): Session =>
  carryOut(
    emptyDesk(),
    trackCommand([{ id: 'a' }, { id: 'b' }]),
    { do: 'returns.add', id: 'r', name: 'R' },
    { do: 'cues.add', id: 'q', name: 'Q' }
  );
const copy = (session: Session) => decodeSession(encodeSession(session));
const act = (session: Session, ...commands: Command[]) => {
  const planned = planBatch(session, commands);
  if (!planned.ok) throw new Error(planned.error.message);
  return commit(session, planned.value.changes);
};

describe('a fact', () => {
  it('is made when somebody asks, and again only after a change of what it is made from', () => {
    const session = desk();
    const of = vi.fn((one: Session) => one.channel.size);
    const size = fact(['tree'], of);
    expect([known(session, size), known(session, size), of.mock.calls.length]).toEqual([5, 5, 1]);
    act(session, { do: 'faders.set', levels: [{ id: 'a', level: -3 }] }, { do: 'mutes.set', ids: ['a'], on: true });
    expect([known(session, size), of.mock.calls.length]).toEqual([5, 1]);
    const undo = act(session, { do: 'channels.remove', ids: ['b'] });
    expect([known(session, size), of.mock.calls.length]).toEqual([4, 2]);
    commit(session, undo);
    expect([known(session, size), of.mock.calls.length]).toEqual([5, 3]);
  });

  it('made from everything follows any change, and is kept through any number of others unasked', () => {
    const session = desk();
    const every = fact(['everything'], (one) => one.channel.get('a')!.faderDb);
    const routing = vi.fn(() => 0);
    const seldom = fact(['routing'], routing);
    known(session, seldom);
    for (let i = 0; i < 500; i++) {
      act(session, { do: 'faders.set', levels: [{ id: 'a', level: -(i % 90) / 10 }] });
      if (i % 100 === 0) expect(known(session, every)).toBe(-(i % 90) / 10 + 0);
    }
    expect([known(session, seldom), routing.mock.calls.length]).toEqual([0, 1]);
  });

  it('belongs to one session', () => {
    const one = desk();
    const other = copy(one);
    const size = fact(['tree'], (session) => session.channel.size);
    expect([known(one, size), known(other, size)]).toEqual([5, 5]);
    act(one, { do: 'channels.remove', ids: ['a', 'b'] });
    expect([known(one, size), known(other, size)]).toEqual([3, 5]);
  });

  it('of routing says what stands where and who is heard, as it is after each change', () => {
    const session = desk();
    const names = () => known(session, tree).mix.map(({ channel }) => channel.name);
    expect(names()).toEqual(['MIX', 'Track a', 'Track b', 'R']);
    act(session, { do: 'channels.rename', names: [{ id: 'a', name: 'Vox' }] });
    expect(names()).toEqual(['MIX', 'Vox', 'Track b', 'R']);
    expect(known(session, columns).map(({ id }) => id)).toEqual(['r', 'q']);
    act(session, { do: 'columns.hide', ids: ['r'], on: true }, { do: 'pins.set', ids: ['b', 'a'], on: true });
    expect(known(session, columns).map(({ id }) => id)).toEqual(['q']);
    expect(known(session, pinned).map(({ id }) => id)).toEqual(['a', 'b']);
    expect(known(session, heard).state('b').heard).toBe('heard');
    act(session, { do: 'solos.set', ids: ['a'], on: true });
    expect(known(session, heard).state('b').heard).toBe('silent');
  });
});

describe('a look-up', () => {
  it('is kept up to date by commits and their inverses, moves between values included', () => {
    const session = desk();
    const into = (id: string | null) => idsBy(session, 'channel', 'outputId', id);
    expect(into('mix')).toEqual(['a', 'b', 'r']);
    const planned = planBatch(session, [{ do: 'buses.add', id: 'bus', name: 'BUS', members: ['b', 'a'] }]);
    expect(into('bus')).toEqual([]);
    if (!planned.ok) throw new Error(planned.error.message);
    commit(session, planned.value.changes);
    expect([into('bus'), into('mix')]).toEqual([
      ['a', 'b'],
      ['bus', 'r']
    ]);
    commit(session, inverse(planned.value.changes));
    expect([into('bus'), into('mix')]).toEqual([[], ['a', 'b', 'r']]);
    expect(rowsBy(session, 'clip', 'channelId', 'a')).toEqual([session.clip.get('a:1')]);
  });

  it('of the order follows positions, and nothing else makes it anew', () => {
    const session = desk();
    const before = orderedIds(session);
    expect(before).toEqual(['mix', 'a', 'b', 'r', 'q']);
    act(session, { do: 'faders.set', levels: [{ id: 'a', level: -3 }] });
    expect(orderedIds(session)).toBe(before);
    act(session, { do: 'channels.move', ids: ['b'], before: 'a' });
    expect(orderedIds(session)).toEqual(['mix', 'b', 'a', 'r', 'q']);
  });
});

// Sorting and filtering are for looking: the session's order stays; dividers stand only in it.
import { expect, it } from 'vitest';
import { EVERYTHING } from '$core/session/filter';
import { inOrder } from '$core/session/select';
import { act, sessionOf } from '../../../../tests/oracle/heap';
import { rosterItems, rosterRows, type Sorting } from './rosterRows';

it('shows rows sorted and filtered by any column, and dividers in the order of the session', () => {
  const session = sessionOf(['b10.wav', 'B9 stereo.wav', 'a.wav']);
  act(
    session,
    { do: 'buses.add', id: 'bus', name: 'BUS', members: ['t3'] },
    { do: 'dividers.set', id: 'd', caption: 'Low', before: 't2' },
    { do: 'roles.set', ids: ['t1'], role: 'bass' },
    { do: 'channels.colour', ids: ['t2'], colour: 1 },
    { do: 'hides.set', ids: ['t3'], on: true }
  );
  const before = inOrder(session).map(({ id }) => id);
  const shown = (by: Sorting['by'], more = {}, down = false) =>
    rosterItems(session, rosterRows(session), { filter: EVERYTHING, sorting: { by, down }, hidden: false, ...more }).map(({ key }) => key);
  expect(shown('order')).toEqual(['t1', 'divider d', 't2', 'bus']);
  expect(shown('order', { hidden: true }, true)).toEqual(['t3', 'bus', 't2', 'divider d', 't1']);
  expect(shown('name')).toEqual(['t2', 't1', 'bus']);
  expect(shown('role')).toEqual(['t1', 't2', 'bus']);
  expect(shown('family', {}, true)).toEqual(['t1', 'bus', 't2']);
  expect(shown('channels', {}, true)[0]).toBe('t2');
  expect(shown('to', { filter: { ...EVERYTHING, text: 'b', kind: 'track' } })).toEqual(['t1', 't2']);
  expect(inOrder(session).map(({ id }) => id)).toEqual(before);
});

// The one description of the tables: that it is sound in itself, and that what follows from it is what was written by hand before.
import { Ajv } from 'ajv';
import { describe, expect, it } from 'vitest';
import { desk } from '../../tests/oracle/desk.ts';
import { exampleDesk } from '../../tests/oracle/playing.ts';
import { carryOut } from '../../tests/oracle/rig.ts';
import { fieldSchema } from '../formats/schema.ts';
import { field } from '../commands/field.ts';
import type { Change } from './changes.ts';
import { checkSession } from './check.ts';
import { copiedWith, removedWith, within } from './dependents.ts';
import { newRow, columnsOf, columnsWhere, completed, encodeFields, freshInCopies, freshInTemplates, rowId, tableNames } from './tables.ts';
import { rowsWoken, woken } from './woken.ts';

const ajv = new Ajv({ strict: false });
const every = tableNames.flatMap((table) => Object.entries(columnsOf(table)).map(([name, column]) => ({ table, name, column })));

describe('a description', () => {
  it('has defaults that fit the column, and one for each column that came later', () => {
    for (const { table, name, column } of every) {
      const valid = ajv.compile(fieldSchema(table, name));
      if (column.default !== undefined)
        expect(valid(encodeFields(table, { [name]: column.default })[name]), `${table}.${name}: ${ajv.errorsText(valid.errors)}`).toBe(
          true
        );
      if (column.since || column.passing) expect(column.default, `${table}.${name}`).toBeDefined();
      expect(valid(null), `${table}.${name}`).toBe(column.nullable);
      expect(valid({ strange: 1 }), `${table}.${name}`).toBe(name === 'params' || name === 'stems');
    }
  });

  it('refers to tables that there are, by columns that can name a row', () => {
    for (const { table, name, column } of every) {
      if (!column.reference) continue;
      expect(tableNames, `${table}.${name}`).toContain(column.reference.to);
      expect(column.type, `${table}.${name}`).toBe(column.reference.removed === 'leaves' ? 'json' : 'text');
    }
  });

  it('lets no row name, by whatever column, a row that has to be there and is not', () => {
    const needed = every.filter(({ column: { reference } }) => reference && ['goes', 'routed'].includes(reference.removed));
    expect(needed.length).toBeGreaterThan(6);
    for (const { table, name } of needed) {
      const session = exampleDesk();
      expect(checkSession(session).ok).toBe(true);
      const [key, row] = [...session[table]].find(([, each]) => (each as Record<string, unknown>)[name] !== null)!;
      const bent = { ...row, [name]: 'gone' };
      session[table].delete(key);
      (session[table] as Map<string, unknown>).set(rowId(table, bent as never), bent);
      expect(checkSession(session), `${table}.${name}`).toMatchObject({ ok: false, error: { code: 'inconsistent' } });
    }
  });

  it('bears rows and completes those from before', () => {
    const channel = newRow('channel', { id: 'a', kind: 'track', name: 'A', position: 1, born: 2 });
    expect(Object.keys(channel).sort()).toEqual(Object.keys(columnsOf('channel')).sort());
    expect(channel).toMatchObject({ width: 1, faderDb: 0, outputId: null, spread: 100 });
    expect(newRow('send', { sourceId: 'a', targetId: 'r' })).toMatchObject({ levelDb: -Infinity, tap: 'post', on: true, pan: null });
    expect(completed('clip', { id: 'c', length: 3 })).toEqual({
      ...newRow('clip', { length: 3 } as never),
      id: 'c',
      offset: undefined,
      start: undefined
    });
    expect(completed('settings', { zero: 7 })).toMatchObject({ zero: 7, interfaceName: 'Quay Eight' });
    expect(rowId('send', newRow('send', { sourceId: 'a', targetId: 'r' }))).toBe('a\nr');
    expect(freshInCopies('channel')).toEqual({ solo: false, pinned: false });
    expect(freshInTemplates('channel')).toEqual({ solo: false });
  });

  it('says what a plan must be made anew for, and what opens and closes', () => {
    const by = (sound: string, table: 'channel' | 'send' | 'insert' | 'settings') =>
      [...columnsWhere((column) => column.sound === sound)[table]].sort();
    expect(by('shape', 'channel')).toEqual(['born', 'outputId', 'outputPair', 'panRight', 'resting', 'spread', 'width']);
    expect(by('shape', 'send')).toEqual(['mono', 'tap']);
    expect(by('shape', 'insert')).toEqual(['keyId', 'keyTap', 'position', 'type']);
    expect(by('open', 'channel')).toEqual(['mute', 'solo', 'soloSafe']);
    expect(by('open', 'settings')).toEqual(['muteClosesCue', 'muteClosesPre', 'panLaw', 'soloDimDb']);
  });
});

describe('what follows', () => {
  const change = (table: Change['table'], before: object | null, after: object | null): Change =>
    ({ table, key: 'k', before, after }) as Change;

  it('wakes the tree for what it shows, routing for what decides who is heard, and nobody for the rest', () => {
    const wakes = (...args: Parameters<typeof change>) => [...woken([change(...args)])].sort();
    expect(wakes('channel', { faderDb: 0 }, { faderDb: -3 })).toEqual(['rows']);
    expect(wakes('channel', { position: 0 }, { position: 1 })).toEqual(['rows', 'tree']);
    expect(wakes('channel', { mute: false }, { mute: true })).toEqual(['routing', 'rows']);
    expect(wakes('channel', null, { id: 'k' })).toEqual(['routing', 'rows', 'tree']);
    expect(wakes('send', { levelDb: -3 }, { levelDb: -4 })).toEqual([]);
    expect(wakes('send', { levelDb: -3 }, { levelDb: -Infinity })).toEqual(['routing']);
    expect(wakes('insert', { params: {} }, { params: { mix: 3 } })).toEqual([]);
    expect(wakes('insert', { bypass: true }, { bypass: false })).toEqual(['routing']);
    expect(wakes('divider', { caption: 'a' }, { caption: 'b' })).toEqual(['rows', 'tree']);
    expect(wakes('media', { name: 'a' }, { name: 'b' })).toEqual(['clips', 'rows']);
    expect(wakes('settings', { bpm: 100 }, { bpm: 90 })).toEqual([]);
  });

  it('wakes the channel on which a row stands, and the one it came from', () => {
    const { session } = desk();
    const insert = [...session.insert.values()][0];
    const moved: Change = { table: 'insert', key: insert.id, before: { channelId: 'gone' }, after: { channelId: insert.channelId } };
    expect([...rowsWoken(session, [moved])].sort()).toEqual(
      [`insert ${insert.id}`, 'insert of gone', `insert of ${insert.channelId}`].sort()
    );
  });

  it('removes with a channel what stands on it, once, and a recording with its last clip', () => {
    const { session } = desk();
    carryOut(session, { do: 'showings.save', id: 'set', number: 1, name: 'Both', ids: ['t1', 't2'] });
    carryOut(session, { do: 'showings.save', id: 'one', number: 2, name: 'One', ids: ['t1'] });
    const changes = removedWith(session, new Set(['t1', 'echo']));
    const removed = changes.filter(({ after }) => after === null).map(({ table, key }) => `${table} ${key}`);
    expect(new Set(removed).size).toBe(removed.length);
    expect(removed).toEqual(
      expect.arrayContaining(['send t1\necho', 'send t7\necho', 'insert echo-delay', 'clip t1:1', 'media m-t1', 'showing one'])
    );
    expect(changes.find(({ key }) => key === 'set')!.after).toEqual({ ids: ['t2'] });
    // A key from what goes keeps its name: it is silent then, and undo finds it.
    expect(removed.some((each) => each === 'insert c-t3')).toBe(false);
  });

  it('copies what stands on channels, and keeps within the copy what was within', () => {
    const { session } = desk();
    const copyOf = new Map([
      ['t1', 'u1'],
      ['t3', 'u3'],
      ['echo', 'uEcho']
    ]);
    const copies = copiedWith(session, copyOf);
    const rows = (table: string) => copies.filter((each) => each.table === table).map(({ after }) => after!);
    // Of t3 the compressor listens to t1; of t1 and t3 both send to the echo.
    expect(rows('insert').find(({ channelId, type }) => channelId === 'u3' && type === 'comp')!.keyId).toBe('u1');
    expect(rows('send').filter(({ targetId }) => targetId === 'uEcho')).toHaveLength(2);
    expect(rows('send').every(({ sourceId }) => [...copyOf.values()].includes(sourceId as string))).toBe(true);
    expect(rows('clip').map(({ channelId }) => channelId)).toEqual(['u1', 'u3']);
    expect(copiedWith(session, copyOf, { without: ['send'] }).some(({ table }) => table === 'send')).toBe(false);
    expect(within('channel', session.channel.get('t1')!, new Map([['channel', new Map([['low', 'copy']])]]))).toEqual({ outputId: 'copy' });
  });

  it('checks arguments by the column they go into', () => {
    const taken = (check: { isValidSync(value: unknown): boolean }, ...values: unknown[]) =>
      values.map((value) => check.isValidSync(value));
    expect(taken(field('settings', 'bpm'), 20, 400, 19.9, 401, undefined)).toEqual([true, true, false, false, true]);
    expect(taken(field('settings', 'interfaceOutputs'), 8, 7, 130)).toEqual([true, false, false]);
    expect(taken(field('settings', 'soloDimDb'), null, -6, 1)).toEqual([true, true, false]);
    expect(taken(field('settings', 'name'), 'x', '', ' ', 'a\u0000')).toEqual([true, false, false, false]);
    expect(taken(field('media', 'encoding'), 'f64', 'mp3')).toEqual([true, false]);
    expect(taken(field('channel', 'colour'), 0, 11.9, 12)).toEqual([true, true, false]);
  });
});

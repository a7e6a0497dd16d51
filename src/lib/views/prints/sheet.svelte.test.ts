// The version sheet: what a cell says is what it means, whatever is set is one step that the session takes, and columns are copied,
// pasted, filled and moved whole.
import fc from 'fast-check';
import { beforeEach, expect, it, vi } from 'vitest';
import type { Command } from '$core/commands/index';
import { AS_THE_MIX } from '$core/prints/usual';
import { checkSession } from '$core/session/check';
import { decodeSession, encodeSession } from '$core/session/tables';
import { finished } from '$demo/finished';
import { pageDesk } from '../../../../tests/oracle/page';
import { carryOut, emptyDesk, RATE, trackCommand } from '../../../../tests/oracle/rig';
import { cellText, freeName, isIn, parseCell, partsOf, rowsOf, setting, withCell, type Value } from './cells';
import { createSheet } from './sheet.svelte';

const ids = Array.from({ length: 24 }, (_, i) => `t${i + 1}`);
const document = encodeSession(carryOut(emptyDesk(), trackCommand(ids.map((id) => ({ id, frames: 48 * RATE }))), ...finished(ids)));
let clipboard = '';
beforeEach(() => {
  clipboard = '';
  const text = { writeText: (given: string) => Promise.resolve(void (clipboard = given)), readText: () => Promise.resolve(clipboard) };
  vi.stubGlobal('navigator', { clipboard: text });
});
const desk = () => {
  const { desk, said } = pageDesk(decodeSession(document));
  return { ...desk, said, sheet: createSheet(desk, () => undefined) };
};
type Own = ReturnType<typeof desk>;
const names = ({ store }: Own) => store.versions.map(({ name }) => name);

it('says in each cell what a text that is typed there means, and sets it by a command that is taken', () => {
  const session = decodeSession(document);
  const rows = rowsOf(session);
  expect(rows.map(({ kind }) => kind)).toEqual([...Array(6).fill('stem'), 'insert', 'insert', 'fader', 'fades', 'apart'] as string[]);
  const value = fc.oneof(
    fc.constantFrom<Value>('in', 'out', 'mix'),
    fc.integer({ min: -1200, max: 120 }).map((tenths) => tenths / 10)
  );
  fc.assert(
    fc.property(fc.nat(4), fc.nat(rows.length - 1), value, (column, at, wanted) => {
      const session = decodeSession(document);
      const version = [...session.version.values()][column];
      const row = rows[at];
      const parts = withCell(partsOf(version), row, wanted);
      for (const command of setting(version, parts)) carryOut(session, command);
      const now = session.version.get(version.id)!;
      expect(partsOf(now)).toEqual(parts);
      expect(checkSession(session)).toMatchObject({ ok: true });
      if (row.kind === 'apart') return;
      const again = parseCell(cellText(session, now, row), row)!;
      expect(withCell(parts, row, again)).toEqual(parts);
      if (wanted !== 'mix') expect(isIn(now, row)).toBe(wanted !== 'out');
    })
  );
  expect(['', ' Out ', 'on', '-3', '−3,5 dB', '+40', '-inf', 'loud'].map((text) => parseCell(text, rows[0]))).toEqual([
    ...['mix', 'out', 'in', -3, -3.5, 12, 'out', null]
  ]);
  expect(parseCell('-3', rows[6])).toBeNull();
});

it('makes, copies, pastes, moves and removes whole versions, each as one step', async () => {
  const own = desk();
  const { sheet, store } = own;
  const first = names(own);
  sheet.grid.go({ row: -1, column: 3 });
  sheet.copy();
  expect(clipboard.split('\n')[0]).toBe(first[3]);
  sheet.grid.go({ row: -1, column: 0 });
  await sheet.paste();
  expect(names(own)).toEqual([first[0], `${first[3]} 2`, ...first.slice(1)]);
  // What is set apart has no words that could be read: it comes along all the same.
  expect(partsOf(store.versions[1])).toEqual(partsOf(store.versions[4]));
  sheet.grid.go({ row: -1, column: 0 });
  sheet.grid.go({ row: -1, column: 1 }, true);
  sheet.move(1);
  expect(names(own).slice(0, 3)).toEqual([first[1], first[0], `${first[3]} 2`]);
  expect(sheet.grid.columns).toEqual([1, 2]);
  sheet.remove();
  expect(names(own)).toEqual(first.slice(1));
  sheet.add(null, [{ name: first[1], parts: AS_THE_MIX }]);
  expect(names(own).at(-1)).toBe(`${first[1]} 2`);
  expect(freeName(store.session, `${first[1]} 2`)).toBe(`${first[1]} 3`);
});

it('fills the columns chosen by the stems chosen, and takes cells from a spreadsheet', async () => {
  const own = desk();
  const { sheet, store } = own;
  const stems = sheet.stems.map(({ id }) => id);
  const fill = (label: RegExp) => {
    const entry = sheet.fills().find((each) => label.test(each.label))!;
    expect(entry.off).toBeFalsy();
    entry.run();
  };
  sheet.grid.go({ row: 0, column: 0 });
  sheet.grid.go({ row: 1, column: 1 }, true);
  fill(/^Only HAND DRUMS, PANS$/);
  for (const version of store.versions.slice(0, 2)) expect(stems.filter((id) => version.stems[id] !== '-inf')).toContain(stems[0]);
  expect(store.versions[0].stems[stems[2]]).toBe('-inf');
  fill(/^Without HAND DRUMS, PANS$/);
  expect(store.versions[1].stems[stems[0]]).toBe('-inf');
  fill(/^All as in the mix$/);
  expect(partsOf(store.versions[0])).toEqual(AS_THE_MIX);
  expect(sheet.notes.get(store.versions[1].id)).toBe('');
  clipboard = '-3\tout\r\n+1\tin\r\n';
  await sheet.paste();
  expect(store.versions[0].stems).toEqual({ [stems[0]]: -3, [stems[1]]: 1 });
  expect(store.versions[1].stems).toEqual({ [stems[0]]: '-inf' });
  clipboard = 'out';
  await sheet.paste();
  expect(store.versions[1].stems).toEqual({ [stems[0]]: '-inf', [stems[1]]: '-inf' });
  expect(sheet.notes.get(store.versions[1].id)).toMatch(/The same as/);
  clipboard = 'nothing of the sort';
  await sheet.paste();
  expect(own.said()).toMatch(/holds nothing for here/);
  sheet.grid.go({ row: 0, column: 0 });
  sheet.grid.go({ row: 5, column: 0 }, true);
  sheet.put('out');
  expect(sheet.notes.get(store.versions[0].id)).toMatch(/^Silent/);
  store.act([{ do: 'versions.remove', ids: store.versions.map(({ id }) => id) } as Command]);
  expect([sheet.grid.columns, sheet.chosen(), sheet.fills().every(({ off }) => off)]).toEqual([[], [], true]);
});

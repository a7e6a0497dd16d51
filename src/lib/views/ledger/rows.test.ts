// The Ledger's rows from the tree: order, bands, folding, sections.
import { describe, expect, it } from 'vitest';
import { treeOf } from '$core/routing/graph';
import { carryOut, emptyDesk, trackCommand } from '../../../../tests/oracle/rig';
import { dividersAbove, END, sectionsOf } from './rows';

const session = carryOut(
  emptyDesk(),
  trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }, { id: 'd' }]),
  { do: 'buses.add', id: 'B', name: 'B', members: ['b', 'c'] },
  { do: 'buses.add', id: 'A', name: 'A', members: ['B'] },
  { do: 'channels.route', ids: ['d'], to: null }
);
const bands = (line: { bands: readonly { id: string; first: boolean; last: boolean }[] }) =>
  line.bands.map(({ id, first, last }) => `${first ? '┌' : ''}${id}${last ? '┘' : ''}`).join(' ');

describe('rows', () => {
  it('leaves out what is hidden, and has dividers above the first row shown below them', () => {
    const desk = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }]),
      { do: 'dividers.set', id: 'x', caption: 'Low', before: 'b' },
      { do: 'dividers.set', id: 'y', caption: 'End', before: null },
      { do: 'hides.set', ids: ['b'], on: true }
    );
    const order = sectionsOf(treeOf(desk), new Set()).flatMap(({ lines }) => lines.map(({ id }) => id));
    expect(order).toEqual(['mix', 'a', 'c']);
    expect([...dividersAbove(desk, order)].map(([id, list]) => [id, list.map(({ caption }) => caption)])).toEqual([
      ['c', ['Low']],
      [END, ['End']]
    ]);
  });

  it('draws one band a level, rounded where its branch begins and ends', () => {
    const [mix, nowhere] = sectionsOf(treeOf(session), new Set());
    expect(mix.lines.map((line) => `${line.id}: ${bands(line)}`)).toEqual([
      'mix: ┌mix',
      'a: mix',
      'A: mix ┌A',
      'B: mix A ┌B',
      'b: mix A B',
      'c: mix┘ A┘ B┘'
    ]);
    expect(nowhere).toMatchObject({ key: 'nowhere', caption: 'Going nowhere · 1 channel', lines: [{ id: 'd', depth: 0, bands: [] }] });
  });
  it('folds a branch into its bus, which then closes the bands', () => {
    const [mix] = sectionsOf(treeOf(session), new Set(['A']));
    expect(mix.lines.map((line) => `${line.id}: ${bands(line)}`)).toEqual(['mix: ┌mix', 'a: mix', 'A: mix┘ ┌A┘']);
    expect(mix.lines.at(-1)).toMatchObject({ folded: true, members: 1 });
  });
});

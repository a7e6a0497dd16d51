// Selecting rows as people expect of lists.
import { describe, expect, it } from 'vitest';
import { createSelection } from './selection.svelte';

describe('selection', () => {
  const order = ['a', 'b', 'c', 'd', 'e'];
  const plain = { shift: false, toggle: false };
  it('takes one, reaches with Shift, adds and takes away with Ctrl', () => {
    const selection = createSelection();
    selection.click('b', order, plain);
    selection.click('d', order, { shift: true, toggle: false });
    expect([...selection.ids]).toEqual(['b', 'c', 'd']);
    // The anchor stays: reaching the other way starts from it again.
    selection.click('a', order, { shift: true, toggle: false });
    expect([...selection.ids]).toEqual(['a', 'b']);
    selection.click('e', order, { shift: false, toggle: true });
    selection.click('a', order, { shift: false, toggle: true });
    expect([...selection.ids]).toEqual(['b', 'e']);
    selection.click('c', order, plain);
    expect([...selection.ids]).toEqual(['c']);
    expect(selection.last).toBe('c');
  });
  it('forgets what was removed', () => {
    const selection = createSelection();
    selection.set(['a', 'b', 'c'], 'b');
    selection.forget(new Set(['b', 'x']));
    expect([[...selection.ids], selection.last]).toEqual([['a', 'c'], null]);
  });
  it('acts on the selection from a row inside it, on that row alone from outside', () => {
    const selection = createSelection();
    selection.set(['a', 'c'], 'a');
    expect(selection.around('c')).toEqual(['a', 'c']);
    expect(selection.around('b')).toEqual(['b']);
  });
});

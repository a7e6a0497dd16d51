// Crosspoints in the clipboard: what is written is read back, and what spreadsheets write is understood.
import { describe, expect, it } from 'vitest';
import { carryOut, emptyDesk, trackCommand } from '../../../../tests/oracle/rig';
import { cellFields, cellText, createBlock } from './block.svelte';

const session = carryOut(
  emptyDesk(),
  trackCommand([{ id: 'a' }, { id: 'b' }, { id: 'c' }]),
  { do: 'returns.add', id: 'r', name: 'R' },
  { do: 'returns.add', id: 's', name: 'S' },
  {
    do: 'sends.set',
    sends: [
      { source: 'a', target: 'r', level: -6, tap: 'pre', on: false, mono: true, pan: -30 },
      { source: 'b', target: 's', level: -12.5 }
    ]
  }
);

describe('blocks', () => {
  it('write a crosspoint so that it is read back whole', () => {
    const text = cellText(session.send.get('a\nr'));
    expect(text).toBe('−6.0 pre off mono pan -30');
    expect(cellFields(text)).toEqual({ level: -6, tap: 'pre', on: false, mono: true, pan: -30 });
    expect(cellText(undefined)).toBe('');
    expect(cellFields('-7,5')).toEqual({ level: -7.5, tap: 'post', on: true, mono: false, pan: null });
    expect(cellFields('loud')).toBeNull();
  });

  it('copy rows and columns as a spreadsheet does, paste them elsewhere, clear what is empty, refuse what is no level', () => {
    const block = createBlock(
      session,
      () => ['a', 'b', 'mix', 'c', 'r', 's'],
      () => ['r', 's']
    );
    block.start({ source: 'a', target: 'r' });
    block.extend({ source: 'a', target: 'r' }, { source: 'b', target: 's' });
    expect([block.large, block.has('b', 'r'), block.has('c', 'r')]).toEqual([true, true, false]);
    const text = block.text({ source: 'a', target: 'r' });
    expect(text).toBe('−6.0 pre off mono pan -30\t\n\t−12.5');
    block.clear();
    expect(block.paste(text, { source: 'b', target: 'r' })).toEqual([
      { do: 'sends.set', sends: [{ source: 'b', target: 'r', level: -6, tap: 'pre', on: false, mono: true, pan: -30 }] },
      { do: 'sends.remove', sources: ['b'], target: 's' }
    ]);
    expect(block.paste('-3\r\n-4\r\n', { source: 'a', target: 's' })).toMatchObject([
      {
        do: 'sends.set',
        sends: [
          { source: 'a', level: -3 },
          { source: 'b', level: -4 }
        ]
      }
    ]);
    expect(block.paste('hello', { source: 'a', target: 'r' })).toBeNull();
  });
});

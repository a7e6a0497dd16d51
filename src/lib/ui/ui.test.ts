// Numbers as people type and read them, the rail’s scale, and gain reduction as it is drawn.
import { describe, expect, it, vi } from 'vitest';
import { barText, dbText, panText, parseDb, parsePan, timeText } from './format';
import { drawReductions, reduction } from './reductions';
import { dbAt, railAt } from './scale';

describe('numbers', () => {
  it('reads levels however they are typed', () => {
    const typed = ['-6', '−6,5', '+2', '-inf', '−∞', '3 dB', '.5', 'six', '', '--3', '1e3'];
    expect(typed.map(parseDb)).toEqual([-6, -6.5, 2, -Infinity, -Infinity, 3, 0.5, null, null, null, null]);
    expect(['L30', '12 r', 'c', '-40', 'x'].map(parsePan)).toEqual([-30, 12, 0, -40, null]);
  });
  it('writes levels, pans and positions', () => {
    expect([0, -0.04, 1, -12.55, -Infinity].map(dbText)).toEqual(['0.0', '0.0', '+1.0', '−12.6', '−∞']);
    expect([0, -30, 12.4].map(panText)).toEqual(['C', 'L 30', 'R 12']);
    expect(timeText(27.914 * 48000, 48000)).toBe('0:27.914');
    // 104 BPM: beat 49 begins at 28.269 s, so 27.914 s is beat 48 of 4/4: bar 13, beat 1.
    expect(barText(27.914 * 48000, 48000, 104, 4)).toBe('bar 13 · 1 + 221 ms');
    expect(barText(0, 48000, 104, 4)).toBe('bar 1 · 1 + 0 ms');
  });
  it('has a scale that can be read back', () => {
    for (const db of [-60, -24, -6, 0, 3, 12]) expect(dbAt(railAt(db))).toBeCloseTo(db, 6);
    expect([railAt(-Infinity), dbAt(0), railAt(40)]).toEqual([0, -Infinity, 1]);
  });
});

describe('gain reduction on screen', () => {
  it('fills to 12 dB, tells more than that, and touches a style only when its step changes', () => {
    const figure = { textContent: '' };
    const set = vi.fn();
    const element = { style: { setProperty: set }, querySelector: () => figure } as unknown as HTMLElement;
    const kept = reduction(element, 'comp');
    const draw = (db: number) => drawReductions({ reduction: (id) => (id === 'comp' ? db : 0) });
    draw(-3);
    draw(-3.02);
    expect(set.mock.calls).toEqual([['--reduced', '0.25']]);
    expect(figure.textContent).toBe('−3.0');
    draw(-18.5);
    expect(set).toHaveBeenLastCalledWith('--reduced', '1.00');
    expect(figure.textContent).toBe('−18.5');
    kept.update('another');
    draw(-18.5);
    expect([set.mock.lastCall, figure.textContent]).toEqual([['--reduced', '0.00'], '0.0']);
    kept.destroy();
    draw(-6);
    expect(set).toHaveBeenCalledTimes(3);
  });
});

// Numbers as people type and read them, the rail’s scale, and gain reduction as it is drawn.
import { describe, expect, it, vi } from 'vitest';
import { rateOf } from '../state/handed';
import { agoText, barText, clockText, dbText, panText, parseDb, parsePan, sizeText, timeText } from './format';
import { onKeys, pressed } from './keys';
import { drawReductions, reduction } from './reductions';
import { dbAt, railAt } from './scale';

describe('numbers', () => {
  it('says sizes, ages and lengths as people do', () => {
    expect([0, 999, 1000, 48_200_000, 175_400_000, 2.5e12].map(sizeText)).toEqual([
      '0 B',
      '999 B',
      '1.0 kB',
      '48.2 MB',
      '175 MB',
      '2.5 TB'
    ]);
    const now = Date.parse('2026-11-27T12:00:00Z');
    const ages = ['2026-11-27T11:59:30Z', '2026-11-27T11:58:00Z', '2026-11-27T09:00:00Z', '2026-11-26T11:00:00Z', '2026-12-27T12:00:00Z'];
    expect(ages.map((moment) => agoText(moment, now))).toEqual(['just now', '2 minutes ago', '3 hours ago', 'yesterday', 'in 30 days']);
    expect([0.4, 48, 187, 3729].map(clockText)).toEqual(['0:00', '0:48', '3:07', '1:02:09']);
  });
  it('tells the rate of the first WAV file that was chosen', async () => {
    const wav = (rate: number, before: Uint8Array<ArrayBuffer>) => {
      const fmt = new DataView(new ArrayBuffer(24));
      [...'fmt '].forEach((letter, i) => fmt.setUint8(i, letter.charCodeAt(0)));
      fmt.setUint32(4, 16, true);
      fmt.setUint32(12, rate, true);
      return new File([new Uint8Array(12), before, fmt.buffer], 'a.WAV');
    };
    // A chunk of odd length before it is followed by a byte of padding.
    const odd = new Uint8Array([0x4a, 0x55, 0x4e, 0x4b, 3, 0, 0, 0, 1, 2, 3, 0]);
    expect(await rateOf([new File(['x'], 'a.mp3'), wav(96_000, odd)])).toBe(96_000);
    expect(await rateOf([wav(44_100, new Uint8Array())])).toBe(44_100);
    expect(await rateOf([new File(['RIFF'], 'short.wav')])).toBeNull();
    expect(await rateOf([new File(['x'], 'a.flac')])).toBeNull();
  });
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

describe('keys', () => {
  const event = (key: string, held: Partial<Record<'ctrlKey' | 'altKey' | 'metaKey' | 'shiftKey', boolean>> = {}, code = '') => {
    const mods = { Control: held.ctrlKey, Alt: held.altKey, Meta: held.metaKey, Shift: held.shiftKey };
    return {
      ...{ key, code, ctrlKey: false, altKey: false, metaKey: false, shiftKey: false, ...held },
      getModifierState: (name: keyof typeof mods) => mods[name] ?? false,
      preventDefault: vi.fn()
    } as unknown as KeyboardEvent;
  };
  it('mean a letter as it is typed, a sign however the layout makes it, and nothing with more held than they say', () => {
    const ran: string[] = [];
    const bind = (key: string, when?: () => boolean) => pressed(key).map((press) => ({ press, run: () => void ran.push(key), when }));
    const keys = onKeys(
      [
        ...['m', 'S', '?', '+', '(', '/', 'F2', 'Delete'].flatMap((key) => bind(key)),
        ...bind('x', () => false),
        { press: '$mod+a', run: () => void ran.push('all') },
        { press: 'Alt+ArrowUp', run: () => void ran.push('up') }
      ],
      ({ key }) => key === '('
    );
    const done = [
      ...[event('m'), event('S', { shiftKey: true }), event('?', { shiftKey: true }), event('+'), event('+', { shiftKey: true })],
      ...[
        event('/'),
        event('/', { shiftKey: true }),
        event('F2'),
        event('Delete'),
        event('a', { ctrlKey: true }),
        event('ArrowUp', { altKey: true })
      ]
    ];
    const left = [
      event('M', { shiftKey: true }),
      event('s'),
      event('m', { ctrlKey: true }),
      event('x'),
      event('a'),
      event('('),
      event('ArrowUp')
    ];
    for (const one of [...done, ...left]) keys(one);
    expect(ran).toEqual(['m', 'S', '?', '+', '+', '/', '/', 'F2', 'Delete', 'all', 'up']);
    for (const one of done) expect(one.preventDefault).toHaveBeenCalledOnce();
    for (const one of left) expect(one.preventDefault).not.toHaveBeenCalled();
  });
});

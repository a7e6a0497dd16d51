// Text that can be kept: what is strange goes, and no letter is cut in half.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { cleaned, cut, isPlain, isReserved, PLAIN_PATTERN } from './text.ts';

it('knows control characters and halves of letters, and lets every script through', () => {
  expect(['Bläser 🥁', 'صوت', 'a–b −∞', ''].map(isPlain)).toEqual([true, true, true, true]);
  expect(['a\u0000', '\ud83e', 'x\u0085', '\ufffe', 'a\nb'].map(isPlain)).toEqual([false, false, false, false, false]);
  expect(['constructor', '__proto__', 'toString', 'pan'].map(isReserved)).toEqual([true, true, true, false]);
});

it('makes any text plain and short enough', () => {
  expect(cut('take 🥁', 6)).toBe('take ');
  expect(cut('take 🥁', 7)).toBe('take 🥁');
  const pattern = new RegExp(PLAIN_PATTERN, 'u');
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 40 }), fc.nat(30), (text, most) => {
      const clean = cleaned(text, most);
      expect(clean.length).toBeLessThanOrEqual(most);
      expect([isPlain(clean), pattern.test(clean), isPlain(text)]).toEqual([true, true, pattern.test(text)]);
    })
  );
});

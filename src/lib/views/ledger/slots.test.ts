// Slots are never shared, stay with what stays, and are few.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { allot } from './slots';

it('keeps the slot of what stays and gives no slot twice, however the window moves', () => {
  const windows = fc.array(fc.record({ from: fc.nat(60), length: fc.nat(12) }), { maxLength: 30 });
  fc.assert(
    fc.property(windows, (list) => {
      let slots = new Map<string, number>();
      for (const { from, length } of list) {
        const keys = Array.from({ length }, (_, i) => `row ${from + i}`);
        const next = allot(keys, slots);
        expect([...next.keys()].toSorted()).toEqual(keys.toSorted());
        expect(new Set(next.values()).size).toBe(length);
        for (const key of keys) if (slots.has(key)) expect(next.get(key)).toBe(slots.get(key));
        // Never more elements than the largest window needs.
        expect(Math.max(-1, ...next.values())).toBeLessThan(12 + 12);
        slots = next;
      }
    })
  );
});

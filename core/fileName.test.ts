import fc from 'fast-check';
import { expect, it } from 'vitest';
import { bytesOf, createNamer, cutBytes, fileNameOf, isFileName, MOST_BYTES } from './fileName';
import { depthOf, parseJson } from './json';

const anyText = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 300 }),
  fc.constantFrom('Радио'.repeat(80), '版本'.repeat(150), '🥁'.repeat(100), '...', ' . ', 'con', 'A/B', 'A:B', 'é', 'é', 'x'.repeat(400))
);

it('gives names that every file system takes, no two of them one, however long in bytes', () => {
  fc.assert(
    fc.property(fc.array(anyText, { minLength: 1, maxLength: 12 }), (texts) => {
      const namer = createNamer(['Mix.wav']);
      const names = [...texts, ...texts, 'mix'].map((text) => namer(text, 'wav'));
      for (const name of names) {
        expect(isFileName(name), name).toBe(true);
        expect(Buffer.byteLength(name)).toBeLessThanOrEqual(MOST_BYTES);
        expect(name).toMatch(/^[^\\/:*?"<>|]+\.wav$/);
      }
      expect(new Set(names.map((name) => name.normalize('NFC').toLowerCase())).size).toBe(names.length);
      expect(names.at(-1)).toMatch(/^mix \d+\.wav$/);
    }),
    { numRuns: 200, seed: 32 }
  );
  fc.assert(
    fc.property(anyText, fc.nat(260), (text, most) => {
      expect(bytesOf(text)).toBe(Buffer.byteLength(text));
      expect(Buffer.byteLength(cutBytes(text, most))).toBeLessThanOrEqual(most);
    }),
    { seed: 32 }
  );
  expect([fileNameOf('A/B: take 2.'), fileNameOf(' '), fileNameOf('Con')]).toEqual(['A-B- take 2', 'print', 'Con-']);
  for (const strange of ['', '.', '..', 'a/b', 'a\\b', 'a\0', 'я'.repeat(128), 7, null]) expect(isFileName(strange)).toBe(false);
});

it('knows how deeply JSON is nested without walking it, and reads none that is nested too deeply', () => {
  fc.assert(
    fc.property(fc.jsonValue({ maxDepth: 8 }), (value) => {
      const deep = (each: unknown): number =>
        typeof each === 'object' && each !== null ? 1 + Math.max(0, ...Object.values(each).map(deep)) : 0;
      expect(depthOf(JSON.stringify(value))).toBe(deep(value));
      expect(parseJson(JSON.stringify(value))).toEqual({ ok: true, value: JSON.parse(JSON.stringify(value)) as unknown });
    }),
    { seed: 32 }
  );
  for (const text of ['['.repeat(100_000), `${'['.repeat(100_000)}${']'.repeat(100_000)}`, '{"a":'.repeat(65), '{', 'no'])
    expect(parseJson(text)).toMatchObject({ ok: false, error: { code: 'not-json' } });
});

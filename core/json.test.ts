// JSON from outside: what is read is what JSON.parse reads, unless it is too deep or has fields that every object has.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { depthOf, MOST_DEPTH, parseJson, strangeField } from './json.ts';

it('is read as JSON.parse reads it, whatever its strings hold; what is no JSON is said to be none', () => {
  const key = fc.oneof(fc.string(), fc.constantFrom('[', '{"', '\\"', '\\\\', ']]}'));
  const { tree } = fc.letrec<{ tree: unknown }>((tie) => ({
    tree: fc.oneof({ maxDepth: 5 }, key, fc.double({ noNaN: true }), fc.array(tie('tree')), fc.dictionary(key, tie('tree')))
  }));
  const deep = (value: unknown): number =>
    typeof value === 'object' && value !== null ? 1 + Math.max(0, ...Object.values(value).map(deep)) : 0;
  fc.assert(
    fc.property(tree, fc.nat(100), (value, at) => {
      const text = JSON.stringify(value);
      expect(depthOf(text)).toBe(deep(value));
      const read = parseJson(text);
      expect(read.ok || read.error.code === 'bad-arguments').toBe(true);
      expect(strangeField(value)).toBe(read.ok ? null : read.error.data?.field);
      if (read.ok) expect(read.value).toEqual(JSON.parse(text));
      const broken = parseJson(text.slice(0, at % text.length));
      expect(broken.ok || broken.error.code === 'not-json' || broken.error.code === 'bad-arguments').toBe(true);
    }),
    { seed: 32 }
  );
});

it('is refused where it is nested more deeply than anything of ours, or holds what every object holds', () => {
  const nested = (depth: number) => '['.repeat(depth) + ']'.repeat(depth);
  expect(parseJson(nested(MOST_DEPTH)).ok).toBe(true);
  expect(parseJson(nested(MOST_DEPTH + 1))).toMatchObject({ ok: false, error: { code: 'not-json', message: /nested more than 64/ } });
  expect(parseJson(nested(1e6))).toMatchObject({ ok: false, error: { code: 'not-json' } });
  for (const name of ['toString', 'valueOf', '__proto__', 'constructor', 'hasOwnProperty'])
    expect(parseJson(`{"a": [{"${name}": 1}]}`)).toMatchObject({ ok: false, error: { code: 'bad-arguments', data: { field: name } } });
  // As text it is like any other.
  expect(parseJson('["toString"]')).toEqual({ ok: true, value: ['toString'] });
});

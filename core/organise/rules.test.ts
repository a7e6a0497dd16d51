// Names taken apart, words as tests, and the default rules on a list of file names.
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { defaultRules } from './defaultRules';
import { matching } from './roleOf';
import { renamed, renameDefaults } from './rename.ts';
import { readRuleBook } from './ruleBook';
import { matcherOf, namePartsOf } from './words';

describe('a file name', () => {
  it.each([
    ['TPT1-final.wav', ['tpt', '1', 'final'], null, 'TPT 1'],
    ['dbl sec L_01.wav', ['dbl', 'sec', 'l', '01'], 'L', 'Dbl sec L'],
    ['pan tenor R (2).wav', ['pan', 'tenor', 'r', '2'], 'R', 'Pan tenor R'],
    ['AUD_0003_surdo(1).wav', ['aud', '0003', 'surdo', '1'], null, 'Surdo 1'],
    ['ldvox_t7.wav', ['ldvox', 't', '7'], null, 'Ldvox'],
    ['LeadVocal_comp.aif', ['lead', 'vocal', 'comp'], null, 'Lead Vocal'],
    ['Caixa_é_2.flac', ['caixa', 'e', '2'], null, 'Caixa é 2'],
    ['AUD_0007_take3.wav', ['aud', '0007', 'take', '3'], null, '']
  ])('%s', (file, tokens, side, clean) => expect(namePartsOf(file)).toEqual({ tokens, side, clean }));

  it('is taken apart whatever it holds', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        const { tokens, clean } = namePartsOf(text);
        expect(tokens.every((token) => /^[\p{L}\p{M}\d]+$/u.test(token))).toBe(true);
        expect(clean).toBe(clean.trim());
      })
    ));
});

describe('words of a rule', () => {
  const holds = (words: string, file: string) => {
    const matcher = matcherOf(words);
    return typeof matcher === 'function' ? matcher(namePartsOf(file), file) : matcher;
  };
  it('are whole words, phrases, beginnings or a pattern', () => {
    expect(holds('bass', 'Bassoon.wav')).toBe(false);
    expect(holds('bass*', 'Bassoon.wav')).toBe(true);
    expect(holds('bass drum', 'BassDrum_02.wav')).toBe(true);
    expect(holds('bass drum', 'drum bass.wav')).toBe(false);
    expect(holds('hi hat', 'hihat.wav')).toBe(true);
    expect(holds('trömmel', 'Trommel 2.wav')).toBe(true);
    expect(holds('/^aud_\\d{4}_s/i', 'AUD_0003_surdo.wav')).toBe(true);
  });
  it.each([
    ['', 0, 'words or a'],
    ['kick,, snare', 5, 'between the commas'],
    ['ki*ck', 2, 'only at the end'],
    ['/abc', 4, 'closing'],
    ['/a(b/', 2, 'missing closing )'],
    ['/[a-/', 1, 'missing closing ]'],
    ['/a/g', 3, 'only i'],
    ['/(?=a)b/', 2, 'look-ahead'],
    ['/(a)\\1/', 5, 'back references'],
    ['/((a{99}){99}){99}/', 17, 'repeat count']
  ])('%s is refused, and says where', (words, at, said) => {
    const found = matcherOf(words);
    expect(found).toMatchObject({ at, message: expect.stringContaining(said) as string });
  });
  it('take time in proportion to the name, however they repeat', () => {
    const long = `${'a'.repeat(20_000)}b`;
    expect(['/((a+))+$/', '/(a|a)*$/', '/(a|aa)+$/', '/(x+x+)+y/i'].map((words) => holds(words, long))).toEqual([
      false,
      true,
      false,
      false
    ]);
    const slow = { ...renameDefaults, find: '((a+))+$', replace: '$1!', pattern: true };
    expect(renamed([`${'a'.repeat(100)}b`, 'b aa'], slow)).toEqual({ ok: true, value: [`${'a'.repeat(100)}b`, 'b aa!'] });
  });

  it('broken or unknown in a book are refused with the rule', () => {
    const [first] = defaultRules.rules;
    const refused = (rule: object) => readRuleBook({ ...defaultRules, rules: [{ ...first, ...rule }] });
    expect(refused({ words: '/x(/' })).toMatchObject({ ok: false, error: { code: 'bad-pattern', data: { rule: first.id, at: 2 } } });
    expect(refused({ family: 'NOBODY' })).toMatchObject({ ok: false, error: { code: 'bad-rules' } });
    expect(refused({ role: 'queen' })).toMatchObject({ ok: false, error: { code: 'bad-rules' } });
    expect(readRuleBook(JSON.parse(JSON.stringify(defaultRules))).ok).toBe(true);
  });
});

it('the default rules know what at least 95 % of 300 file names are', () => {
  const list = readFileSync('tests/fixtures/file-names.txt', 'utf8')
    .split('\n')
    .filter((line) => line && !line.startsWith('#'))
    .flatMap((line) => {
      const [role, names] = line.split(/: (.*)/);
      return names.split('; ').map((file) => ({ file, role: role === 'none' ? '' : role }));
    });
  expect(list.length).toBeGreaterThanOrEqual(300);
  const match = matching(defaultRules.rules);
  const missed = list.flatMap(({ file, role }) => {
    const found = match(file).rule?.role ?? '';
    return found === role ? [] : [`${file}: ${found || 'nothing'}, not ${role || 'nothing'}`];
  });
  const rate = 1 - missed.length / list.length;
  console.info(`Default rules: ${(rate * 100).toFixed(1)} % of ${list.length} file names. Missed: ${missed.join('; ') || 'none'}`);
  expect(rate).toBeGreaterThanOrEqual(0.95);
});

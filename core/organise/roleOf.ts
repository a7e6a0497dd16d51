// Which rule of a book takes a file name: the first that holds; what else would have held is told.
import type { Rule } from './ruleBook.ts';
import { matcherOf, namePartsOf, type Matcher } from './words.ts';

export type Match = { readonly rule: Rule | null; readonly others: readonly Rule[] };

/** A function from a file name to the rule that takes it. Rules whose words are broken take nothing. */
export function matching(rules: readonly Rule[]): (file: string) => Match {
  const matchers = rules.map((rule): [Rule, Matcher] => {
    const matcher = matcherOf(rule.words);
    return [rule, typeof matcher === 'function' ? matcher : () => false];
  });
  return (file) => {
    const parts = namePartsOf(file);
    const [rule = null, ...others] = matchers.filter(([, holds]) => holds(parts, file)).map(([found]) => found);
    return { rule, others };
  };
}

// What a rule book is: families of instruments with their buses, and rules from words in a file name to what a track becomes.
import * as yup from 'yup';
import { ok, refuse, type Result } from '../result.ts';
import { ROLES } from '../session/roles.ts';
import { matcherOf } from './words.ts';

/** A family of instruments: its bus, the section that its bus goes into, the stem of that. */
export type Family = {
  readonly name: string;
  readonly section: string;
  readonly stem: string;
  /** Family hue, 0 … < 12. */
  readonly colour: number;
};

export type Rule = {
  readonly id: string;
  /** Alternatives with commas between, or a /pattern/; see `matcherOf`. */
  readonly words: string;
  readonly role: string;
  /** Name of a family, or '' for none. */
  readonly family: string;
  /** The buses from the outermost in, "VOICES / CHOIR"; '' is the family's, "NOWHERE" no output at all. */
  readonly bus: string;
  /** Null is the family's. */
  readonly colour: number | null;
  /** Name pattern with {clean}, {n}, {side}, {file}; '' is {clean}. */
  readonly name: string;
  /** How far to the side that the name says; 0 leaves it. */
  readonly pan: number;
  /** Returns, with commas between, that get a send at −∞. */
  readonly sends: string;
};

export type RuleBook = { readonly families: readonly Family[]; readonly rules: readonly Rule[] };

export const NOWHERE = 'NOWHERE';

const text = (most: number) => yup.string().max(most).defined();
const hue = () => yup.number().min(0).lessThan(12);
const schema = yup.object({
  families: yup
    .array()
    .of(yup.object({ name: text(60).min(1), section: text(60), stem: text(60), colour: hue().required() }))
    .max(200)
    .required(),
  rules: yup
    .array()
    .of(
      yup.object({
        id: text(80).min(1),
        words: text(2000),
        role: yup
          .string()
          .oneOf(['', ...ROLES.map(({ id }) => id)])
          .defined(),
        family: text(60),
        bus: text(200),
        colour: hue().nullable().defined(),
        name: text(120),
        pan: yup.number().min(0).max(100).defined(),
        sends: text(200)
      })
    )
    .max(2000)
    .required()
});

/** A rule book that came from outside, or what is wrong in it and where. */
export function readRuleBook(given: unknown): Result<RuleBook> {
  let book: RuleBook;
  try {
    book = schema.validateSync(given, { strict: true }) as RuleBook;
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    return refuse('bad-rules', `The rules cannot be read: ${error.message}.`, { path: error.path });
  }
  const families = new Set(book.families.map(({ name }) => name));
  if (families.size < book.families.length) return refuse('bad-rules', 'Two families have one name.');
  if (new Set(book.rules.map(({ id }) => id)).size < book.rules.length) return refuse('bad-rules', 'Two rules have one id.');
  for (const [i, rule] of book.rules.entries()) {
    const matcher = matcherOf(rule.words);
    if (typeof matcher !== 'function')
      return refuse('bad-pattern', `Rule ${i + 1}, “${rule.words}”, at letter ${matcher.at + 1}: ${matcher.message}`, {
        rule: rule.id,
        at: matcher.at
      });
    if (rule.family && !families.has(rule.family))
      return refuse('bad-rules', `Rule ${i + 1}, “${rule.words}”, names the family ${rule.family}, which is not in the list.`, {
        rule: rule.id
      });
  }
  return ok(book);
}

/** The buses of a rule from the outermost in, without repeats; null for nowhere, empty where it says nothing. */
export function pathOf(rule: Rule, families: readonly Family[]): { readonly path: string[] | null; readonly stem: string } {
  if (rule.bus.trim().toUpperCase() === NOWHERE) return { path: null, stem: '' };
  const family = families.find(({ name }) => name === rule.family);
  const own = rule.bus
    .split('/')
    .map((part) => part.trim())
    .filter(Boolean);
  const path = own.length ? own : family ? [family.section, family.name].filter(Boolean) : [];
  return { path: [...new Set(path)], stem: family?.stem ?? '' };
}

// Renaming many at once: find and replace, the parts all share taken off, case, numbers. A function from names to names.
import { ok, refuse, type Result } from '../result.ts';
import { cleaned } from '../text.ts';
import { userPattern } from './pattern.ts';

export type RenameOptions = {
  readonly find: string;
  readonly replace: string;
  /** Whether `find` is a pattern; `replace` may then say $1. */
  readonly pattern: boolean;
  /** Takes off what all names begin and end with, in whole words. */
  readonly strip: boolean;
  readonly letters: 'keep' | 'upper' | 'lower' | 'words';
  readonly number: 'none' | 'before' | 'after';
  readonly from: number;
  /** Least number of digits, 1 … 4. */
  readonly digits: number;
  readonly before: string;
  readonly after: string;
};

export const renameDefaults: RenameOptions = {
  find: '',
  replace: '',
  pattern: false,
  strip: false,
  letters: 'keep',
  number: 'none',
  from: 1,
  digits: 1,
  before: '',
  after: ''
};

/** The new names, in the order given, or what is wrong. */
export function renamed(names: readonly string[], options: RenameOptions): Result<string[]> {
  const finder = finderOf(options);
  if (!finder.ok) return finder;
  const found = names.map(finder.value);
  const stripped = options.strip ? withoutShared(found) : found;
  const list = stripped.map((name, i) => {
    const number = options.number === 'none' ? '' : String(options.from + i).padStart(options.digits, '0');
    const words = `${options.before}${lettersOf(name.trim(), options.letters)}${options.after}`;
    const parts = options.number === 'before' ? [number, words] : [words, number];
    return cleaned(parts.join(' ').replace(/\s+/g, ' '), 120);
  });
  const empty = list.findIndex((name) => !name);
  return empty >= 0 ? refuse('empty', `Nothing would be left of “${names[empty]}”. A name is needed.`) : ok(list);
}

/** What finding and replacing makes of a name. Only a pattern's replacement may speak of what was found. */
function finderOf({ find, replace, pattern }: RenameOptions): Result<(name: string) => string> {
  if (!find) return ok((name) => name);
  if (!pattern) {
    const literal = new RegExp(find.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&'), 'giu');
    return ok((name) => name.replace(literal, () => replace));
  }
  const made = userPattern(find);
  if (!made.ok) return refuse('bad-pattern', `The pattern cannot be read: ${made.error.message}.`);
  return ok((name) => made.value.replace(name, replace));
}

function lettersOf(name: string, letters: RenameOptions['letters']): string {
  if (letters === 'upper') return name.toLocaleUpperCase();
  if (letters === 'lower') return name.toLocaleLowerCase();
  if (letters === 'words')
    return name
      .toLocaleLowerCase()
      .replace(/(^|[^\p{L}\p{M}\d])(\p{L})/gu, (_, gap: string, first: string) => gap + first.toLocaleUpperCase());
  return name;
}

/** Names without the words that all begin with and all end with; a name never loses its last word. */
export function withoutShared(names: readonly string[]): string[] {
  if (names.length < 2) return [...names];
  // Words with the gaps after them, so that what is left keeps its own gaps.
  const split = names.map((name) => name.match(/[^\s_.-]+[\s_.-]*/g) ?? [name]);
  const word = (text: string | undefined) => text?.replace(/[\s_.-]+$/, '').toLocaleLowerCase();
  const shared = (from: (words: readonly string[], i: number) => string | undefined) => {
    const most = Math.min(...split.map((words) => words.length)) - 1;
    let count = 0;
    while (count < most && split.every((words) => word(from(words, count)) === word(from(split[0], count)))) count++;
    return count;
  };
  const first = shared((words, i) => words[i]);
  const last = Math.min(
    shared((words, i) => words.at(-1 - i)),
    Math.min(...split.map((words) => words.length)) - 1 - first
  );
  return split.map((words) =>
    words
      .slice(first, words.length - Math.max(0, last))
      .join('')
      .replace(/^[\s_.-]+|[\s_.-]+$/g, '')
  );
}

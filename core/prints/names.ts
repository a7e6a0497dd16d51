// Names of printed files: a pattern with tokens. That every file system takes them, and no two are one, is seen to by `core/fileName.ts`.
import { createNamer, fileNameOf } from '../fileName.ts';
import { settingsOf, type Session } from '../session/entities.ts';
import type { Format, PlannedFile, PrintOrder, Range } from './order.ts';
import { rateOf } from './order.ts';

/** What stands for something in a pattern, and what for. */
export const TOKENS = {
  session: 'name of the session',
  name: 'what it is of',
  kind: 'mix, stem, version …',
  number: 'place among the files, 01, 02 …',
  range: 'the range, where one is printed',
  rate: 'sample rate, 48k',
  depth: '16, 24, 32 or 32f',
  date: 'the day, yyyy-mm-dd'
} as const;
type Token = keyof typeof TOKENS;

export const EXTENSIONS: Readonly<Record<Format, 'wav' | 'flac'>> = {
  ...{ wav16: 'wav', wav24: 'wav', wav32: 'wav', wav32f: 'wav' },
  ...{ flac16: 'flac', flac24: 'flac' }
};
/** Bytes of a name that stay where its kind and a number are added. */
const MOST = 220;

export type Named = {
  /** With their endings, in the order of the files. */
  readonly names: readonly string[];
  /** What was changed so that they can be kept, in words. */
  readonly notes: readonly string[];
};

/** Tokens of a pattern that mean nothing. */
export const unknownTokens = (pattern: string): string[] =>
  [...pattern.matchAll(/\{([^{}]*)\}/g)].flatMap(([, token]) => (Object.hasOwn(TOKENS, token) ? [] : [token]));

const rateText = (rate: number) => (rate % 1000 === 0 ? `${rate / 1000}k` : `${rate / 1000}k`.replace('.', '_'));

/**
 * Names for files, a range after another where there are several; `date` is a day as yyyy-mm-dd. Two that would be one get their kind, then a number.
 * `fileNames(session, order, files, '2026-11-27').names` → `['Ferry Shed - mix.wav']`
 */
export function fileNames(session: Session, order: PrintOrder, files: readonly PlannedFile[], date: string): Named {
  const { name: title } = settingsOf(session);
  const ranges: readonly (Range | null)[] = order.ranges.length ? order.ranges : [null];
  const pattern = ranges.length > 1 && !order.names.includes('{range}') ? `${order.names} {range}` : order.names;
  const digits = Math.max(2, String(files.length).length);
  const wanted = ranges.flatMap((range, part) =>
    files.map(({ kind, name }, i) => {
      const values: Record<Token, string> = {
        session: title,
        name,
        kind,
        number: String(i + 1).padStart(digits, '0'),
        range: range ? (range.name ?? (ranges.length > 1 ? `part ${part + 1}` : `${range.from}-${range.to}`)) : '',
        rate: rateText(rateOf(session, order)),
        depth: order.format.replace(/^\D+/, ''),
        date
      };
      const text = pattern.replace(/\{([^{}]*)\}/g, (whole, token: string) =>
        Object.hasOwn(values, token) ? values[token as Token] : whole
      );
      return { text, kind };
    })
  );
  const extension = EXTENSIONS[order.format];
  const plain = wanted.map(({ text }) => fileNameOf(text, MOST));
  const notes: string[] = [];
  const changed = plain.findIndex((name, i) => name !== wanted[i].text.normalize('NFC').trim());
  if (changed >= 0) notes.push(`“${wanted[changed].text}” is written as “${plain[changed]}”: not every file system takes it as it is.`);
  const count = (list: readonly string[]) => {
    const counts = new Map<string, number>();
    for (const name of list) counts.set(name.toLowerCase(), (counts.get(name.toLowerCase()) ?? 0) + 1);
    return (name: string) => counts.get(name.toLowerCase())!;
  };
  const twice = count(plain);
  const telling = plain.map((name, i) => (twice(name) > 1 ? `${name} (${wanted[i].kind})` : name));
  const namer = createNamer();
  const names = telling.map((name) => namer(name, extension));
  const clash = plain.findIndex((name) => twice(name) > 1);
  if (clash >= 0) notes.push(`${twice(plain[clash])} files would be called “${plain[clash]}”: their kinds and numbers were added.`);
  return { names, notes };
}

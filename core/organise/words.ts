// A file name taken apart: words without accents and case, numbers, which side, and what is left when take numbers and the like go.
import { userPattern } from './pattern.ts';

export type NameParts = {
  /** Words and numbers in order, lower case, no accents: "TPT1-final.wav" is tpt, 1, final. */
  readonly tokens: readonly string[];
  readonly side: 'L' | 'R' | null;
  /** The name as people would write it: without counters of recorders, takes, versions, copies. */
  readonly clean: string;
};

/** Words that say something of the file, not of the music. */
const NOISE = new Set(
  'aud audio take tk tak final ok good best keep new old copy dup duplicate edit edited comp cmp bounce bounced export exp raw stem render rendered print mixdown mono stereo st wav aif aiff flac mp3 rec recording track trk file untitled unnamed version ver normalized consolidated glued merged fixed fix def definitive neu kopie copia prise toma aufnahme'.split(
    ' '
  )
);
const SIDES: Readonly<Record<string, 'L' | 'R'>> = {
  l: 'L',
  left: 'L',
  lft: 'L',
  links: 'L',
  gauche: 'L',
  izq: 'L',
  izquierda: 'L',
  esquerda: 'L',
  r: 'R',
  right: 'R',
  rgt: 'R',
  rt: 'R',
  rechts: 'R',
  droite: 'R',
  der: 'R',
  derecha: 'R',
  direita: 'R'
};

/** Lower case, without accents. */
export const plain = (text: string): string =>
  text.toLowerCase().replaceAll('ß', 'ss').replaceAll('ø', 'o').replaceAll('æ', 'ae').normalize('NFD').replace(/\p{M}/gu, '');

/** Words as written: cut at what is no letter or digit, between letters and digits, and where a capital follows a small letter. */
const pieces = (text: string): string[] =>
  text
    .normalize('NFC')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .replace(/(\p{L})(\d)/gu, '$1 $2')
    .replace(/(\d)(\p{L})/gu, '$1 $2')
    .split(/[^\p{L}\p{M}\d]+/u)
    .filter((word) => /[\p{L}\d]/u.test(word));

export function namePartsOf(file: string): NameParts {
  const base = file.replace(/\.(wav|wave|bwf|aiff?|aifc|flac|ogg|oga|opus|mp3|w64|caf|m4a)$/i, '');
  const written = pieces(base);
  const tokens = written.map(plain);
  const side = tokens.map((token) => SIDES[token]).findLast(Boolean) ?? null;
  return { tokens, side, clean: cleaned(written, tokens, side) };
}

function cleaned(written: readonly string[], tokens: readonly string[], side: 'L' | 'R' | null): string {
  const kept: string[] = [];
  tokens.forEach((token, i) => {
    if (NOISE.has(token)) return;
    // A number after a word of the music counts instruments; after a word of the file it counts takes; long ones are a recorder's.
    if (/^\d+$/.test(token)) {
      const before = tokens[i - 1];
      if (
        token.length > 2 ||
        token.startsWith('0') ||
        before === undefined ||
        NOISE.has(before) ||
        /^\d+$/.test(before) ||
        SIDES[before] ||
        /^[tv]$/.test(before)
      )
        return;
    }
    // "t7", "v2": a take, a version.
    if (/^[tv]$/.test(token) && /^\d+$/.test(tokens[i + 1] ?? '')) return;
    if (SIDES[token] === side && side !== null) return;
    kept.push(written[i]);
  });
  const words = kept.join(' ').replace(/([\p{L}]) (\d+)/gu, '$1 $2');
  const text = [words, side].filter(Boolean).join(' ').trim();
  return text ? text[0].toLocaleUpperCase() + text.slice(1) : '';
}

/** A rule's words: alternatives with commas between, each one or more words in a row; "*" ends a beginning. Or /a pattern/. */
export type Matcher = (parts: NameParts, file: string) => boolean;
export type BadPattern = { readonly message: string; readonly at: number };

/** The test that a rule's words stand for, or what is wrong with them and where. */
export function matcherOf(words: string): Matcher | BadPattern {
  const text = words.trim();
  if (!text) return { message: 'A rule needs words or a /pattern/.', at: 0 };
  if (text.startsWith('/')) return patternOf(text);
  const phrases: { tokens: string[]; open: boolean }[] = [];
  let at = 0;
  for (const part of words.split(',')) {
    const open = part.trim().endsWith('*');
    const tokens = pieces(open ? part.trim().slice(0, -1) : part).map(plain);
    if (tokens.length === 0) return { message: 'Words are missing between the commas.', at };
    if (part.trim().slice(0, -1).includes('*')) return { message: 'A * stands only at the end of a word.', at: at + part.indexOf('*') };
    phrases.push({ tokens, open });
    at += part.length + 1;
  }
  return ({ tokens }) => phrases.some((phrase) => holds(tokens, phrase));
}

function holds(
  tokens: readonly string[],
  { tokens: sought, open }: { readonly tokens: readonly string[]; readonly open: boolean }
): boolean {
  const last = sought.length - 1;
  for (let i = 0; i + last < tokens.length; i++)
    if (sought.every((word, j) => (open && j === last ? tokens[i + j].startsWith(word) : tokens[i + j] === word))) return true;
  // Words written together: "kickin", "leadvox".
  return sought.length > 1 && tokens.includes(sought.join(''));
}

function patternOf(text: string): Matcher | BadPattern {
  const end = text.lastIndexOf('/');
  if (end === 0) return { message: 'The pattern has no closing /.', at: text.length };
  const flags = text.slice(end + 1);
  if (!/^i?$/.test(flags)) return { message: `After the closing / only i may stand, not “${flags}”.`, at: end + 1 };
  const source = text.slice(1, end);
  const pattern = userPattern(source, { ignoreCase: flags === 'i' });
  if (!pattern.ok) return { message: `${pattern.error.message}.`, at: brokenAt(source) + 1 };
  return (_, file) => pattern.value.test(file);
}

/** Where a pattern breaks: the shortest beginning that can no longer be made whole. */
function brokenAt(source: string): number {
  let depth = 0;
  let opened = -1;
  let inClass = -1;
  for (let i = 0; i < source.length; i++) {
    const letter = source[i];
    if (letter === '\\') {
      i++;
      continue;
    }
    if (inClass >= 0) {
      if (letter === ']') inClass = -1;
    } else if (letter === '[') inClass = i;
    else if (letter === '(') {
      depth++;
      opened = i;
    } else if (letter === ')') {
      depth--;
      if (depth < 0) return i;
    } else if (/[*+?]/.test(letter) && (i === 0 || /[(|*+]/.test(source[i - 1]))) return i;
  }
  return inClass >= 0 ? inClass : depth > 0 ? opened : Math.max(0, source.length - 1);
}

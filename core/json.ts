// JSON from outside: read as text that may be anything, never nested so deeply that whoever walks it runs out of stack, and without fields
// that every object has already.
import { ok, refuse, type Result } from './result.ts';
import { isReserved } from './text.ts';

/** Deeper than anything of ours is nested, and far from where walking it would fail. */
export const MOST_DEPTH = 64;

const QUOTE = 0x22;
const BACKSLASH = 0x5c;

/** How deeply the brackets of JSON text are nested: `depthOf('[{"a":"]"}]')` is 2. */
export function depthOf(text: string): number {
  let depth = 0;
  let most = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code === QUOTE) {
      for (i++; i < text.length && text.charCodeAt(i) !== QUOTE; i++) if (text.charCodeAt(i) === BACKSLASH) i++;
    } else if (code === 0x5b || code === 0x7b) most = Math.max(most, ++depth);
    else if (code === 0x5d || code === 0x7d) depth--;
  }
  return most;
}

/**
 * A field that every object has already (`toString`, `constructor`), at whatever depth, or null: taken for data it would be something else,
 * and neither text nor a number can be made of what holds it. What is nested more than `deepest` deep answers "…".
 */
export function strangeField(value: unknown, deepest = MOST_DEPTH): string | null {
  if (typeof value !== 'object' || value === null) return null;
  if (deepest < 0) return '…';
  for (const [name, inner] of Object.entries(value)) {
    if (isReserved(name)) return name;
    const found = strangeField(inner, deepest - 1);
    if (found) return found;
  }
  return null;
}

/**
 * The value that text holds, or why it holds none: it is no JSON (`not-json`), nested more than `MOST_DEPTH` deep, or has a field that
 * nothing of ours has (`bad-arguments`).
 */
export function parseJson(text: string): Result<unknown> {
  if (depthOf(text) > MOST_DEPTH) return refuse('not-json', `it is nested more than ${MOST_DEPTH} deep`);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError) return refuse('not-json', error.message);
    throw error;
  }
  const strange = strangeField(value);
  return strange ? refuse('bad-arguments', `it has a field “${strange}”, which nothing of ours has`, { field: strange }) : ok(value);
}

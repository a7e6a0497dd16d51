// JSON from outside: read as text that may be anything, never nested so deeply that whoever walks it runs out of stack.
import { ok, refuse, type Result } from './result.ts';

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

/** The value that text holds, or why it holds none: it is no JSON, or nested more than `MOST_DEPTH` deep. */
export function parseJson(text: string): Result<unknown> {
  if (depthOf(text) > MOST_DEPTH) return refuse('not-json', `it is nested more than ${MOST_DEPTH} deep`);
  try {
    return ok(JSON.parse(text));
  } catch (error) {
    if (error instanceof SyntaxError) return refuse('not-json', error.message);
    throw error;
  }
}

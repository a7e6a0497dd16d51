// Patterns that people write: matched by an RE2 port, which takes time in proportion to the text and never backtracks. So a pattern
// can neither hang the server nor the page. It has no back references and no look-ahead.
import { RE2JS, RE2JSException } from 're2js';
import { ok, refuse, type Result } from '../result.ts';

export type UserPattern = {
  readonly test: (text: string) => boolean;
  /** Every place replaced; `with_` may say $1. */
  readonly replace: (text: string, with_: string) => string;
};

/** Longer ones are no search. */
const LONGEST = 2000;

/** A pattern, or what is wrong with it in a sentence without its full stop. */
export function userPattern(source: string, { ignoreCase = false } = {}): Result<UserPattern> {
  if (source.length > LONGEST) return refuse('bad-pattern', `a pattern has at most ${LONGEST} letters`);
  try {
    const pattern = RE2JS.compile(source, ignoreCase ? RE2JS.CASE_INSENSITIVE : 0);
    return ok({
      test: (text) => pattern.matcher(text).find(),
      replace: (text, with_) => pattern.matcher(text).replaceAll(with_)
    });
  } catch (error) {
    if (!(error instanceof RE2JSException)) throw error;
    return refuse('bad-pattern', worded(error.message));
  }
}

/** What the port says, without its preamble; what it lacks is named. */
function worded(message: string): string {
  const plain = message.replace(/^error parsing regexp: /, '');
  if (/Perl syntax: `\(\?/.test(plain)) return 'look-ahead and look-behind are not possible here';
  if (/escape sequence: `\\\d/.test(plain)) return 'back references are not possible here';
  return plain.replaceAll('`', '');
}

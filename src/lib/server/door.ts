// Who may come in. On loopback everyone on this machine; elsewhere whoever knows the passphrase (argon2id, RFC 9106), with
// few tries a minute; a cookie remembers it for as long as the server runs.
import { randomBytes, timingSafeEqual } from 'node:crypto';
import { isIP } from 'node:net';
import { argon2id, argon2Verify } from 'hash-wasm';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '::1', '[::1]']);
export const COOKIE = 'isotaxis';
const TRIES = 5;
const TRIES_MS = 60_000;
export const PASSPHRASE_LEAST = 12;

export type Entry = 'open' | 'wrong' | 'wait';

export type Door = {
  /** Whether a passphrase is asked for. */
  readonly guarded: boolean;
  /** Whether a Host header is one of ours: a page elsewhere could have its own name point here. */
  readonly knows: (host: string) => boolean;
  /** Whether a cookie's token was given out by this server. */
  readonly admits: (token: string | undefined) => boolean;
  /** Tries a passphrase; a token where it is the right one. `now` in ms. */
  readonly tryPassphrase: (passphrase: string, now: number) => Promise<{ readonly entry: Entry; readonly token: string }>;
};

export const isLoopback = (host: string): boolean => LOOPBACK.has(host);

/** `names` are further host names under which the server may be asked for. */
export async function makeDoor(host: string, passphrase: string, names: readonly string[]): Promise<Door> {
  const guarded = !isLoopback(host);
  const token = randomBytes(32).toString('hex');
  const hash = guarded
    ? await argon2id({
        password: passphrase,
        salt: randomBytes(16),
        parallelism: 1,
        iterations: 3,
        memorySize: 65536,
        hashLength: 32,
        outputType: 'encoded'
      })
    : '';
  let failures: number[] = [];
  const known = new Set([...LOOPBACK, host, ...names]);
  return {
    guarded,
    knows: (given) => {
      const name = given.replace(/:\d+$/, '');
      // An address cannot be made to point elsewhere; where a passphrase is asked for, any of this machine's will do.
      return known.has(name) || (guarded && isIP(name.replace(/^\[|\]$/g, '')) !== 0);
    },
    admits: (given) => !guarded || (given?.length === token.length && timingSafeEqual(Buffer.from(given), Buffer.from(token))),
    tryPassphrase: async (given, now) => {
      failures = failures.filter((at) => now - at < TRIES_MS);
      if (failures.length >= TRIES) return { entry: 'wait', token: '' };
      // Counted before it is tried, so that many at once do not slip through.
      failures.push(now);
      if (given.length > 1000 || !(await argon2Verify({ password: given, hash }))) return { entry: 'wrong', token: '' };
      failures.pop();
      return { entry: 'open', token };
    }
  };
}

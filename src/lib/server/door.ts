// Who may come in. On loopback everyone on this machine, unless a passphrase is set, as behind a proxy; elsewhere whoever knows the passphrase (argon2id, RFC 9106). Wrong tries
// make the next ones from the same address slower, never anybody else's. Each login has a cookie of its own, good until it is ended
// or the server stops.
import { createHash, randomBytes } from 'node:crypto';
import { isIP } from 'node:net';
import { argon2id, argon2Verify } from 'hash-wasm';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '::1', '[::1]']);
export const COOKIE = 'isotaxis';
export const PASSPHRASE_LEAST = 12;
/** Wrong tries from one address that cost nothing yet; each further one doubles the wait. */
const FREE_TRIES = 4;
const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 15_000;
/** After so long an address has a clean slate. */
const FORGIVEN_MS = 600_000;
/** Tries under way at once: from one address, and in all. */
const AT_ONCE = 3;
const AT_ONCE_IN_ALL = 30;
const MOST_ADDRESSES = 10_000;
const MOST_LOGINS = 1000;

export type Entry = 'open' | 'wrong' | 'wait';

export type Door = {
  /** Whether a passphrase is asked for. */
  readonly guarded: boolean;
  /** Whether a Host header is one of ours: a page elsewhere could have its own name point here. */
  readonly knows: (host: string) => boolean;
  /** Whether a cookie's token was given out by this server, and not ended since. */
  readonly admits: (token: string | undefined) => boolean;
  /** Tries a passphrase; a token of its own where it is the right one. */
  readonly tryPassphrase: (passphrase: string, address: string) => Promise<{ readonly entry: Entry; readonly token: string }>;
  /** Ends a login, or with `all`, where it is a login, every one. */
  readonly end: (token: string | undefined, all: boolean) => void;
};

/** What the door needs from outside: tests have a clock of their own, the server a thread to reckon in. */
export type DoorTools = {
  readonly verify: (asked: { readonly password: string; readonly hash: string }) => Promise<boolean>;
  readonly now: () => number;
  readonly sleep: (ms: number) => Promise<void>;
};
const HERE: DoorTools = { verify: argon2Verify, now: Date.now, sleep: (ms) => new Promise((resolve) => setTimeout(resolve, ms)) };

export const isLoopback = (host: string): boolean => LOOPBACK.has(host);

/** One machine may have many IPv6 addresses: the network of 64 bits stands for all of them. */
const originOf = (address: string) => (isIP(address) === 6 && !address.includes('.') ? groupsOf(address).slice(0, 4).join(':') : address);
function groupsOf(address: string): string[] {
  const [head, tail] = address.split('%')[0].split('::');
  const left = head ? head.split(':') : [];
  const right = tail ? tail.split(':') : [];
  return [...left, ...Array<string>(Math.max(0, 8 - left.length - right.length)).fill('0'), ...right];
}

const digest = (token: string) => createHash('sha256').update(token).digest('hex');

/** `names` are further host names under which the server may be asked for. */
export async function makeDoor(host: string, passphrase: string, names: readonly string[], tools: Partial<DoorTools> = {}): Promise<Door> {
  const { verify, now, sleep } = { ...HERE, ...tools };
  // On loopback too where one is set: behind a proxy whoever asks comes from this machine.
  const guarded = !isLoopback(host) || passphrase !== '';
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
  const known = new Set([...LOOPBACK, ...[host, ...names].map((name) => name.toLowerCase())]);
  /** Logins by the digest of their token: looking one up says nothing of the others. */
  const logins = new Set<string>();
  const wrong = new Map<string, { count: number; last: number }>();
  const trying = new Map<string, number>();
  let inAll = 0;

  const forgive = () => {
    for (const [origin, { last }] of wrong) if (now() - last > FORGIVEN_MS || wrong.size > MOST_ADDRESSES) wrong.delete(origin);
  };
  const waitOf = (origin: string) => {
    const beyond = (wrong.get(origin)?.count ?? 0) - FREE_TRIES;
    return beyond < 0 ? 0 : Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** beyond);
  };
  const tried = async (given: string, origin: string) => {
    const wait = waitOf(origin);
    if (wait) await sleep(wait);
    if (given.length <= 1000 && (await verify({ password: given, hash }))) {
      wrong.delete(origin);
      const token = randomBytes(32).toString('hex');
      logins.add(digest(token));
      if (logins.size > MOST_LOGINS) logins.delete([...logins][0]);
      return { entry: 'open' as const, token };
    }
    wrong.set(origin, { count: (wrong.get(origin)?.count ?? 0) + 1, last: now() });
    return { entry: 'wrong' as const, token: '' };
  };

  return {
    guarded,
    knows: (given) => {
      const name = given.replace(/:\d+$/, '').toLowerCase();
      // An address cannot be made to point elsewhere; where a passphrase is asked for, any of this machine's will do.
      return known.has(name) || (guarded && isIP(name.replace(/^\[|\]$/g, '')) !== 0);
    },
    admits: (given) => !guarded || (given !== undefined && logins.has(digest(given))),
    tryPassphrase: async (given, address) => {
      forgive();
      const origin = originOf(address);
      const mine = trying.get(origin) ?? 0;
      if (mine >= AT_ONCE || inAll >= AT_ONCE_IN_ALL) return { entry: 'wait', token: '' };
      trying.set(origin, mine + 1);
      inAll++;
      try {
        return await tried(given, origin);
      } finally {
        inAll--;
        if (trying.get(origin) === 1) trying.delete(origin);
        else trying.set(origin, trying.get(origin)! - 1);
      }
    },
    end: (given, all) => {
      if (given === undefined || !logins.has(digest(given))) return;
      if (all) logins.clear();
      else logins.delete(digest(given));
    }
  };
}

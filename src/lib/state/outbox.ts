// The outbox in the browser's storage: kept across reloads of the page. Each page owns one list; a list whose owner is
// gone is an orphan, and the next page of that session adopts it. What was set aside stays until a person has decided.
import { v4 as uuid } from 'uuid';
import type { SetAside } from '$core/sync/outbox';
import type { Batch } from '$core/sync/wire';

export type OutboxKeeper = {
  /** Keeps the list; false where the browser has no room for it. */
  readonly save: (batches: readonly Batch[]) => boolean;
  /** Batches that pages which are gone have left. */
  readonly adopt: () => Promise<Batch[]>;
  readonly aside: () => readonly SetAside[];
  readonly saveAside: (list: readonly SetAside[]) => boolean;
};

/** Keeps nothing beyond the page. */
export function forgetful(): OutboxKeeper {
  let list: readonly SetAside[] = [];
  return { save: () => true, adopt: () => Promise.resolve([]), aside: () => list, saveAside: (next) => ((list = next), true) };
}

const prefix = (session: string) => `isotaxis outbox ${session} `;
const asText = (value: unknown) => JSON.stringify(value, (_, inner: unknown) => (inner === -Infinity ? '-inf' : inner));

/** Writes to the browser's storage; false where it is full. */
function write(name: string, list: readonly unknown[]): boolean {
  try {
    if (list.length === 0) localStorage.removeItem(name);
    else localStorage.setItem(name, asText(list));
    return true;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'QuotaExceededError') return false;
    throw error;
  }
}

/** Who owns a list: asked for as long as a page is open. */
type Owners = {
  /** Does something with a list whose owner is gone; nothing where it lives. */
  readonly ifOrphaned: (name: string, work: () => void) => Promise<void>;
};

/** The browser knows: a page's lock is held until it is gone. */
function byLocks(locks: LockManager, mine: string): Owners {
  locks.request(mine, () => new Promise<void>(() => {})).catch(() => undefined);
  return {
    ifOrphaned: async (name, work) => {
      await locks.request(name, { ifAvailable: true }, (lock) => void (lock && work()));
    }
  };
}

/** How long a page may take to say that it is there. One that takes longer loses nothing: a batch sent twice is carried out once. */
const ANSWER_MS = 400;

/** Over plain HTTP a page has no locks: pages of one browser ask each other. */
function byAsking(mine: string): Owners {
  const pages = new BroadcastChannel('isotaxis outbox');
  const waiting = new Map<string, () => void>();
  pages.onmessage = ({ data }: MessageEvent<{ readonly asked?: string; readonly here?: string }>) => {
    if (data.asked === mine) pages.postMessage({ here: mine });
    if (data.here !== undefined) waiting.get(data.here)?.();
  };
  const lives = (name: string) =>
    new Promise<boolean>((resolve) => {
      const end = (answer: boolean) => {
        waiting.delete(name);
        resolve(answer);
      };
      waiting.set(name, () => end(true));
      setTimeout(() => end(false), ANSWER_MS);
      pages.postMessage({ asked: name });
    });
  return {
    ifOrphaned: async (name, work) => {
      if (!(await lives(name))) work();
    }
  };
}

export function keepOutbox(session: string): OutboxKeeper {
  const mine = prefix(session) + uuid();
  const asideName = `isotaxis aside ${session}`;
  const owners = navigator.locks ? byLocks(navigator.locks, mine) : byAsking(mine);
  return {
    save: (batches) => write(mine, batches),
    aside: () => JSON.parse(localStorage.getItem(asideName) ?? '[]') as SetAside[],
    saveAside: (list) => write(asideName, list),
    adopt: async () => {
      const found: Batch[] = [];
      const names = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i)!);
      for (const name of names.filter((each) => each.startsWith(prefix(session)) && each !== mine))
        await owners.ifOrphaned(name, () => {
          const text = localStorage.getItem(name);
          if (!text) return;
          found.push(...(JSON.parse(text) as Batch[]));
          localStorage.removeItem(name);
        });
      return found;
    }
  };
}

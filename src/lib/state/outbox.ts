// The outbox in the browser's storage: kept across reloads of the page. Each page owns one list under a Web Lock; a list whose owner is
// gone is an orphan, and the next page of that session adopts it. What was set aside stays until a person has decided.
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

export function keepOutbox(session: string): OutboxKeeper {
  const mine = prefix(session) + crypto.randomUUID();
  const asideName = `isotaxis aside ${session}`;
  // Held until the page is gone.
  const owned = navigator.locks?.request(mine, () => new Promise<void>(() => {}));
  owned?.catch(() => undefined);
  return {
    save: (batches) => write(mine, batches),
    aside: () => JSON.parse(localStorage.getItem(asideName) ?? '[]') as SetAside[],
    saveAside: (list) => write(asideName, list),
    adopt: async () => {
      const found: Batch[] = [];
      const names = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i)!);
      for (const name of names.filter((each) => each.startsWith(prefix(session)) && each !== mine))
        await navigator.locks?.request(name, { ifAvailable: true }, (lock) => {
          const text = lock && localStorage.getItem(name);
          if (!text) return;
          found.push(...(JSON.parse(text) as Batch[]));
          localStorage.removeItem(name);
        });
      return found;
    }
  };
}

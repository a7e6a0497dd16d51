// What is not acknowledged yet, kept across reloads of the page. Each page owns one list under a Web Lock; a list whose
// owner is gone is an orphan, and the next page of that session adopts it. What the server cannot take is set aside, so that the rest
// goes on, and stays until a person has decided.
import type { Code } from '$core/codes';
import type { Command } from '$core/commands/index';
import type { Refusal } from '$core/result';

export type Kept = { readonly id: string; readonly gesture: string | null; readonly commands: readonly Command[] };
/** A batch that the server could not take: what it was called, and why. */
export type SetAside = { readonly id: string; readonly label: string; readonly why: string; readonly commands: readonly Command[] };

export type OutboxKeeper = {
  /** Keeps the list; false where the browser has no room for it. */
  readonly save: (batches: readonly Kept[]) => boolean;
  /** Batches that pages which are gone have left. */
  readonly adopt: () => Promise<Kept[]>;
  readonly aside: () => readonly SetAside[];
  readonly saveAside: (list: readonly SetAside[]) => boolean;
};

/** Keeps nothing beyond the page. */
export function forgetful(): OutboxKeeper {
  let list: readonly SetAside[] = [];
  return { save: () => true, adopt: () => Promise.resolve([]), aside: () => list, saveAside: (next) => ((list = next), true) };
}

/** What a refusal means for the batch that met it. */
export type Fate = 'try again' | 'try a few times' | 'set aside' | 'refused';

const FATES: Partial<Record<Code, Fate>> = {
  // Nobody answered, or it was not about this batch.
  offline: 'try again',
  unavailable: 'try again',
  passphrase: 'try again',
  wait: 'try again',
  'too-slow': 'try again',
  // Once may be chance.
  server: 'try a few times',
  // It will not be taken as it is, though the page thought it right.
  'bad-request': 'set aside',
  'bad-arguments': 'set aside',
  'disk-full': 'set aside',
  elsewhere: 'set aside',
  inconsistent: 'set aside',
  invalid: 'set aside',
  'no-session': 'set aside',
  'too-large': 'set aside',
  'unknown-command': 'set aside'
};
/** Everything else is the rules’ answer to what others did meanwhile: said, and forgotten. */
export const fateOf = ({ code }: Refusal): Fate => FATES[code] ?? 'refused';

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
      const found: Kept[] = [];
      const names = Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i)!);
      for (const name of names.filter((each) => each.startsWith(prefix(session)) && each !== mine))
        await navigator.locks?.request(name, { ifAvailable: true }, (lock) => {
          const text = lock && localStorage.getItem(name);
          if (!text) return;
          found.push(...(JSON.parse(text) as Kept[]));
          localStorage.removeItem(name);
        });
      return found;
    }
  };
}

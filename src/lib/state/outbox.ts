// What is not acknowledged yet, kept across reloads of the page. Each page owns one list under a Web Lock; a list whose
// owner is gone is an orphan, and the next page of that session adopts it.
import type { Command } from '$core/commands/index';

export type Kept = { readonly id: string; readonly gesture: string | null; readonly commands: readonly Command[] };

export type OutboxKeeper = {
  readonly save: (batches: readonly Kept[]) => void;
  /** Batches that pages which are gone have left. */
  readonly adopt: () => Promise<Kept[]>;
};

const prefix = (session: string) => `isotaxis outbox ${session} `;

export function keepOutbox(session: string): OutboxKeeper {
  const mine = prefix(session) + crypto.randomUUID();
  // Held until the page is gone.
  const owned = navigator.locks?.request(mine, () => new Promise<void>(() => {}));
  owned?.catch(() => undefined);
  return {
    save: (batches) => {
      if (batches.length === 0) localStorage.removeItem(mine);
      else
        localStorage.setItem(
          mine,
          JSON.stringify(batches, (_, value: unknown) => (value === -Infinity ? '-inf' : value))
        );
    },
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

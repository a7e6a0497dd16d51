// What would move with what the pointer or the keyboard is on: shown in every view before it moves.
import { reachOf } from '$core/links/reach';
import type { Attribute } from '$core/session/entities';
import type { SessionStore } from './session.svelte';
import { createSignals } from './signals.svelte';

/** What is under the hand: an attribute of channels; of sends, into which target. */
export type Pointed = { readonly ids: readonly string[]; readonly attribute: Attribute; readonly target: string | null };
export type Linking = ReturnType<typeof createLinking>;

const NOBODY: ReadonlySet<string> = new Set();

export function createLinking(store: SessionStore) {
  const signals = createSignals();
  let pointed: Pointed | null = null;
  let reached = NOBODY;
  const point = (next: Pointed | null) => {
    const found = next && !store.alone ? reachOf(store.session, next.ids, next.attribute) : NOBODY;
    const before = reached;
    const moved = pointed?.target !== next?.target;
    pointed = next;
    reached = found;
    for (const id of new Set([...before, ...found])) if (moved || before.has(id) !== found.has(id)) signals.bump(id);
    if (before.size !== found.size) signals.bump('count');
  };
  return {
    point,
    /** Looks again: who is in which group has changed, or whether one moves alone. */
    again: () => point(pointed),
    /** Whether a channel would move with what is pointed at; of sends, the target whose send would. Wakes only whom it touches. */
    reached: (id: string): { readonly target: string | null } | null => {
      signals.read(id);
      return reached.has(id) ? { target: pointed?.target ?? null } : null;
    },
    get count() {
      signals.read('count');
      return reached.size;
    }
  };
}

/** What an element says it moves: `data-moves` an attribute, `data-of` a channel, `data-into` a target of sends. */
export function pointedAt(target: EventTarget | null, around: (id: string) => string[]): Pointed | null {
  const element = (target as Element | null)?.closest?.<HTMLElement>('[data-moves]');
  if (!element) return null;
  const { moves, of, into } = element.dataset;
  return { ids: around(of!), attribute: moves as Attribute, target: into ?? null };
}

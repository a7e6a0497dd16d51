// What the Ledger asks before it goes on.
export type Asked =
  | { readonly kind: 'remove'; readonly ids: readonly string[]; readonly orphans: readonly string[] }
  | { readonly kind: 'fold'; readonly ids: readonly string[]; readonly vcas: readonly string[] }
  | { readonly kind: 'dissolve' | 'take'; readonly ids: readonly string[] }
  | { readonly kind: 'twin' | 'drive' | 'share'; readonly id: string }
  | { readonly kind: 'cue' };

/** What is about to be made and needs a name. */
export type Naming = 'bus' | 'return' | 'insert' | 'stage' | 'parallel' | 'key' | 'click' | 'vca' | 'link';

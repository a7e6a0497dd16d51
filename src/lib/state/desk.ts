// What every view of an open session shares, handed down through Svelte's context.
import { getContext, setContext } from 'svelte';
import type { PageCommands } from './commands.svelte';
import type { Folding } from './folding.svelte';
import type { Linking } from './linking.svelte';
import type { Importer } from './importer.svelte';
import type { Now } from './now';
import type { Selection } from './selection.svelte';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';
import type { WritingMoves } from './writing.svelte';

export type Desk = {
  readonly store: SessionStore;
  readonly transport: Transport;
  readonly selection: Selection;
  readonly importer: Importer;
  readonly commands: PageCommands;
  readonly linking: Linking;
  readonly folding: Folding;
  /** What lanes make of values at the moment that is heard. */
  readonly now: Now;
  readonly writing: WritingMoves;
};

const KEY = Symbol('desk');
export const provideDesk = (desk: () => Desk): void => void setContext(KEY, desk);
/** The open desk. Call while a component is being made. */
export const useDesk = (): Desk => getContext<() => Desk>(KEY)();

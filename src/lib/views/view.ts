// What a view of a session is to the rest: an address, a name, and a component that is loaded when it is shown.
import type { Component } from 'svelte';

export type View = {
  /** Last part of its address. */
  readonly path: string;
  /** As the header, the palette and the window's title call it. */
  readonly name: string;
  readonly load: () => Promise<{ readonly default: Component }>;
};

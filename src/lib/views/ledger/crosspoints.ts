// What the Ledger, its rows and their crosspoints tell each other, and how taps are said.
import type { Tap } from '$core/session/entities';
import type { Block } from './block.svelte';
import type { DrawnColumn } from './drawnRows.svelte';

export type Crossing = {
  /** How many returns there are. */
  readonly count: number;
  /** The returns whose columns are on screen, with their places. */
  readonly columns: readonly DrawnColumn[];
  /** Goes from one crosspoint by so many columns and rows to another. */
  readonly onmove: (source: string, target: string, dx: number, dy: number, extend?: boolean) => void;
  /** The rectangle of crosspoints that is selected. */
  readonly block: Block;
  readonly onclip: (what: 'copy' | 'paste', source: string, target: string) => void;
  readonly onmenu: (event: MouseEvent, source: string, target: string) => void;
};

export const SAID: Record<Tap, string> = { input: 'Before the inserts', pre: 'Before the fader', post: 'After the fader' };

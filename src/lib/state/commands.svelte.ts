// Everything that can be done from where one is, by name: behind the command palette and the sheet of shortcuts.

import { untrack } from 'svelte';

export type PageCommand = {
  readonly title: string;
  /** Heading under which it stands. */
  readonly group:
    | 'Playing'
    | 'Session'
    | 'Organise'
    | 'Selection'
    | 'Levels'
    | 'Routing'
    | 'Inserts'
    | 'Links'
    | 'Versions'
    | 'Clips'
    | 'Moving about'
    | 'Views';
  /** As a person reads it: "b", "Ctrl+Z". */
  readonly keys?: string;
  readonly run: () => void;
  /** Whether it can be done now; absent is always. */
  readonly when?: () => boolean;
};

export type PageCommands = ReturnType<typeof createPageCommands>;

export function createPageCommands() {
  const lists = new Set<readonly PageCommand[]>();
  let version = $state(0);
  // Adding from an effect must not make that effect depend on what it changes.
  const bump = () => untrack(() => version++);
  return {
    /** Adds a view's commands; returns how to take them away. */
    add: (list: readonly PageCommand[]): (() => void) => {
      lists.add(list);
      bump();
      return () => {
        lists.delete(list);
        bump();
      };
    },
    get all(): PageCommand[] {
      void version;
      return [...lists].flat();
    }
  };
}

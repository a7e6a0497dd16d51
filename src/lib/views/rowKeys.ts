// Keys of a view of rows: its commands by their keys, rows extended and moved by arrows, all selected.
import type { PageCommand } from '$lib/state/commands.svelte';

export type KeyedCommand = PageCommand & { readonly key?: string };
type Hands = {
  /** Whether something else has the keyboard: a dialog, a menu. */
  readonly busy: () => boolean;
  readonly commands: readonly KeyedCommand[];
  readonly moveBy: (by: 1 | -1) => void;
  readonly extend: (by: 1 | -1) => void;
  readonly selectAll: () => void;
};

export const rowKeys =
  ({ busy, commands, moveBy, extend, selectAll }: Hands) =>
  (event: KeyboardEvent): void => {
    const from = event.target as HTMLElement;
    if (busy() || from.closest('input, textarea, select, dialog, [role=dialog], [role=menu]')) return;
    const vertical = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : null;
    const control = event.ctrlKey || event.metaKey;
    if (event.altKey) {
      if (!vertical) return;
      moveBy(vertical);
    } else if (event.shiftKey && vertical) extend(vertical);
    else if (control && event.key === 'a') selectAll();
    else {
      const command = control ? undefined : commands.find(({ key }) => key === event.key);
      if (!command || (command.when && !command.when())) return;
      command.run();
    }
    event.preventDefault();
  };

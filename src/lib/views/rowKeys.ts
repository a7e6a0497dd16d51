// Keys of a view of rows: its commands by their keys, rows extended and moved by arrows, all selected.
import type { PageCommand } from '$lib/state/commands.svelte';
import { onKeys, pressed } from '$lib/ui/keys';

export type KeyedCommand = PageCommand & { readonly key?: string };
type Hands = {
  /** Whether something else has the keyboard: a dialog, a menu. */
  readonly busy: () => boolean;
  readonly commands: readonly KeyedCommand[];
  readonly moveBy: (by: 1 | -1) => void;
  readonly extend: (by: 1 | -1) => void;
  readonly selectAll: () => void;
};

export const rowKeys = ({ busy, commands, moveBy, extend, selectAll }: Hands): ((event: KeyboardEvent) => void) =>
  onKeys(
    [
      ...([-1, 1] as const).flatMap((by) => {
        const arrow = by < 0 ? 'ArrowUp' : 'ArrowDown';
        return [
          { press: `Alt+${arrow}`, run: () => moveBy(by) },
          { press: `Shift+${arrow}`, run: () => extend(by) }
        ];
      }),
      { press: '$mod+a', run: selectAll },
      ...commands.flatMap(({ key, run, when }) => (key === undefined ? [] : pressed(key).map((press) => ({ press, run, when }))))
    ],
    (event) => busy() || (event.target as HTMLElement).closest('input, textarea, select, dialog, [role=dialog], [role=menu]') !== null
  );

// What can be done with versions by name: the menu of a column, and the commands of the palette and the sheet of shortcuts.
import { AS_THE_MIX } from '$core/prints/usual';
import type { Version } from '$core/session/entities';
import type { PageCommand } from '$lib/state/commands.svelte';
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import { partsOf } from './cells';
import type { Choice } from './order.svelte';
import type { Sheet } from './sheet.svelte';

/** What the sheet on screen does itself. */
export type Hands = {
  /** The cell one is in, in or out; nothing on a head. */
  readonly turn: () => void;
  readonly hear: (version: Version) => void;
  readonly heard: (version: Version) => boolean;
  readonly rename: (version: Version) => void;
  readonly setApart: (version: Version) => void;
  readonly usual: () => void;
};

export const duplicate = (sheet: Sheet, version: Version) => sheet.add(version.id, [{ name: version.name, parts: partsOf(version) }]);
export const addNew = (sheet: Sheet) => sheet.add(null, [{ name: 'Version', parts: AS_THE_MIX }]);

export const versionMenu = (sheet: Sheet, choice: Choice, hands: Hands, version: Version): MenuEntry[] => [
  { label: hands.heard(version) ? 'Hear the mix again' : 'Hear', keys: 'h', run: () => hands.hear(version) },
  { label: choice.prints(version.id) ? 'Do not print now' : 'Print', keys: 'p', run: () => choice.turnVersion(version.id) },
  { label: 'Rename', keys: 'F2', run: () => hands.rename(version) },
  { label: 'Set channels apart…', run: () => hands.setApart(version) },
  { label: 'Fill', run: () => undefined, more: sheet.fills() },
  { label: 'Copy', keys: 'Ctrl+C', run: sheet.copy },
  { label: 'Paste after', keys: 'Ctrl+V', run: () => void sheet.paste() },
  { label: 'Duplicate', keys: 'd', run: () => duplicate(sheet, version) },
  { label: 'Move left', keys: 'Alt+←', run: () => sheet.move(-1) },
  { label: 'Move right', keys: 'Alt+→', run: () => sheet.move(1) },
  { label: 'Remove', keys: 'Del', run: sheet.remove }
];

/** `now` is the version that one is in. */
export function versionCommands(sheet: Sheet, choice: Choice, hands: Hands, now: () => Version): PageCommand[] {
  const when = () => sheet.versions.length > 0;
  const list: readonly (readonly [title: string, keys: string | undefined, run: () => void])[] = [
    ['In or out, on or off', 'Space', hands.turn],
    ['As in the mix', 'Del', () => sheet.put('mix')],
    ['Hear this version, or the mix again', 'h', () => hands.hear(now())],
    ['Print this version, or not now', 'p', () => choice.turnVersion(now().id)],
    ['Duplicate this version', 'd', () => duplicate(sheet, now())],
    ['Rename this version', 'F2', () => hands.rename(now())],
    ['Set channels of this version apart…', undefined, () => hands.setApart(now())],
    ['Move this version left', 'Alt+←', () => sheet.move(-1)],
    ['Move this version right', 'Alt+→', () => sheet.move(1)],
    ['Copy cells, or whole versions from their heads', 'Ctrl+C', sheet.copy],
    ['Paste', 'Ctrl+V', () => void sheet.paste()],
    ['Remove this version', 'Del on its head', sheet.remove]
  ];
  return [
    { title: 'New version', group: 'Versions', run: () => addNew(sheet) },
    { title: 'Usual versions…', group: 'Versions', run: hands.usual },
    ...list.map(([title, keys, run]): PageCommand => ({ title, group: 'Versions', keys, run, when }))
  ];
}

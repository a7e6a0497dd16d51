// Shortcuts: keys as people name them, bound by tinykeys.
import { matchKeyBindingPress, parseKeybinding, type KeyBindingPress } from 'tinykeys';

export type Binding = {
  /** As tinykeys writes it: "Shift+ArrowUp", "$mod+k", "(\\?)". */
  readonly press: string;
  readonly run: (event: KeyboardEvent) => void;
  /** Whether it can be done now; absent is always. */
  readonly when?: () => boolean;
};

/**
 * The presses that give a character or a named key: "m" is m alone, "S" is s with Shift; a sign is meant however the layout makes it.
 * @example pressed('?') // ['(\\?)', 'Shift+(\\?)']
 */
export function pressed(key: string): string[] {
  if (key.length > 1) return [key];
  const exactly = `(${key.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')})`;
  if (/\p{Lu}/u.test(key)) return [`Shift+${exactly}`];
  return /\p{Ll}/u.test(key) ? [exactly] : [exactly, `Shift+${exactly}`];
}

const parsed = new Map<string, KeyBindingPress>();

/**
 * Whether an event is one of these presses, with their modifiers and no others.
 * @example isPress(event, '$mod+c') // Ctrl+C, or ⌘C where that is the custom
 */
export const isPress = (event: KeyboardEvent, ...presses: string[]): boolean =>
  presses.some((press) => {
    if (!parsed.has(press)) parsed.set(press, parseKeybinding(press)[0]);
    return matchKeyBindingPress(event, parsed.get(press)!);
  });

/** Runs the first binding that is pressed and can be done; `aside` says when the keys are somebody else's. */
export function onKeys(bindings: readonly Binding[], aside: (event: KeyboardEvent) => boolean = () => false) {
  return (event: KeyboardEvent): void => {
    if (aside(event)) return;
    const found = bindings.find(({ press }) => isPress(event, press));
    if (!found || (found.when && !found.when())) return;
    found.run(event);
    event.preventDefault();
  };
}

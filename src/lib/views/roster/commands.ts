// Every command of the Roster, with its key: the one list behind keys, palette and the sheet of shortcuts.
import type { Audition } from '$lib/state/audition.svelte';
import type { Desk } from '$lib/state/desk';
import type { KeyedCommand } from '../rowKeys';
import type { RosterActions } from './actions';

export type RosterDialog = 'rename' | 'sort' | 'sort selected' | 'rules' | 'buses' | 'templates';

/** What only the view itself can do. */
type Hands = {
  readonly order: () => readonly string[];
  /** Channels hidden, tracks waiting for audio. */
  readonly hidden: () => number;
  readonly waiting: () => number;
  readonly audition: Audition;
  readonly open: (dialog: RosterDialog) => void;
  readonly choose: (what: 'audio' | 'pour' | 'sheet') => void;
  readonly find: () => void;
  readonly stepTo: (by: number) => void;
  readonly rename: () => void;
};

export function rosterCommands({ store, selection }: Desk, actions: RosterActions, hands: Hands): readonly KeyedCommand[] {
  const { order, audition, open, choose, stepTo } = hands;
  const some = () => selection.ids.size > 0;
  const playOne = () => {
    if (audition.id) audition.stop();
    else if (selection.last) void audition.play(selection.last, 0);
  };
  const inverted = () => order().filter((id) => !selection.has(id));

  return [
    { title: 'Import audio…', group: 'Session', run: () => choose('audio') },
    { title: 'Sort all tracks by rule…', group: 'Organise', run: () => open('sort') },
    { title: 'Sort selection by rule…', group: 'Organise', run: () => open('sort selected'), when: some },
    { title: 'Sorting rules…', group: 'Organise', run: () => open('rules') },
    { title: 'Many buses at once…', group: 'Organise', run: () => open('buses') },
    { title: 'Templates…', group: 'Organise', run: () => open('templates') },
    { title: 'Pour audio into waiting tracks…', group: 'Organise', run: () => choose('pour'), when: () => hands.waiting() > 0 },
    { title: 'Track sheet to a file', group: 'Organise', run: () => location.assign(`/api/sessions/${store.id}/sheet`) },
    { title: 'Track sheet from a file…', group: 'Organise', run: () => choose('sheet') },
    { title: 'Rename selection…', group: 'Selection', keys: 'F2', key: 'F2', run: hands.rename, when: some },
    { title: 'Take off the shared parts of names', group: 'Selection', run: actions.strip, when: () => selection.ids.size > 1 },
    { title: 'Hide or show selection', group: 'Selection', keys: 'h', key: 'h', run: actions.hide, when: some },
    { title: 'Rest or wake selection', group: 'Selection', run: actions.rest, when: some },
    { title: 'Pair two mono tracks', group: 'Selection', run: actions.pair, when: some },
    { title: 'Split into left and right', group: 'Selection', run: actions.split, when: some },
    { title: 'Select all', group: 'Selection', keys: 'Ctrl+A', run: () => selection.set(order(), selection.last) },
    {
      title: 'Invert selection',
      group: 'Selection',
      keys: 'i',
      key: 'i',
      run: () => selection.set(inverted(), selection.last)
    },
    {
      title: 'Clear selection',
      group: 'Selection',
      keys: 'Esc',
      key: 'Escape',
      run: () => (audition.id ? audition.stop() : selection.clear())
    },
    { title: 'Remove selection', group: 'Selection', keys: 'Del', key: 'Delete', run: actions.remove, when: some },
    { title: 'Move rows up', group: 'Selection', keys: 'Alt+↑', run: () => actions.moveBy(-1), when: some },
    { title: 'Move rows down', group: 'Selection', keys: 'Alt+↓', run: () => actions.moveBy(1), when: some },
    { title: 'Hear this track alone', group: 'Playing', keys: 'p', key: 'p', run: playOne, when: () => selection.last !== null },
    { title: 'Find rows', group: 'Moving about', keys: '/', key: '/', run: hands.find },
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => stepTo(-1) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => stepTo(1) },
    {
      title: 'Show all rows',
      group: 'Moving about',
      run: () => void store.act([{ do: 'showings.recall' }]),
      when: () => hands.hidden() > 0
    }
  ];
}

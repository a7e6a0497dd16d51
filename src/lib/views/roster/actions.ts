// What can be done to the selection in the Roster, as commands: each is one undo entry.
import { v4 as uuid } from 'uuid';
import { gradient } from '$core/session/hues';
import { trimsFor, type TrimTo } from '$core/organise/levels';
import { withoutShared } from '$core/organise/rename';
import { namePartsOf } from '$core/organise/words';
import type { Channel } from '$core/session/entities';
import { ROLES } from '$core/session/roles';
import { inOrder } from '$core/session/select';
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import type { Desk } from '$lib/state/desk';

export type RosterActions = ReturnType<typeof rosterActions>;

/** `shown` is what is on screen, in its order. */
export function rosterActions({ store, selection }: Desk, shown: () => readonly string[]) {
  const { session } = store;
  const ids = () => [...selection.ids].filter((id) => session.channel.has(id) && session.channel.get(id)!.kind !== 'mix');
  /** The selection in the order on screen. */
  const selected = (): Channel[] => {
    const own = new Set(ids());
    const order = shown().filter((id) => own.has(id));
    return [...order, ...[...own].filter((id) => !order.includes(id))].map((id) => session.channel.get(id)!);
  };
  const tracks = () => selected().filter(({ kind }) => kind === 'track');
  const some = (work: (chosen: string[]) => void) => () => {
    const chosen = ids();
    if (chosen.length) work(chosen);
    else store.say('Select rows first.');
  };
  const allRest = () => ids().length > 0 && ids().every((id) => session.channel.get(id)!.resting);

  return {
    ids,
    selected,
    colour: (colour: number) => some((chosen) => store.act([{ do: 'channels.colour', ids: chosen, colour }]))(),
    gradient: (from: number, to: number) => {
      const rows = selected();
      const colours = gradient(from, to, rows.length);
      if (rows.length) store.act([{ do: 'colours.set', colours: rows.map(({ id }, i) => ({ id, colour: colours[i] })) }]);
    },
    roleEntries: (own: readonly string[] = ids()): MenuEntry[] => [
      ...ROLES.map(({ id, word }) => ({ label: word, run: () => void store.act([{ do: 'roles.set', ids: [...own], role: id }]) })),
      { label: 'No role', run: () => void store.act([{ do: 'roles.set', ids: [...own], role: '' }]) }
    ],
    trim: (to: TrimTo) => {
      const { levels, unmeasured } = trimsFor(session, tracks(), to);
      if (levels.length) store.act([{ do: 'trims.set', levels }]);
      if (unmeasured.length) store.say(`Left as they are, since they are silent or not measured: ${unmeasured.join(', ')}.`);
    },
    untrim: () => {
      const rows = tracks();
      if (rows.length) store.act([{ do: 'trims.set', levels: rows.map(({ id }) => ({ id, level: 0 })) }]);
    },
    pair: () => {
      const rows = tracks();
      if (rows.length !== 2) return store.say('Select two mono tracks to pair them.');
      const [left, right] = namePartsOf(rows[0].name).side === 'R' || namePartsOf(rows[1].name).side === 'L' ? [rows[1], rows[0]] : rows;
      const parts = namePartsOf(left.name);
      const name = parts.side ? left.name.replace(/[\s_.-]*\b(L|Left|lft|links|izq)\b[\s_.-]*/i, ' ').trim() : left.name;
      store.act([{ do: 'tracks.pair', left: left.id, right: right.id, name: name || left.name }]);
      selection.set([left.id], left.id);
    },
    split: () => {
      const stereo = tracks().filter(({ width }) => width === 2);
      if (stereo.length === 0) return store.say('Select a stereo track to split it.');
      store.act(stereo.map(({ id }) => ({ do: 'tracks.split', id, right: uuid() })));
    },
    divider: (caption: string) => {
      const first = inOrder(session).find(({ id }) => selection.has(id));
      store.act([{ do: 'dividers.set', id: uuid(), caption, before: first?.id ?? null }]);
    },
    hide: some((chosen) => store.act([{ do: 'hides.set', ids: chosen, on: !chosen.every((id) => session.channel.get(id)!.hidden) }])),
    rest: some((chosen) => store.act([{ do: 'rests.set', ids: chosen, on: !allRest() }])),
    allRest,
    strip: () => {
      const rows = selected();
      const names = withoutShared(rows.map(({ name }) => name));
      const changed = rows.flatMap(({ id, name }, i) => (names[i] === name ? [] : [{ id, name: names[i] }]));
      if (changed.length) store.act([{ do: 'channels.rename', names: changed }]);
    },
    remove: some((chosen) => store.act([{ do: 'channels.remove', ids: chosen }])),
    /** Moves the selection by one row among all channels. */
    moveBy: (by: 1 | -1) => {
      const order = inOrder(session).filter(({ kind }) => kind !== 'mix');
      const places = order.flatMap(({ id }, i) => (selection.has(id) ? [i] : []));
      if (places.length === 0 || (by < 0 ? places[0] === 0 : places.at(-1) === order.length - 1)) return;
      const before = by < 0 ? order[places[0] - 1].id : (order[places.at(-1)! + 2]?.id ?? null);
      store.act([{ do: 'channels.move', ids: places.map((i) => order[i].id), before }]);
    }
  };
}

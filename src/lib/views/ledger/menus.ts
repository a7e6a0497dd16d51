// What the menus of rows, crosspoints and columns offer.
import { chainOf } from '$core/routing/chain';
import { idsBy, rowsBy } from '$core/session/lookup';
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import type { Command } from '$core/commands/index';
import { sendId, type Tap } from '$core/session/entities';
import type { Desk } from '$lib/state/desk';
import { canBeHeld, heldBy, holdersOf, withHeld } from '$core/session/vcas';
import { membersOf } from '../linkWords';
import type { LedgerActions } from './actions';
import type { Asked, Naming } from './asked';

type Hands = {
  readonly pick: (what: 'route' | 'send' | 'copyInsert' | 'intoVca' | 'intoLink') => void;
  readonly name: (what: Naming) => void;
  readonly ask: (what: Asked) => void;
  readonly rename: () => void;
  readonly askRemoval: () => void;
};

export function rowMenu(desk: Desk, actions: LedgerActions, hands: Hands, id: string): MenuEntry[] {
  const { store, selection } = desk;
  const ids = [...selection.ids];
  const channel = store.session.channel.get(id)!;
  const buses = ids.filter((one) => store.session.channel.get(one)?.kind === 'bus');
  const summing = channel.kind === 'bus' || channel.kind === 'mix';
  const chain = chainOf(store.session);
  const returns = ids.filter((one) => store.session.channel.get(one)?.kind === 'return');
  const only = (on: boolean, ...entries: MenuEntry[]) => (on ? entries : []);
  if (channel.kind === 'vca')
    return [
      { label: 'Select what it holds', run: () => selection.set(heldBy(store.session, id), id) },
      { label: 'Show only what it holds', run: () => actions.showOnly(channel.name, [...withHeld(store.session, [id])]) },
      { label: 'Put into VCA…', run: () => hands.pick('intoVca') },
      { label: 'New VCA over selection…', run: () => hands.name('vca') },
      ...groupEntries(desk, actions, hands, id),
      { label: 'Mute', keys: 'm', run: () => actions.toggle('mute', ids) },
      { label: 'Solo', keys: 's', run: () => actions.toggle('solo', ids) },
      { label: 'Unity', keys: '0', run: () => actions.setFaders(ids, 0) },
      { label: 'Rename', keys: 'F2', run: hands.rename },
      { label: 'Remove…', keys: 'Del', run: hands.askRemoval }
    ];
  return [
    { label: 'New bus from selection', keys: 'b', run: () => hands.name('bus') },
    { label: 'Route to…', keys: 'r', run: () => hands.pick('route') },
    { label: 'Send to…', keys: 'e', run: () => hands.pick('send') },
    { label: 'Parallel return from selection…', run: () => hands.name('parallel') },
    ...only(summing, { label: 'Insert a bus before its members…', run: () => hands.name('insert') }),
    ...only(channel.kind === 'mix', { label: 'Add a stage to the mix chain…', run: () => hands.name('stage') }),
    ...only(buses.length > 0, { label: 'Dissolve…', run: () => hands.ask({ kind: 'dissolve', ids: buses }) }),
    ...only(channel.kind === 'bus' && !chain.has(id), {
      label: channel.stem ? 'No stem any more' : 'Make it a stem',
      run: () => store.act([{ do: 'stems.set', ids: buses.filter((one) => !chain.has(one)), on: !channel.stem }])
    }),
    ...only(channel.stem, {
      label: channel.common ? 'Stem of its own tracks only' : 'Common stem: wanted across everything',
      run: () => store.act([{ do: 'stems.set', ids: [id], on: true, common: !channel.common }])
    }),
    ...only((channel.kind === 'bus' || channel.kind === 'return') && !channel.resting, {
      label: 'Take its sound as a track…',
      run: () => hands.ask({ kind: 'take', ids: [...new Set([id, ...buses, ...returns])].filter((one) => !chain.has(one)) }),
      off: chain.has(id)
    }),
    ...only(channel.kind === 'return', { label: 'Twin into buses…', run: () => hands.ask({ kind: 'twin', id }) }),
    ...only(returns.length > 1, { label: 'Merge returns', run: () => store.act([{ do: 'returns.merge', ids: returns }]) }),
    ...only(canBeHeld(channel), { label: 'Put into VCA…', run: () => hands.pick('intoVca') }),
    ...holdersOf(store.session, id).map((vca) => ({
      label: `Take out of VCA ${store.session.channel.get(vca)!.name}`,
      run: () => store.act([{ do: 'vcas.members', id: vca, remove: ids }])
    })),
    ...groupEntries(desk, actions, hands, id),
    { label: 'Duplicate', keys: 'd', run: () => actions.duplicate(ids, {}) },
    ...only(summing && channel.kind !== 'mix', {
      label: 'Duplicate with all that goes in',
      run: () => actions.duplicate(ids, { branch: true })
    }),
    ...only(channel.kind === 'track' && !summing, {
      label: 'Make it a key track: heard by key inputs only',
      run: () => store.act([{ do: 'tracks.key', ids: ids.filter((one) => store.session.channel.get(one)?.kind === 'track'), on: true }])
    }),
    ...only(channel.kind === 'key', { label: 'Make it a track', run: () => store.act([{ do: 'tracks.key', ids: [id], on: false }]) }),
    ...only(store.linksOf(id).length > 0 || holdersOf(store.session, id).length > 0, {
      label: 'Duplicate, in no groups',
      run: () => actions.duplicate(ids, { groups: false })
    }),
    { label: 'Duplicate without sends', run: () => actions.duplicate(ids, { sends: false }) },
    { label: 'Select this branch', run: () => selection.set(actions.branch(id), id) },
    { label: channel.pinned ? 'Unpin' : 'Pin to the top', keys: 'g', run: () => actions.pin(ids) },
    { label: 'Mute', keys: 'm', run: () => actions.toggle('mute', ids) },
    { label: 'Solo', keys: 's', run: () => actions.toggle('solo', ids) },
    { label: 'Solo-safe', keys: 'f', run: () => actions.toggle('soloSafe', ids) },
    { label: 'Unity', keys: '0', run: () => actions.setFaders(ids, 0) },
    { label: 'Rename', keys: 'F2', run: hands.rename },
    { label: 'Remove', keys: 'Del', run: hands.askRemoval }
  ];
}

/** What can be done with link groups from a row: make one, join one, and for each that it is in leave, select, show, pause. */
function groupEntries({ store, selection }: Desk, actions: LedgerActions, hands: Pick<Hands, 'pick'>, id: string): MenuEntry[] {
  const ids = [...selection.ids];
  return [
    { label: 'Link…', run: () => hands.pick('intoLink') },
    ...store.linksOf(id).map(({ link }): MenuEntry => {
      const members = membersOf(store.session, link.id);
      return {
        label: `${link.name} (${link.badge})`,
        run: () => undefined,
        more: [
          { label: 'Select all its members', run: () => selection.set(members, id) },
          { label: 'Show only this group', run: () => actions.showOnly(link.name, members) },
          { label: link.active ? 'Pause' : 'Take up', keys: link.shortcut || undefined, run: () => actions.pauseLink(link.id) },
          { label: 'Leave it', run: () => store.act([{ do: 'links.members', id: link.id, remove: ids }]) }
        ]
      };
    })
  ];
}

const TAP_SAID: readonly (readonly [Tap, string])[] = [
  ['post', 'after the fader'],
  ['pre', 'before the fader'],
  ['input', 'before the inserts']
];

/** `cells` are the crosspoints it acts on. */
export function crossMenu(
  { store }: Desk,
  actions: LedgerActions,
  cells: readonly { source: string; target: string }[],
  at: { source: string; target: string },
  hands: { readonly copy: () => void; readonly paste: () => void; readonly level: () => void }
): MenuEntry[] {
  const send = store.session.send.get(sendId(at.source, at.target));
  const present = cells.filter(({ source, target }) => store.session.send.has(sendId(source, target)));
  const set = (fields: object) => store.act([{ do: 'sends.set', sends: cells.map((cell) => ({ ...cell, ...fields })) }]);
  const remove = (): Command[] =>
    [...new Set(present.map(({ target }) => target))].map((target) => ({
      do: 'sends.remove',
      sources: present.filter((cell) => cell.target === target).map(({ source }) => source),
      target
    }));
  const branch = actions.branch(store.session.channel.get(at.source)?.outputId ?? at.source).filter((id) => id !== at.target);
  const pasting: MenuEntry[] = [
    { label: 'Copy', keys: 'Ctrl+C', run: hands.copy },
    { label: 'Paste', keys: 'Ctrl+V', run: hands.paste }
  ];
  if (!send) return [{ label: 'New send at −∞', run: () => set({}) }, ...pasting];
  const same = { level: send.levelDb, tap: send.tap, on: send.on, mono: send.mono, pan: send.pan };
  return [
    { label: send.on ? 'Send off' : 'Send on', keys: 'o', run: () => set({ on: !send.on }) },
    ...TAP_SAID.filter(([tap]) => tap !== send.tap).flatMap(([tap, said]): MenuEntry[] => [
      { label: `Take ${said}`, keys: tap === 'pre' || (tap === 'post' && send.tap !== 'post') ? 't' : undefined, run: () => set({ tap }) },
      { label: `Take ${said}, level kept`, run: () => store.act([{ do: 'sends.tap', sends: present, tap, keep: true }]) }
    ]),
    { label: send.mono ? 'As wide as the channel' : 'Mono', run: () => set({ mono: !send.mono }) },
    {
      label: send.pan === null ? 'Pan of its own, centre' : 'Pan follows the channel',
      run: () => set({ pan: send.pan === null ? 0 : null })
    },
    ...(cells.length > 1
      ? [{ label: `Same for all ${cells.length}`, keys: '=', run: () => set(same) }]
      : [
          {
            label: 'Same for this branch',
            keys: '=',
            run: () =>
              store.act([
                {
                  do: 'sends.set',
                  sends: branch
                    .filter((id) => store.session.channel.get(id)?.kind === 'track')
                    .map((source) => ({ source, target: at.target, ...same }))
                }
              ])
          }
        ]),
    ...pasting,
    { label: 'Send level to −∞', run: () => set({ level: -Infinity }) },
    { label: 'Remove send', keys: 'Del', run: () => store.act(remove()) }
  ];
}

export function columnMenu(
  desk: Desk,
  actions: LedgerActions,
  id: string,
  hands: { readonly ask: (what: Asked) => void; readonly open: () => void; readonly opened: boolean }
): MenuEntry[] {
  const { store, selection } = desk;
  const channel = store.session.channel.get(id)!;
  const hidden = [...idsBy(store.session, 'channel', 'columnHidden', true)];
  return [
    { label: hands.opened ? 'Close the lane' : 'Open as a lane of faders', run: hands.open },
    { label: 'Select its row', run: () => selection.set([id], id) },
    {
      label: 'Select what is sent there',
      run: () =>
        selection.set(
          rowsBy(store.session, 'send', 'targetId', id).map(({ sourceId }) => sourceId),
          selection.last
        )
    },
    { label: 'Send selection there', run: () => actions.sendTo([...selection.ids], id), off: selection.ids.size === 0 },
    ...(channel.kind === 'return'
      ? [
          { label: 'Drive: sends +1 dB, return −1 dB', run: () => store.act([{ do: 'returns.drive', id, by: 1 }]) },
          { label: 'Drive: sends −1 dB, return +1 dB', run: () => store.act([{ do: 'returns.drive', id, by: -1 }]) },
          { label: 'Drive by…', run: () => hands.ask({ kind: 'drive', id }) },
          { label: 'Twin into buses…', run: () => hands.ask({ kind: 'twin', id }) }
        ]
      : [{ label: 'The player’s page…', run: () => hands.ask({ kind: 'share', id }) }]),
    { label: 'Column to the left', run: () => actions.moveColumn(id, -1) },
    { label: 'Column to the right', run: () => actions.moveColumn(id, 1) },
    { label: 'Hide column', run: () => store.act([{ do: 'columns.hide', ids: [id], on: true }]) },
    ...(hidden.length
      ? [
          {
            label: `Show ${hidden.length} hidden column${hidden.length > 1 ? 's' : ''}`,
            run: () => store.act([{ do: 'columns.hide', ids: hidden, on: false }])
          }
        ]
      : [])
  ];
}

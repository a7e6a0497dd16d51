// What can be done to the selection in the Ledger, as commands: the one list behind keys, buttons and menus.
import { v4 as uuid } from 'uuid';
import { rowsBy } from '$core/session/lookup';
import type { Command } from '$core/commands/index';
import { sendId, type Channel } from '$core/session/entities';
import { branchOf } from '$core/routing/graph';
import { canBeHeld, heldBy } from '$core/session/vcas';
import { cut } from '$core/text';
import type { Desk } from '$lib/state/desk';
import { grip, moveOn, type Gesture } from '$lib/state/gestures';

export type Toggle = 'mute' | 'solo' | 'soloSafe';
const TOGGLES = { mute: 'mutes.set', solo: 'solos.set', soloSafe: 'safes.set' } as const;

const fresh = () => uuid();

/** A group's first badge: the first word of its name, as far as a badge goes. */
export const badgeOf = (name: string): string => cut(name.trim().split(/\s+/)[0].toLocaleLowerCase(), 8);

export function ledgerActions({ store, selection, now }: Desk) {
  const { session } = store;
  const selected = (): Channel[] => [...selection.ids].flatMap((id) => session.channel.get(id) ?? []);
  const movable = (ids: readonly string[]) => ids.filter((id) => session.channel.get(id)?.kind !== 'mix');
  /** What audio goes through: what can be routed and sent. */
  const flowing = (ids: readonly string[]) => movable(ids).filter((id) => session.channel.get(id)?.kind !== 'vca');

  return {
    /** Sets a switch of all of `ids` to the opposite of the first one's. */
    toggle: (what: Toggle, ids: readonly string[]) => {
      if (ids.length === 0) return;
      const on = !session.channel.get(ids[0])?.[what];
      store.act([{ do: TOGGLES[what], ids: [...ids], on }]);
    },
    /** A hand on the fader of `id`, which moves those of all of `ids` and whatever is linked to them. */
    grip: (id: string, ids: readonly string[]) =>
      grip(session, id, ids, 'level', (each) => {
        const { faderDb, lastDb } = session.channel.get(each)!;
        return { level: now.fader(each) ?? faderDb, last: lastDb };
      }),
    faders: (gesture: Gesture, level: number) => store.act([{ do: 'faders.move', ...moveOn(gesture, level) }], gesture.name),
    nudge: (ids: readonly string[], by: number, gesture: string | null) => store.act([{ do: 'faders.move', ids: [...ids], by }], gesture),
    setFaders: (ids: readonly string[], level: number) =>
      ids.length > 0 && store.act([{ do: 'faders.set', levels: ids.map((id) => ({ id, level })) }]),
    pans: (ids: readonly string[], pan: number, gesture: string | null = null) =>
      store.act([{ do: 'pans.set', pans: ids.map((id) => ({ id, pan })) }], gesture),
    panBy: (ids: readonly string[], by: number, gesture: string | null) => store.act([{ do: 'pans.move', ids: [...ids], by }], gesture),
    newVca: (name: string, members: readonly string[]) => {
      const id = fresh();
      const held = members.filter((member) => canBeHeld(session.channel.get(member)!));
      if (store.act([{ do: 'vcas.add', id, name, members: held }])) selection.set([id], id);
    },
    newLink: (name: string, members: readonly string[]) => {
      const id = fresh();
      store.act([{ do: 'links.add', id, name, badge: badgeOf(name), members: [...members] }]);
      return id;
    },
    newBus: (name: string, members: readonly string[]) => {
      const id = uuid();
      if (store.act([{ do: 'buses.add', id, name, members: flowing(members) }])) selection.set([id], id);
    },
    newReturn: (name: string, sources: readonly string[]) => {
      const id = uuid();
      store.act([{ do: 'returns.add', id, name, sources: flowing(sources) }]);
      return id;
    },
    route: (ids: readonly string[], to: string | null) => {
      const moving = flowing(ids);
      if (moving.length) store.act([{ do: 'channels.route', ids: moving, to }]);
      else store.say('Neither the mix bus nor a VCA goes into a bus. Select other channels to route.');
    },
    routeOut: (ids: readonly string[], pair: number) =>
      store.act([{ do: 'channels.route', ids: ids.filter((id) => session.channel.get(id)?.kind !== 'vca'), pair }]),
    insertBus: (name: string, into: string, members: readonly string[]) => {
      const id = fresh();
      const inside = members.filter((member) => session.channel.get(member)?.outputId === into);
      if (store.act([{ do: 'buses.insert', id, name, into, ...(inside.length ? { members: inside } : {}) }])) selection.set([id], id);
    },
    newStage: (name: string) => {
      const id = fresh();
      if (store.act([{ do: 'chain.add', id, name }])) selection.set([id], id);
    },
    parallel: (name: string, sources: readonly string[]) => {
      const id = fresh();
      if (store.act([{ do: 'returns.parallel', id, name, sources: flowing(sources) }])) selection.set([id], id);
    },
    newCue: (name: string, from: 'mix' | 'nothing', pair: number | null) =>
      store.act([{ do: 'cues.add', id: fresh(), name, from, ...(pair === null ? {} : { pair }) }]),
    newKey: (name: string) => {
      const id = fresh();
      if (store.act([{ do: 'keys.add', id, name }])) selection.set([id], id);
    },
    newClick: (name: string) => {
      const id = fresh();
      if (store.act([{ do: 'clicks.add', id, name }])) selection.set([id], id);
    },
    duplicate: (ids: readonly string[], with_: { branch?: boolean; sends?: boolean; groups?: boolean }) => {
      const copied = movable(ids);
      if (copied.length) store.act([{ do: 'channels.duplicate', ids: copied, as: fresh(), ...with_ }]);
      else store.say('A session has one mix bus. Select other channels to duplicate.');
    },
    dissolve: (ids: readonly string[], gain: 'commit' | 'drop') => {
      if (store.act([{ do: 'buses.dissolve', ids: [...ids], gain }])) selection.clear();
    },
    twin: (id: string, buses: readonly string[]) =>
      store.act([{ do: 'returns.twin', id, twins: buses.map((bus) => ({ id: fresh(), bus })) }]),
    pin: (ids: readonly string[]) => store.act([{ do: 'pins.set', ids: [...ids], on: !session.channel.get(ids[0])?.pinned }]),
    /** Moves a column among the columns shown. */
    moveColumn: (id: string, by: 1 | -1) => {
      const order = store.columns.map((column) => column.id);
      const at = order.indexOf(id);
      const to = at + by;
      if (to < 0 || to >= order.length) return;
      order.splice(at, 1);
      order.splice(to, 0, id);
      store.act([{ do: 'columns.order', ids: order }]);
    },
    share: (id: string) => {
      const [open] = rowsBy(session, 'cueToken', 'channelId', id);
      if (open) return open.id;
      const token = `${fresh()}${fresh()}`.replaceAll('-', '').slice(0, 40);
      store.act([{ do: 'cues.share', id, token }]);
      return token;
    },
    /** Sends that are not there yet, at −∞. */
    sendTo: (ids: readonly string[], target: string) => {
      const sources = flowing(ids).filter((id) => id !== target && !session.send.has(sendId(id, target)));
      if (sources.length === 0) return store.say('All of these send there already.');
      store.act([{ do: 'sends.set', sends: sources.map((source) => ({ source, target })) }]);
    },
    remove: (ids: readonly string[], membersTo?: string | null) => {
      const going = movable(ids);
      if (going.length === 0) return store.say('The mix bus stays: every session has one.');
      if (store.act([{ do: 'channels.remove', ids: going, ...(membersTo === undefined ? {} : { membersTo }) } as Command]))
        selection.clear();
    },
    /** Whether a VCA does something to what it holds, so that it would be missed. */
    offsets: (id: string) => {
      const channel = session.channel.get(id);
      if (channel?.kind !== 'vca' || heldBy(session, id).length === 0) return false;
      return channel.faderDb !== 0 || channel.mute || channel.solo;
    },
    removeVcas: (ids: readonly string[], fold: boolean) => {
      const vcas = ids.filter((id) => session.channel.get(id)?.kind === 'vca');
      const rest = ids.filter((id) => !vcas.includes(id));
      const also: Command[] = rest.length ? [{ do: 'channels.remove', ids: rest }] : [];
      if (store.act([{ do: 'vcas.remove', ids: vcas, fold }, ...also])) selection.clear();
    },
    intoVca: (id: string, ids: readonly string[]) => {
      const add = ids.filter((each) => each !== id && canBeHeld(session.channel.get(each)!));
      store.act([{ do: 'vcas.members', id, add }]);
    },
    intoLink: (id: string, ids: readonly string[]) => store.act([{ do: 'links.members', id, add: [...ids] }]),
    pauseLink: (id: string) => store.act([{ do: 'links.set', id, active: !session.link.get(id)?.active }]),
    /** Hides every row but those of a group; the mix bus is always there. */
    showOnly: (name: string, ids: readonly string[]) => {
      const rest = [...session.channel.values()].filter(({ id, kind }) => kind !== 'mix' && kind !== 'vca' && !ids.includes(id));
      store.act([
        { do: 'batch.name', text: `Show only ${cut(name, 100)}` },
        { do: 'hides.set', ids: [...ids], on: false },
        ...(rest.length ? [{ do: 'hides.set' as const, ids: rest.map(({ id }) => id), on: true }] : [])
      ]);
    },
    /** Channels that are routed into buses about to be removed and stay themselves. */
    orphans: (ids: readonly string[]) => {
      const gone = new Set(ids);
      return [...gone].flatMap((id) => rowsBy(session, 'channel', 'outputId', id)).filter(({ id }) => !gone.has(id));
    },
    branch: (id: string) => branchOf(session, id),
    selected
  };
}
export type LedgerActions = ReturnType<typeof ledgerActions>;

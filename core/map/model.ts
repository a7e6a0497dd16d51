// What the Map shows, before it is known where: stations with what flows into them, rivers, sends, and the strands that sends of a family
// to one return run in. Hidden channels are passed by; a folded branch stands for all in it.
import { branchOf, keyEdges, mixChain } from '../routing/graph.ts';
import { levelOf, mutedOf } from '../routing/level.ts';
import { settingsOf, type Channel, type Session, type Tap } from '../session/entities.ts';
import { inOrder } from '../session/select.ts';
import { sounds } from '../session/vcas.ts';
import { riverWidth } from './levels.ts';

export type Station = {
  readonly id: string;
  readonly kind: Channel['kind'] | 'output';
  readonly name: string;
  readonly colour: number;
  /** Width of the river that leaves it, pixels. */
  readonly width: number;
  /** How many channels are folded into it. */
  readonly folded: number;
  readonly muted: boolean;
  readonly members: number;
  /** Whether what flows in can be folded into it: it is a bus, and no stage of the mix's chain. */
  readonly foldable: boolean;
  /** The station it flows into, where that is shown; `#0` is the first pair of outputs. */
  readonly into: string | null;
};
export type Way = {
  readonly key: string;
  readonly from: string;
  readonly to: string;
  readonly via: 'output' | 'send' | 'key';
  readonly tap: Tap;
  readonly on: boolean;
  readonly db: number;
  /** How many sends a folded branch has there; 1 of anything else. */
  readonly count: number;
  readonly colour: number;
  readonly width: number;
};
/** Sends of one family, or of one bus or return, to one return or cue. */
export type Strand = {
  readonly key: string;
  /** The station that the senders flow into, where they are tracks; the sender itself otherwise. */
  readonly of: string;
  readonly to: string;
  readonly ways: readonly Way[];
  readonly on: boolean;
  readonly colour: number;
  readonly width: number;
};
export type Model = {
  readonly stations: ReadonlyMap<string, Station>;
  /** What flows into a station, in the order of the session, returns last; under null, what flows into nothing that is shown. */
  readonly members: ReadonlyMap<string | null, readonly string[]>;
  readonly ways: readonly Way[];
  readonly strands: readonly Strand[];
};

export type Shown = {
  /** Only these; null is everything. Hidden channels are left out in any case. */
  readonly only: ReadonlySet<string> | null;
  readonly folded: ReadonlySet<string>;
};

export const isSource = ({ kind }: { readonly kind: Station['kind'] }): boolean => kind === 'track' || kind === 'key';
/** A return or a cue: sends fall into it. */
export const isBasin = ({ kind }: { readonly kind: Station['kind'] }): boolean => kind === 'return' || kind === 'cue';

/** `levels` are those of the channels' outputs, dB. */
export function modelOf(session: Session, levels: ReadonlyMap<string, number>, { only, folded }: Shown): Model {
  const all = inOrder(session).filter(sounds);
  const hiddenIn = new Map<string, string>();
  for (const id of folded) for (const inside of branchOf(session, id).slice(1)) if (!hiddenIn.has(inside)) hiddenIn.set(inside, id);
  // A branch folded inside another folded one stands for nothing itself.
  const standIn = (id: string): string => (hiddenIn.has(id) ? standIn(hiddenIn.get(id)!) : id);
  const shown = all.filter(({ id, hidden }) => !hidden && !hiddenIn.has(id) && (only === null || only.has(id)));
  const ids = new Set(shown.map(({ id }) => id));
  /** Where a channel's river is seen to end: what is hidden on the way is passed by. */
  const endOf = (channel: Channel): { readonly to: string | null; readonly pair: number | null } => {
    const next = channel.outputId === null ? undefined : session.channel.get(channel.outputId);
    return next?.hidden ? endOf(next) : { to: channel.outputId, pair: channel.outputPair };
  };
  const into = (channel: Channel): string | null => {
    const { to, pair } = endOf(channel);
    return to !== null && ids.has(to) ? to : pair === null ? null : `#${pair}`;
  };
  const chain = new Set(mixChain(session).map(({ id }) => id));
  const stations = new Map<string, Station>();
  const goesIn = new Map<string, number>();
  for (const { outputId } of all) if (outputId !== null) goesIn.set(outputId, (goesIn.get(outputId) ?? 0) + 1);
  for (const channel of shown) {
    const { id, kind, name, colour } = channel;
    stations.set(id, {
      ...{ id, kind, name, colour, into: into(channel) },
      width: riverWidth(levels.get(id) ?? -Infinity),
      folded: folded.has(id) ? branchOf(session, id).length - 1 : 0,
      muted: mutedOf(session, channel),
      members: goesIn.get(id) ?? 0,
      foldable: kind === 'bus' && goesIn.has(id) && !chain.has(id)
    });
  }
  const pairs = [...new Set(shown.flatMap((channel) => endOf(channel).pair ?? []))].sort((a, b) => a - b);
  for (const pair of pairs) {
    const name = `${settingsOf(session).interfaceName} ${pair * 2 + 1}–${pair * 2 + 2}`;
    stations.set(`#${pair}`, {
      ...{ id: `#${pair}`, kind: 'output', name, colour: 0, width: 3, folded: 0, muted: false, members: 0, foldable: false, into: null }
    });
  }

  const members = new Map<string | null, string[]>();
  const rank = (station: Station) => (isBasin(station) ? 1 : 0);
  for (const { id } of shown) {
    const to = stations.get(id)!.into;
    members.set(to, [...(members.get(to) ?? []), id]);
  }
  for (const list of members.values()) {
    // The mix's chain before what else goes out, cues and returns after it.
    const first = (id: string) => (chain.has(id) ? -1 : rank(stations.get(id)!));
    list.sort((a, b) => first(a) - first(b));
  }

  const ways = new Map<string, Way>();
  const add = (via: Way['via'], fromId: string, toId: string, tap: Tap, on: boolean, db: number) => {
    const [from, to] = [standIn(fromId), standIn(toId)];
    const [a, b] = [stations.get(from), stations.get(to)];
    const key = `${via} ${from} ${to}`;
    if (!a || !b || from === to) return;
    const known = ways.get(key);
    if (known) return void ways.set(key, { ...known, count: known.count + 1, on: known.on || on });
    const loud = levels.get(from) ?? -60;
    const width =
      via === 'output' ? riverWidth(levels.get(from) ?? -Infinity) : via === 'send' ? Math.max(1, riverWidth(loud + db) / 2.5) : 1.4;
    ways.set(key, { key, from, to, via, tap, on, db, count: 1, colour: via === 'send' ? b.colour : a.colour, width });
  };
  for (const channel of all) {
    const { to, pair } = endOf(channel);
    const end = to ?? (pair === null ? null : `#${pair}`);
    if (end !== null) add('output', channel.id, end, 'post', !mutedOf(session, channel), levelOf(session, channel));
  }
  for (const { sourceId, targetId, levelDb, tap, on } of session.send.values()) add('send', sourceId, targetId, tap, on, levelDb);
  for (const { from, to } of keyEdges(session)) if (from !== to) add('key', from, to, 'post', true, 0);
  return { stations, members, ways: [...ways.values()], strands: strandsOf([...ways.values()], stations) };
}

/** Sends in strands: tracks of one family to one return run together, all else by itself. */
function strandsOf(ways: readonly Way[], stations: ReadonlyMap<string, Station>): Strand[] {
  const groups = new Map<string, Way[]>();
  for (const way of ways) {
    if (way.via !== 'send') continue;
    const from = stations.get(way.from)!;
    const key = `strand ${(isSource(from) ? from.into : from.id) ?? ''} ${way.to} ${isSource(from) ? 'in' : 'of'}`;
    groups.set(key, [...(groups.get(key) ?? []), way]);
  }
  return [...groups].map(([key, list]): Strand => {
    const from = stations.get(list[0].from)!;
    const power = list.reduce((sum, { width }) => sum + width ** 2, 0);
    return {
      key,
      of: isSource(from) ? (from.into ?? '') : from.id,
      to: list[0].to,
      ways: list,
      on: list.some(({ on }) => on),
      colour: list[0].colour,
      width: Math.min(2.2, Math.sqrt(power))
    };
  });
}

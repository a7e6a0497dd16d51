// The graph: main outputs, sends and keys between channels, loops, and the tree that the Ledger shows.
import { MIX } from '../session/create.ts';
import type { Channel, Session } from '../session/entities.ts';
import { idsBy, rowsBy } from '../session/lookup.ts';
import { inOrder } from '../session/select.ts';
import { sounds } from '../session/vcas.ts';

export type Edge = { readonly from: string; readonly to: string; readonly via: 'output' | 'send' | 'key' };

/** All audio edges, main outputs first, each list in map order. Levels and switches do not matter. */
export function edges(session: Session): Edge[] {
  const list: Edge[] = [];
  for (const channel of session.channel.values())
    if (channel.outputId !== null) list.push({ from: channel.id, to: channel.outputId, via: 'output' });
  for (const send of session.send.values()) list.push({ from: send.sourceId, to: send.targetId, via: 'send' });
  return list;
}

/** Key inputs as edges; one from a channel's own `input` closes no loop and is none. */
export function keyEdges(session: Session): Edge[] {
  const list: Edge[] = [];
  for (const { channelId, keyId, keyTap } of session.insert.values())
    if (keyId !== null && !(keyId === channelId && keyTap === 'input')) list.push({ from: keyId, to: channelId, via: 'key' });
  return list;
}

/** What decides the order of the work: audio and keys. */
export const allEdges = (session: Session): Edge[] => [...edges(session), ...keyEdges(session)];

/** Adds to the list that a map holds under a key. */
export function listed<K, V>(lists: Map<K, V[]>, key: K, value: V): void {
  const list = lists.get(key);
  if (list) list.push(value);
  else lists.set(key, [value]);
}

/** Ids that each id's audio flows to. */
export function successors(list: readonly Edge[]): Map<string, string[]> {
  const next = new Map<string, string[]>();
  for (const { from, to } of list) listed(next, from, to);
  return next;
}

/** Edges by where they come from. */
export function edgesFrom(list: readonly Edge[]): Map<string, Edge[]> {
  const outgoing = new Map<string, Edge[]>();
  for (const edge of list) listed(outgoing, edge.from, edge);
  return outgoing;
}

/** The same edges against the flow. */
export const reversed = (list: readonly Edge[]): Map<string, string[]> =>
  successors(list.map(({ from, to, via }) => ({ from: to, to: from, via })));

/** Where one gets from an id: listed, or told. */
export type Next = ReadonlyMap<string, readonly string[]> | ((id: string) => Iterable<string>);
const told = (next: Next): ((id: string) => Iterable<string>) => (typeof next === 'function' ? next : (id) => next.get(id) ?? []);

/** Ids that a channel's audio flows to, keys included; with `dropped` its main output does not count. */
export function flowsTo(session: Session, id: string, dropped = false): string[] {
  const found: string[] = [];
  const output = dropped ? null : session.channel.get(id)?.outputId;
  if (output != null) found.push(output);
  for (const { targetId } of rowsBy(session, 'send', 'sourceId', id)) found.push(targetId);
  for (const { channelId, keyTap } of rowsBy(session, 'insert', 'keyId', id))
    if (!(channelId === id && keyTap === 'input')) found.push(channelId);
  return found;
}

/** A channel's audio edges: its main output, then its sends. */
export function edgesOf(session: Session, id: string): Edge[] {
  const output = session.channel.get(id)?.outputId ?? null;
  const sends = idsBy(session, 'send', 'sourceId', id).map((key): Edge => ({ from: id, to: key.slice(id.length + 1), via: 'send' }));
  return output === null ? sends : [{ from: id, to: output, via: 'output' }, ...sends];
}

/** What a channel's audio reaches: ids such that what feeds comes first, itself among them, and the edges between by their source. */
export function downstream(session: Session, from: string): { readonly order: string[]; readonly outgoing: ReadonlyMap<string, Edge[]> } {
  const outgoing = new Map<string, Edge[]>();
  const feeders = new Map<string, number>([[from, 0]]);
  for (const id of feeders.keys()) {
    const own = edgesOf(session, id);
    outgoing.set(id, own);
    for (const { to } of own) feeders.set(to, (feeders.get(to) ?? 0) + 1);
  }
  const order = [from];
  for (const id of order)
    for (const { to } of outgoing.get(id)!) {
      const left = feeders.get(to)! - 1;
      feeders.set(to, left);
      if (left === 0) order.push(to);
    }
  return { order, outgoing };
}

/** Everything reachable from `seeds` along `next`, seeds included. */
export function reach(seeds: Iterable<string>, next: Next): Set<string> {
  const onward = told(next);
  const found = new Set(seeds);
  const queue = [...found];
  for (let head = 0; head < queue.length; head++)
    for (const there of onward(queue[head]))
      if (!found.has(there)) {
        found.add(there);
        queue.push(there);
      }
  return found;
}

/** The stations of a path from `from` to `to`, both included, or null where there is none. */
export function pathAlong(next: Next, from: string, to: string): string[] | null {
  const onward = told(next);
  const cameFrom = new Map<string, string | null>([[from, null]]);
  const queue = [from];
  for (let head = 0; head < queue.length; head++) {
    const here = queue[head];
    if (here === to) {
      const stations = [here];
      for (let at = cameFrom.get(here); at; at = cameFrom.get(at)) stations.unshift(at);
      return stations;
    }
    for (const there of onward(here))
      if (!cameFrom.has(there)) {
        cameFrom.set(there, here);
        queue.push(there);
      }
  }
  return null;
}

/**
 * The loop that the added edges would close, as names from station to station, or null.
 * `dropped` are sources whose main output is about to be replaced.
 */
export function loopClosedBy(session: Session, added: readonly Edge[], dropped: ReadonlySet<string>): string[] | null {
  const more = successors(added);
  const next = (id: string) => [...flowsTo(session, id, dropped.has(id)), ...(more.get(id) ?? [])];
  // Most often every added edge leads to one place: what can be reached from there is looked for once.
  const reached = new Map<string, ReadonlySet<string>>();
  for (const { from, to } of added) {
    if (!reached.has(to)) reached.set(to, reach([to], next));
    if (!reached.get(to)!.has(from)) continue;
    const back = pathAlong(next, to, from);
    if (back) return [from, ...back].map((id) => session.channel.get(id)?.name ?? id);
  }
  return null;
}

/** A loop that the session has, as names from station to station, or null: what comes from outside may have one. */
export function loopIn(session: Session): string[] | null {
  const list = allEdges(session);
  const next = successors(list);
  // What nothing feeds is taken away, again and again: what is left feeds itself, or is fed by what does.
  const feeders = new Map<string, number>();
  for (const { to } of list) feeders.set(to, (feeders.get(to) ?? 0) + 1);
  const free = [...next.keys()].filter((id) => !feeders.has(id));
  for (let head = 0; head < free.length; head++)
    for (const to of next.get(free[head]) ?? []) {
      const left = feeders.get(to)! - 1;
      if (left > 0) feeders.set(to, left);
      else {
        feeders.delete(to);
        free.push(to);
      }
    }
  if (feeders.size === 0) return null;
  for (const { from, to } of list) {
    if (!feeders.has(from)) continue;
    const back = pathAlong(next, to, from);
    if (back) return [from, ...back].map((id) => session.channel.get(id)?.name ?? id);
  }
  return null;
}

/** Channel ids such that every channel comes after all that feed it; equals by order of birth. */
export function topological(session: Session): string[] {
  const list = allEdges(session).filter((edge) => session.channel.has(edge.to) && session.channel.has(edge.from));
  const waiting = new Map<string, number>();
  for (const { to } of list) waiting.set(to, (waiting.get(to) ?? 0) + 1);
  const next = successors(list);
  const born = (id: string) => session.channel.get(id)!.born;
  const ready = [...session.channel.keys()].filter((id) => !waiting.has(id)).sort((a, b) => born(a) - born(b));
  const order: string[] = [];
  for (let head = 0; head < ready.length; head++) {
    const id = ready[head];
    order.push(id);
    const freed: string[] = [];
    for (const to of next.get(id) ?? []) {
      const left = waiting.get(to)! - 1;
      waiting.set(to, left);
      if (left === 0) freed.push(to);
    }
    ready.push(...freed.sort((a, b) => born(a) - born(b)));
  }
  return order;
}

/** A row of the Ledger: a channel, how deep it stands, and its branch's ancestors from the root down. */
export type Row = { readonly channel: Channel; readonly depth: number; readonly path: readonly string[]; readonly last: boolean };
export type Tree = {
  /** The later stages of the mix chain, last first: a head above the tree. */
  readonly chain: readonly Row[];
  readonly mix: readonly Row[];
  readonly elsewhere: readonly Row[];
  readonly cues: readonly Row[];
  readonly nowhere: readonly Row[];
  /** VCAs, which lie above it all: nothing goes through them. */
  readonly vcas: readonly Row[];
};

/** The mix bus and all that it reaches along main outputs, in the order of the signal. */
export function mixChain(session: Session): Channel[] {
  const chain: Channel[] = [];
  for (let id: string | null = MIX; id !== null; id = chain.at(-1)!.outputId) {
    const channel = session.channel.get(id);
    if (!channel || chain.includes(channel)) break;
    chain.push(channel);
  }
  return chain;
}

/**
 * The session as a tree by main outputs: the mix bus and all below it, other outputs, cues, and what goes nowhere. What enters
 * the mix chain behind the mix bus stands beneath the stage it enters.
 */
export function treeOf(session: Session): Tree {
  const members = new Map<string, Channel[]>();
  const sorted = inOrder(session);
  for (const channel of sorted) if (channel.outputId !== null) listed(members, channel.outputId, channel);
  const branch = (channel: Channel, path: readonly string[], last: boolean): Row[] => {
    const inside = members.get(channel.id) ?? [];
    return [
      { channel, depth: path.length, path, last },
      ...inside.flatMap((member, i) => branch(member, [...path, channel.id], i === inside.length - 1))
    ];
  };
  const roots = (wanted: (channel: Channel) => boolean) =>
    sorted.filter((channel) => channel.outputId === null && wanted(channel)).flatMap((channel) => branch(channel, [], true));
  const chain = mixChain(session).slice(1);
  const inChain = new Set([MIX, ...chain.map(({ id }) => id)]);
  const mix = session.channel.get(MIX);
  const head = [...chain].reverse().flatMap((channel) => {
    const inside = (members.get(channel.id) ?? []).filter(({ id }) => !inChain.has(id));
    return [
      { channel, depth: 0, path: [], last: true },
      ...inside.flatMap((member, i) => branch(member, [channel.id], i === inside.length - 1))
    ];
  });
  const apart = (channel: Channel) => !inChain.has(channel.id);
  return {
    chain: head,
    mix: mix ? branch(mix, [], true) : [],
    elsewhere: roots((channel) => apart(channel) && channel.kind !== 'cue' && channel.outputPair !== null),
    cues: roots((channel) => channel.kind === 'cue'),
    nowhere: roots((channel) => apart(channel) && channel.kind !== 'cue' && sounds(channel) && channel.outputPair === null),
    vcas: roots((channel) => !sounds(channel))
  };
}

/** A channel and all that is routed into it by main outputs, at any depth. */
export function branchOf(session: Session, id: string): string[] {
  const found = [id];
  for (let head = 0; head < found.length; head++) found.push(...idsBy(session, 'channel', 'outputId', found[head]));
  return found;
}

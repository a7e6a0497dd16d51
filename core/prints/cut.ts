// Where a render is cut in two for two cores: a share that nothing else feeds, about as dear as the rest, and that leaves little to cross.
import { topologyOf, type Topology } from '../engine/topology.ts';
import { listed } from '../routing/graph.ts';
import type { Costs } from './measure.ts';
import type { Pass } from './passes.ts';

export type Cut = {
  readonly first: ReadonlySet<string>;
  /** Times as fast as one alone, as far as costs tell. */
  readonly gain: number;
};

/** Less than this is not worth a second thread. */
const LEAST_GAIN = 1.1;

/**
 * The best cut of a pass whose strips cost so much each, or null where none is worth it. Tried are all beginnings of a few orders in which
 * what feeds comes first: by branches from the outputs back, dearest or eldest first, and by tiers.
 */
export function cutOf(pass: Pass, { strips, besides, buffer }: Costs): Cut | null {
  const topology = topologyOf(pass.session);
  const feeds = feedsOf(topology);
  const cost = (id: string) => strips.get(id) ?? 0;
  const widths = new Map(topology.strips.map(({ channel }) => [channel.id, channel.width]));
  const total = topology.strips.reduce((sum, { channel }) => sum + cost(channel.id), 0);
  const listened = new Set(pass.outlets.map(({ id, tap }) => `${id} ${tap}`));
  let best: { time: number; order: readonly string[]; count: number } | null = null;
  for (const order of ordersOf(topology, feeds, cost)) {
    const waiting = new Map<string, number>();
    for (const list of feeds.values()) for (const { signal } of list) waiting.set(signal, (waiting.get(signal) ?? 0) + 1);
    const leaving = new Map<string, Set<string>>();
    for (const signal of [...waiting.keys(), ...listened]) {
      const id = signal.slice(0, signal.lastIndexOf(' '));
      leaving.set(id, (leaving.get(id) ?? new Set()).add(signal));
    }
    /** How many signals of a strip cross: a mono one's fader is done again on the other side, so that one buffer is enough. */
    const crossing = new Map<string, Set<string>>();
    let [ahead, buffers] = [0, 0];
    const width = (id: string) => (crossing.get(id)?.size ? widths.get(id)! : 0);
    for (const [i, id] of order.entries()) {
      ahead += cost(id);
      crossing.set(id, new Set(leaving.get(id)));
      buffers += width(id);
      for (const { from, signal } of feeds.get(id) ?? []) {
        const left = waiting.get(signal)! - 1;
        waiting.set(signal, left);
        if (left > 0 || listened.has(signal)) continue;
        buffers -= width(from);
        crossing.get(from)?.delete(signal);
        buffers += width(from);
      }
      const crossed = buffers * buffer;
      const time = Math.max(ahead + crossed, total - ahead + besides + crossed);
      if (i + 1 < order.length && (!best || time < best.time)) best = { time, order, count: i + 1 };
    }
  }
  if (!best) return null;
  const gain = (total + besides) / best.time;
  return gain < LEAST_GAIN ? null : { first: new Set(best.order.slice(0, best.count)), gain };
}

type Feed = { readonly from: string; readonly signal: string };

/** By strip, the signals that come in: over edges and keys. What leaves by the interface is waited for by nobody. */
function feedsOf({ edges, strips }: Topology): ReadonlyMap<string, readonly Feed[]> {
  const here = new Set(strips.map(({ channel }) => channel.id));
  const feeds = new Map<string, Feed[]>();
  for (const { from, to, source } of edges) if (to !== null) listed(feeds, to, { from, signal: `${from} ${source}` });
  for (const { channel, inserts } of strips)
    for (const { keyId, keyTap } of inserts)
      if (keyId !== null && keyId !== channel.id && here.has(keyId))
        listed(feeds, channel.id, { from: keyId, signal: `${keyId} ${keyTap}` });
  return feeds;
}

function ordersOf(topology: Topology, feeds: ReadonlyMap<string, readonly Feed[]>, cost: (id: string) => number): string[][] {
  const born = new Map(topology.strips.map(({ channel }) => [channel.id, channel.born]));
  const ids = topology.strips.map(({ channel }) => channel.id);
  /** All that feeds a strip, itself included: dearer branches may be gone through first. */
  const branch = new Map<string, number>();
  for (const id of ids) branch.set(id, cost(id) + (feeds.get(id) ?? []).reduce((sum, { from }) => sum + (branch.get(from) ?? 0), 0));
  const fed = new Set([...feeds.values()].flat().map(({ from }) => from));
  const sinks = ids.filter((id) => !fed.has(id));
  const deep = (by: (a: string, b: string) => number): string[] => {
    const order: string[] = [];
    const seen = new Set<string>();
    const visit = (id: string) => {
      if (seen.has(id)) return;
      seen.add(id);
      for (const from of [...new Set((feeds.get(id) ?? []).map((feed) => feed.from))].sort(by)) visit(from);
      order.push(id);
    };
    for (const sink of [...sinks].sort(by)) visit(sink);
    return order;
  };
  const age = (a: string, b: string) => born.get(a)! - born.get(b)!;
  return [
    deep(age),
    deep((a, b) => -age(a, b)),
    deep((a, b) => branch.get(b)! - branch.get(a)! || age(a, b)),
    deep((a, b) => branch.get(a)! - branch.get(b)! || age(a, b)),
    ids
  ];
}

// What of a session decides the shape of its render plan: channels, inserts, edges and keys, level by level.
import { keyEdges, topological } from '../routing/graph.ts';
import type { Channel, Insert, Send, Session, Tap } from '../session/entities.ts';

/** An edge between strips; `to` null is the interface output pair `pair`. */
export type PlanEdge = {
  readonly key: string;
  readonly from: string;
  readonly to: string | null;
  readonly pair: number;
  readonly send: boolean;
  /** What it takes: the channel's `input`, `pre` or `post` signal. */
  readonly source: Tap;
  /** Whether it takes (L+R)/2 of it. */
  readonly fold: boolean;
  /** Whether left and right have gains of their own. */
  readonly sided: boolean;
  /** Whether the channel's fader is in those gains, since the signal is taken before it. */
  readonly faded: boolean;
};

export type Strip = { readonly channel: Channel; readonly inserts: readonly Insert[]; readonly level: number };

export type Topology = {
  /** Strips such that what feeds comes before what is fed; within a level by order of birth. */
  readonly strips: readonly Strip[];
  readonly edges: readonly PlanEdge[];
  /** Equal strings mean that a running plan can be kept. */
  readonly signature: string;
};

export function topologyOf(session: Session): Topology {
  const order = topological(session);
  const edges = planEdges(session);
  const levels = levelsOf(order, [...edges, ...keyEdges(session)]);
  const inserts = new Map<string, Insert[]>();
  for (const insert of session.insert.values()) inserts.set(insert.channelId, [...(inserts.get(insert.channelId) ?? []), insert]);
  const strips = order
    .map((id) => ({
      channel: session.channel.get(id)!,
      inserts: (inserts.get(id) ?? []).sort((a, b) => a.position - b.position),
      level: levels.get(id)!
    }))
    .sort((a, b) => a.level - b.level || a.channel.born - b.channel.born);
  const signature = JSON.stringify([
    strips.map(({ channel, inserts: own }) => [channel.id, channel.width, own.map(({ id, keyId, keyTap }) => [id, keyId, keyTap])]),
    edges.map((edge) => edge.key)
  ]);
  return { strips, edges, signature };
}

function planEdges(session: Session): PlanEdge[] {
  const edges: PlanEdge[] = [];
  const plain = { send: false, source: 'post', fold: false, sided: false, faded: false } as const;
  for (const { id, outputId, outputPair } of session.channel.values())
    if (outputId !== null || outputPair !== null)
      edges.push({ ...plain, key: outputKey(id, outputId, outputPair), from: id, to: outputId, pair: outputPair ?? 0 });
  for (const send of session.send.values()) edges.push(sendEdge(send, session.channel.get(send.sourceId)?.width ?? 2));
  return sortedEdges(edges, (id) => session.channel.get(id)?.born ?? 0);
}

export const outputKey = (id: string, outputId: string | null, outputPair: number | null): string =>
  outputId !== null ? `o ${id} ${outputId}` : `o ${id} #${outputPair}`;

/**
 * How a send is taken. A `post` send that follows its channel is the channel's own signal; one with its own pan, and a
 * mono one of a mono track, is taken before fader and pan and carries the fader in its gain.
 */
export function sendEdge(send: Send, width: 1 | 2): PlanEdge {
  const { sourceId: from, targetId: to, tap, mono, pan } = send;
  const own = pan !== null;
  const before = tap === 'post' && ((own && !(mono && width === 2)) || (mono && width === 1));
  return {
    key: `s ${tap}${mono ? ' mono' : ''}${own ? ' own' : ''} ${from} ${to}`,
    from,
    to,
    pair: 0,
    send: true,
    source: before ? 'pre' : tap,
    fold: mono && width === 2,
    sided: tap !== 'post' || own,
    faded: before
  };
}

/** The order of every sum: by birth of the source, its main output before its sends. */
export const sortedEdges = (edges: readonly PlanEdge[], born: (id: string) => number): PlanEdge[] =>
  [...edges].sort((a, b) => born(a.from) - born(b.from) || Number(a.send) - Number(b.send) || (a.key < b.key ? -1 : 1));

/** How many edges the longest way to each channel has. */
function levelsOf(order: readonly string[], edges: readonly { readonly from: string; readonly to: string | null }[]): Map<string, number> {
  const levels = new Map(order.map((id) => [id, 0]));
  const outgoing = new Map<string, string[]>();
  for (const { from, to } of edges) {
    if (to === null) continue;
    const targets = outgoing.get(from);
    if (targets) targets.push(to);
    else outgoing.set(from, [to]);
  }
  for (const id of order) for (const to of outgoing.get(id) ?? []) levels.set(to, Math.max(levels.get(to)!, levels.get(id)! + 1));
  return levels;
}

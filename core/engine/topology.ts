// What of a session decides the shape of its render plan: channels, inserts and edges, level by level.
import { topological } from '../routing/graph.ts';
import type { Channel, Insert, Session, Tap } from '../session/entities.ts';
import { insertsOf } from '../session/select.ts';

/** An edge between strips; `to` null is the interface output pair `pair`. */
export type PlanEdge = {
  readonly key: string;
  readonly from: string;
  readonly to: string | null;
  readonly pair: number;
  readonly tap: Tap;
  readonly send: boolean;
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
  const levels = levelsOf(order, edges);
  const strips = order
    .map((id) => ({ channel: session.channel.get(id)!, inserts: insertsOf(session, id), level: levels.get(id)! }))
    .sort((a, b) => a.level - b.level || a.channel.born - b.channel.born);
  const signature = JSON.stringify([
    strips.map(({ channel, inserts }) => [channel.id, channel.width, inserts.map((insert) => insert.id)]),
    edges.map((edge) => edge.key)
  ]);
  return { strips, edges, signature };
}

function planEdges(session: Session): PlanEdge[] {
  const edges: PlanEdge[] = [];
  for (const { id, outputId, outputPair } of session.channel.values()) {
    if (outputId !== null) edges.push({ key: `o ${id} ${outputId}`, from: id, to: outputId, pair: 0, tap: 'post', send: false });
    else if (outputPair !== null)
      edges.push({ key: `o ${id} #${outputPair}`, from: id, to: null, pair: outputPair, tap: 'post', send: false });
  }
  for (const { sourceId, targetId, tap } of session.send.values())
    edges.push({ key: `${tap} ${sourceId} ${targetId}`, from: sourceId, to: targetId, pair: 0, tap, send: true });
  return sortedEdges(edges, (id) => session.channel.get(id)?.born ?? 0);
}

/** The order of every sum: by birth of the source, its main output before its sends. */
export const sortedEdges = (edges: readonly PlanEdge[], born: (id: string) => number): PlanEdge[] =>
  [...edges].sort((a, b) => born(a.from) - born(b.from) || Number(a.send) - Number(b.send) || (a.key < b.key ? -1 : 1));

/** How many edges the longest way to each channel has. */
function levelsOf(order: readonly string[], edges: readonly PlanEdge[]): Map<string, number> {
  const levels = new Map(order.map((id) => [id, 0]));
  const outgoing = new Map<string, string[]>();
  for (const { from, to } of edges) if (to !== null) outgoing.set(from, [...(outgoing.get(from) ?? []), to]);
  for (const id of order) for (const to of outgoing.get(id) ?? []) levels.set(to, Math.max(levels.get(to)!, levels.get(id)! + 1));
  return levels;
}

// What of a session decides the shape of its render plan: channels, inserts, edges and keys, level by level.
import { keyEdges, topological } from '../routing/graph.ts';
import { lanesOf, playingLane, plays, pointsOf } from '../lanes/points.ts';
import { isCrossed } from '../routing/placement.ts';
import { widthBehind, widthOf } from '../routing/width.ts';
import { processors, valuesOf } from '../processors/index.ts';
import { settingsOf } from '../session/entities.ts';
import { fadeOf } from './mixFade.ts';
import { insertsOf } from '../session/select.ts';
import type { Frames } from '../units.ts';
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
  /** Whether the signal goes through the channel's matrix of pins and width on its way. */
  readonly crossed: boolean;
};

export type Strip = {
  readonly channel: Channel;
  readonly inserts: readonly Insert[];
  readonly level: number;
  readonly crossed: boolean;
  /** Whether the mix's fades are at its fader. */
  readonly fades: boolean;
};

export type Topology = {
  /** Strips such that what feeds comes before what is fed; within a level by order of birth. */
  readonly strips: readonly Strip[];
  readonly edges: readonly PlanEdge[];
  /** Frames that inserts have to remember, of those that say so. */
  readonly rooms: ReadonlyMap<string, Frames>;
  /** Equal strings mean that a running plan can be kept. */
  readonly signature: string;
};

/** The session without what rests or has no audio: no strip, no edge, no memory. */
function awake(session: Session): Session {
  const channel = new Map([...session.channel].filter(([, { resting, kind }]) => kind === 'mix' || !(resting || kind === 'vca')));
  if (channel.size === session.channel.size) return session;
  const here = (id: string | null) => id === null || channel.has(id);
  for (const [id, row] of channel) if (!here(row.outputId)) channel.set(id, { ...row, outputId: null });
  const send = new Map([...session.send].filter(([, { sourceId, targetId }]) => here(sourceId) && here(targetId)));
  const insert = new Map([...session.insert].filter(([, { channelId }]) => here(channelId)));
  return { ...session, channel, send, insert };
}

export function topologyOf(whole: Session): Topology {
  const session = awake(whole);
  const { rate } = settingsOf(session);
  const order = topological(session);
  const edges = planEdges(session);
  const levels = levelsOf(order, [...edges, ...keyEdges(session).filter(({ from }) => session.channel.has(from))]);
  const fade = fadeOf(session);
  const strips = order
    .map((id) => {
      const channel = session.channel.get(id)!;
      const inserts = insertsOf(session, id);
      return {
        channel,
        inserts,
        level: levels.get(id)!,
        crossed: crosses(session, channel, widthBehind(channel.width, inserts)),
        fades: fade !== null && channel.kind === 'mix'
      };
    })
    .sort((a, b) => a.level - b.level || a.channel.born - b.channel.born);
  const rooms = new Map(
    strips.flatMap((strip) => strip.inserts.flatMap((insert) => roomOf(session, insert) ?? [])).map(({ id, frames }) => [id, frames])
  );
  const signature = JSON.stringify([
    strips.map(({ channel, inserts: own, crossed }) => [
      channel.id,
      channel.width,
      crossed,
      own.map(({ id, keyId, keyTap, type, params }) => [id, keyId, keyTap, processors[type].latency(rate, params), rooms.get(id)])
    ]),
    edges.map((edge) => edge.key),
    fade && Object.values(fade)
  ]);
  return { strips, edges, rooms, signature };
}

/** Whether something of one side goes to the other, now or when a lane says so. */
export const crosses = (session: Session, channel: Channel, sides: 1 | 2): boolean =>
  isCrossed(channel, sides) || (sides === 2 && playingLane(session, { channelId: channel.id, of: 'spread' }) !== undefined);

/** Frames that an insert has to remember, or null where that is always the same. */
export function roomOf(session: Session, { id, channelId, type, params }: Insert): { readonly id: string; readonly frames: Frames } | null {
  const { room } = processors[type];
  if (!room) return null;
  const { rate, bpm } = settingsOf(session);
  const site = { rate, bpm };
  let frames = room(valuesOf(type, params), site);
  // Wherever a lane leads it has to be enough.
  for (const lane of session.lane.size > 0 ? lanesOf(session, channelId) : [])
    if (lane.insertId === id && lane.param !== null && plays(session, lane))
      for (const { value } of pointsOf(session, lane.id))
        frames = Math.max(frames, room(valuesOf(type, { ...params, [lane.param]: value }), site));
  return { id, frames };
}

function planEdges(session: Session): PlanEdge[] {
  const edges: PlanEdge[] = [];
  const plain = { send: false, source: 'post', fold: false, sided: false, faded: false, crossed: false } as const;
  for (const { id, outputId, outputPair } of session.channel.values())
    if (outputId !== null || outputPair !== null)
      edges.push({ ...plain, key: outputName(id, outputId, outputPair), from: id, to: outputId, pair: outputPair ?? 0 });
  for (const send of session.send.values()) edges.push(sendEdgeOf(session, send));
  return sortedEdges(edges, (id) => session.channel.get(id)?.born ?? 0);
}

export const outputName = (id: string, outputId: string | null, outputPair: number | null): string =>
  outputId !== null ? `o ${id} ${outputId}` : `o ${id} #${outputPair}`;

/**
 * How a send is taken. A `post` send that follows its channel is the channel's own signal; one with its own pan, and a
 * mono one of a mono channel, is taken before fader and pan and carries the fader in its gain. `sides` leave the channel's inserts.
 */
function sendEdge(session: Session, send: Send, source: Channel, sides: 1 | 2): PlanEdge {
  const { sourceId: from, targetId: to, tap, mono, pan } = send;
  const { width } = source;
  const own = pan !== null;
  const crossed = crosses(session, source, sides) && !own && !mono && tap !== 'post';
  const before = tap === 'post' && ((own && !(mono && width === 2)) || (mono && width === 1));
  return {
    key: `s ${tap}${mono ? ' mono' : ''}${own ? ' own' : ''}${crossed ? ' crossed' : ''} ${from} ${to}`,
    from,
    to,
    pair: 0,
    send: true,
    source: before ? 'pre' : tap,
    fold: mono && (tap === 'input' ? width : sides) === 2,
    sided: !crossed && (tap !== 'post' || own),
    faded: before,
    crossed
  };
}

export const sendEdgeOf = (session: Session, send: Send): PlanEdge => {
  const source = session.channel.get(send.sourceId)!;
  return sendEdge(session, send, source, widthOf(session, source));
};

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

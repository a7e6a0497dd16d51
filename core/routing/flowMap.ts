// The Map's layout: tiers as columns from left to right along main outputs, what feeds a bus beside it, returns and cues as basins
// beneath. Pure geometry in pixels; how loud a river is comes from what is known of the recordings.
import { rowsBy } from '../session/lookup.ts';
import { mixChain, branchOf } from './graph.ts';
import { keyEdges } from './graph.ts';
import { levelOf, mutedOf } from './level.ts';
import { MIX } from '../session/create.ts';
import { inOrder } from '../session/select.ts';
import { sounds } from '../session/vcas.ts';
import { settingsOf, type Channel, type Session, type Tap } from '../session/entities.ts';

export type MapNode = {
  readonly id: string;
  readonly kind: Channel['kind'] | 'output';
  readonly name: string;
  readonly colour: number;
  readonly x: number;
  readonly y: number;
  /** Width of the river that leaves it, pixels. */
  readonly width: number;
  /** Whether its branch is folded into it, and how many channels that hides. */
  readonly folded: number;
  readonly muted: boolean;
  readonly members: number;
};
export type MapEdge = {
  readonly key: string;
  readonly from: string;
  readonly to: string;
  readonly via: 'output' | 'send' | 'key';
  readonly tap: Tap;
  readonly on: boolean;
  readonly db: number;
  readonly colour: number;
  readonly width: number;
  /** An SVG path. */
  readonly d: string;
};
export type FlowMap = {
  readonly nodes: readonly MapNode[];
  readonly edges: readonly MapEdge[];
  readonly width: number;
  readonly height: number;
};

export type MapOptions = {
  /** Only these; null is everything. Hidden channels are left out in any case. */
  readonly only: ReadonlySet<string> | null;
  readonly folded: ReadonlySet<string>;
};

const TIER = 190;
const LEFT = 130;
const LINE = 24;
const TOP = 40;
/** Room of a basin, across and down. */
const BASIN = 132;
const GAP = 56;
/** Loudness taken for what was not measured, LUFS. */
const UNKNOWN = -30;

/** Power of each channel's output in dB: its recordings' loudness through trims, faders and sends, as far as gains say. */
export function estimatedLevels(session: Session, order: readonly string[]): Map<string, number> {
  const arriving = new Map<string, number>();
  const levels = new Map<string, number>();
  const add = (id: string, db: number) => arriving.set(id, (arriving.get(id) ?? 0) + 10 ** (db / 10));
  const measured = (mediaId: string) => session.media.get(mediaId)?.loudness?.find((value) => value !== null) ?? UNKNOWN;
  const loudnessOf = (id: string, otherwise: number) => {
    const clips = rowsBy(session, 'clip', 'channelId', id);
    return clips.length ? Math.max(...clips.map(({ mediaId }) => measured(mediaId))) : otherwise;
  };
  for (const id of order) {
    const channel = session.channel.get(id)!;
    const own =
      channel.kind === 'track' || channel.kind === 'key'
        ? loudnessOf(id, channel.pattern ? -30 : -Infinity)
        : 10 * Math.log10(arriving.get(id) ?? 0);
    const input = channel.resting ? -Infinity : own + channel.trimDb;
    const level = mutedOf(session, channel) ? -Infinity : input + levelOf(session, channel);
    levels.set(id, level);
    if (channel.outputId !== null) add(channel.outputId, level);
    for (const send of rowsBy(session, 'send', 'sourceId', id))
      if (send.on) add(send.targetId, (send.tap === 'post' ? level : input) + send.levelDb);
  }
  return levels;
}

/** −60 dB is a hair, 0 dB a broad river. */
export const riverWidth = (db: number): number => (db === -Infinity ? 0.8 : Math.max(1, Math.min(15, 1 + (db + 60) / 4.3)));

export function flowMap(session: Session, order: readonly string[], { only, folded }: MapOptions): FlowMap {
  const levels = estimatedLevels(session, order);
  const all = inOrder(session).filter(sounds);
  const hiddenIn = new Map<string, string>();
  for (const id of folded) for (const inside of branchOf(session, id).slice(1)) if (!hiddenIn.has(inside)) hiddenIn.set(inside, id);
  // A branch folded inside another folded one stands for nothing itself.
  const standIn = (id: string): string => (hiddenIn.has(id) ? standIn(hiddenIn.get(id)!) : id);
  const shown = all.filter(({ id, hidden }) => !hidden && !hiddenIn.has(id) && (only === null || only.has(id)));
  /** Where a channel's river is seen to end: what is hidden on the way is passed by. */
  const endOf = (channel: Channel): { readonly to: string | null; readonly pair: number | null } => {
    const next = channel.outputId === null ? undefined : session.channel.get(channel.outputId);
    return next?.hidden ? endOf(next) : { to: channel.outputId, pair: channel.outputPair };
  };
  const ids = new Set(shown.map(({ id }) => id));
  const members = new Map<string, Channel[]>();
  for (const channel of shown) {
    const { to } = endOf(channel);
    if (to !== null && ids.has(to) && !basin(channel)) members.set(to, [...(members.get(to) ?? []), channel]);
  }

  // Columns count back from the outputs, so that tiers line up where they end.
  const chain = mixChain(session).filter(({ id }) => ids.has(id));
  const last = chain.length ? chain.length - 1 : 0;
  const back = new Map<string, number>();
  chain.forEach(({ id }, i) => back.set(id, last - i));
  const depthOf = (channel: Channel): number => {
    const known = back.get(channel.id);
    if (known !== undefined) return known;
    const end = endOf(channel);
    const to = end.to !== null && ids.has(end.to) ? session.channel.get(end.to) : undefined;
    const depth = to && !basin(to) ? depthOf(to) + 1 : end.pair !== null ? 0 : last + 1;
    back.set(channel.id, depth);
    return depth;
  };
  const rivers = shown.filter((channel) => !basin(channel));
  const deepest = rivers.reduce((most, channel) => Math.max(most, depthOf(channel)), 0);
  const place = new Map<string, { x: number; y: number }>();
  const xOf = (channel: Channel) => LEFT + (deepest - depthOf(channel)) * TIER;
  let line = 0;
  const put = (channel: Channel): number => {
    const inside = members.get(channel.id) ?? [];
    const ys = inside.map(put);
    // A bus has its name above it, and needs room for that.
    if (!ys.length && channel.kind !== 'track' && channel.kind !== 'key') line += 1;
    const y = ys.length ? (Math.min(...ys) + Math.max(...ys)) / 2 : TOP + line++ * LINE;
    place.set(channel.id, { x: xOf(channel), y });
    return y;
  };
  const isRoot = (channel: Channel) => {
    const { to } = endOf(channel);
    return to === null || !ids.has(to) || basin(session.channel.get(to)!);
  };
  const roots = rivers.filter(isRoot);
  for (const root of [
    ...roots.filter(({ id }) => chain.some((stage) => stage.id === id)),
    ...roots.filter(({ id }) => !chain.some((stage) => stage.id === id))
  ]) {
    put(root);
    line += 0.6;
  }
  // Basins lie beneath, in as many rows as they need; each as far to the right as the returns that feed it demand.
  const basins = shown.filter(basin);
  const across = Math.max(2, Math.floor(((deepest + 1) * TIER + LEFT) / BASIN));
  const floor = TOP + line * LINE + GAP;
  basins.forEach((channel, i) => place.set(channel.id, { x: LEFT + 20 + (i % across) * BASIN, y: floor + Math.floor(i / across) * 74 }));
  const outputs = [...new Set(shown.flatMap((channel) => endOf(channel).pair ?? []))].sort((a, b) => a - b);
  const outX = LEFT + (deepest + 1) * TIER;
  const ends = outputs.map((pair) => {
    const ys = shown.filter((channel) => endOf(channel).pair === pair).map(({ id }) => place.get(id)!.y);
    return { id: `#${pair}`, pair, x: outX, y: ys.reduce((sum, y) => sum + y, 0) / ys.length };
  });
  ends.forEach((end, i) => i > 0 && end.y < ends[i - 1].y + 40 && (end.y = ends[i - 1].y + 40));

  const nodes: MapNode[] = [
    ...shown.map((channel): MapNode => {
      const { id, kind, name, colour } = channel;
      return {
        ...{ id, kind, name, colour },
        ...place.get(id)!,
        width: riverWidth(levels.get(id) ?? -Infinity),
        folded: folded.has(id) ? branchOf(session, id).length - 1 : 0,
        muted: mutedOf(session, channel),
        members: all.filter(({ outputId }) => outputId === id).length
      };
    }),
    ...ends.map(({ id, pair, x, y }): MapNode => ({
      ...{ id, kind: 'output' as const, name: `${settingsOf(session).interfaceName} ${pair * 2 + 1}–${pair * 2 + 2}`, colour: 0, x, y },
      ...{ width: 3, folded: 0, muted: false, members: 0 }
    }))
  ];
  const at = new Map(nodes.map((node) => [node.id, node]));
  const edges: MapEdge[] = [];
  const seen = new Set<string>();
  const edge = (via: MapEdge['via'], fromId: string, toId: string, tap: Tap, on: boolean, db: number) => {
    const [from, to] = [standIn(fromId), standIn(toId)];
    const [a, b] = [at.get(from), at.get(to)];
    const key = `${via} ${from} ${to}`;
    if (!a || !b || from === to || seen.has(key)) return;
    seen.add(key);
    const width =
      via === 'output'
        ? riverWidth(levels.get(from) ?? -Infinity)
        : via === 'send'
          ? Math.max(1, riverWidth((levels.get(from) ?? -60) + db) / 2.5)
          : 1.4;
    edges.push({ key, from, to, via, tap, on, db, colour: via === 'send' ? b.colour : a.colour, width, d: curve(a, b, via) });
  };
  for (const channel of all) {
    const { to, pair } = endOf(channel);
    const end = to ?? (pair === null ? null : `#${pair}`);
    if (end !== null) edge('output', channel.id, end, 'post', !mutedOf(session, channel), levelOf(session, channel));
  }
  for (const { sourceId, targetId, levelDb, tap, on } of session.send.values()) edge('send', sourceId, targetId, tap, on, levelDb);
  for (const { from, to } of keyEdges(session)) if (from !== to) edge('key', from, to, 'post', true, 0);
  const width = outX + 150;
  const height = Math.max(floor, ...nodes.map(({ y }) => y)) + 60;
  return { nodes, edges, width, height };
}

/** A return or a cue: it lies beneath, and sends fall into it. */
const basin = ({ kind, id }: Channel) => (kind === 'return' || kind === 'cue') && id !== MIX;

/** Where names end, so that rivers begin behind them. */
const START = 8;

function curve(a: MapNode, b: MapNode, via: MapEdge['via']): string {
  const n = (value: number) => Math.round(value * 10) / 10;
  if (via === 'output' && a.kind !== 'return' && a.kind !== 'cue') {
    const [x1, x2] = [a.x + START, b.x - 6];
    const bend = Math.max(30, (x2 - x1) * 0.5);
    return `M${n(x1)} ${n(a.y)}C${n(x1 + bend)} ${n(a.y)} ${n(x2 - bend)} ${n(b.y)} ${n(x2)} ${n(b.y)}`;
  }
  if (via === 'output') {
    // Out of a basin: up and along into its bus.
    const x1 = a.x + 46;
    return `M${n(x1)} ${n(a.y)}C${n(x1 + 50)} ${n(a.y)} ${n(b.x - 60)} ${n(b.y + 30)} ${n(b.x - 4)} ${n(b.y + 2)}`;
  }
  if (via === 'key') return `M${n(a.x + START)} ${n(a.y + 4)}Q${n((a.x + b.x) / 2)} ${n(Math.min(a.y, b.y) - 40)} ${n(b.x)} ${n(b.y - 8)}`;
  // Sends fall into the basin from above.
  const x1 = a.x + (a.kind === 'return' ? 40 : START);
  return `M${n(x1)} ${n(a.y + 3)}C${n(x1 + 24)} ${n(a.y + 60)} ${n(b.x)} ${n(b.y - 80)} ${n(b.x)} ${n(b.y - 14)}`;
}

/** A selection with all that it touches: everything before and after it along outputs, sends and keys. */
export function touchedBy(session: Session, selected: ReadonlySet<string>): Set<string> {
  const next = new Map<string, Set<string>>();
  const before = new Map<string, Set<string>>();
  const link = (from: string, to: string) => {
    (next.get(from) ?? next.set(from, new Set()).get(from)!).add(to);
    (before.get(to) ?? before.set(to, new Set()).get(to)!).add(from);
  };
  for (const { id, outputId } of session.channel.values()) if (outputId !== null) link(id, outputId);
  for (const { sourceId, targetId } of session.send.values()) link(sourceId, targetId);
  for (const { from, to } of keyEdges(session)) link(from, to);
  const found = new Set(selected);
  for (const along of [next, before]) {
    const queue = [...selected];
    const seen = new Set(queue);
    for (let head = 0; head < queue.length; head++)
      for (const there of along.get(queue[head]) ?? [])
        if (!seen.has(there)) {
          seen.add(there);
          found.add(there);
          queue.push(there);
        }
  }
  return found;
}

// Whether the stems are sound: whether what they print adds up to what comes into the mix bus, and whether each is all of its tracks.
import { chainOf } from '../routing/chain.ts';
import { pathAlong, type Edge } from '../routing/graph.ts';
import { MIX } from '../session/create.ts';
import type { Channel, Session } from '../session/entities.ts';
import { fact } from '../session/facts.ts';
import { rowsBy } from '../session/lookup.ts';
import { flowOf, type Flow } from './flow.ts';

/**
 * `stray`: comes into the mix bus past the stems. `escape`: a stem that does not go into the mix bus. `side-entry`: comes into the chain
 * behind the mix bus. `double`: a way that crosses two stems. `split`: tracks that are in two stems.
 */
export type FlawCode = 'stray' | 'escape' | 'side-entry' | 'double' | 'split';
export type Flaw = {
  readonly code: FlawCode;
  /** The way at fault, ids from a source to where it goes wrong. */
  readonly path: readonly string[];
  /** The edge by which it goes wrong. */
  readonly edge: Edge;
  /** Tracks that it concerns; of `split` all that are split alike. */
  readonly tracks: readonly string[];
  /** Of `double` the stems crossed, the first first; of `split` the own stem and the other. */
  readonly stems: readonly string[];
  /** In one sentence, and the path by names. */
  readonly text: string;
  readonly way: string;
};

export type Soundness = {
  /** By birth, which is the order in which they are summed. */
  readonly stems: readonly Channel[];
  /** Whether the stems add up to the mix-bus input. */
  readonly sound: boolean;
  /** Whether besides each track is in one stem only, but for common ones. */
  readonly whole: boolean;
  readonly flaws: readonly Flaw[];
};

/** Channels flagged as stems that are not resting, by birth. */
export const stemsOf = (session: Session): Channel[] =>
  rowsBy(session, 'channel', 'stem', true)
    .filter(({ resting }) => !resting)
    .sort((a, b) => a.born - b.born);

/** Judges the stems of a session after its audible edges; without any stem there is nothing to judge. */
export function judgeStems(session: Session): Soundness {
  const stems = stemsOf(session);
  if (stems.length === 0) return { stems, sound: false, whole: false, flaws: [] };
  const flow = flowOf(session);
  const chain = chainOf(session);
  const flaws = [
    ...entries(session, flow, chain),
    ...escapes(session, stems),
    ...doubles(session, flow, chain, stems),
    ...splits(session, flow, stems)
  ];
  return { stems, sound: flaws.every(({ code }) => code === 'split'), whole: flaws.length === 0, flaws };
}

/** The same, worked out once a revision. */
export const soundness = fact(['routing', 'clips'], judgeStems);

const nameOf = (session: Session, id: string) => session.channel.get(id)?.name ?? 'a channel';
const wayOf = (session: Session, path: readonly string[]) => path.map((id) => nameOf(session, id)).join(' → ');

/** Back along what is heard to where sound begins: ids from the source on. */
function fromSource(flow: Flow, id: string): string[] {
  const path = [id];
  while (!flow.sources.has(path[0])) {
    const before = flow.to.get(path[0])?.[0];
    if (!before) break;
    path.unshift(before.from);
  }
  return path;
}

/** Rules 1 and 2: what comes into the mix bus, or into the chain behind it, otherwise than as a stem's main output. */
function entries(session: Session, flow: Flow, chain: ReadonlySet<string>): Flaw[] {
  return [...chain].flatMap((stage) =>
    (flow.to.get(stage) ?? []).flatMap((edge): Flaw[] => {
      const channel = session.channel.get(edge.from)!;
      if (chain.has(edge.from) || (stage === MIX && channel.stem && edge.via === 'output')) return [];
      const path = [...fromSource(flow, edge.from), stage];
      const how = edge.via === 'send' ? 'is sent' : 'goes';
      const text =
        stage === MIX
          ? `${channel.name} ${how} into ${nameOf(session, MIX)} ${channel.stem ? 'a second time, besides its stem' : 'past the stems'}: no stem holds it.`
          : `${channel.name} ${how} into ${nameOf(session, stage)}, behind the mix bus: neither the stems nor the mix-bus input hold it.`;
      return [{ code: stage === MIX ? 'stray' : 'side-entry', path, edge, tracks: [path[0]], stems: [], text, way: wayOf(session, path) }];
    })
  );
}

/** Rule 0: a stem whose main output goes elsewhere. */
function escapes(session: Session, stems: readonly Channel[]): Flaw[] {
  return stems.flatMap(({ id, name, outputId, outputPair }): Flaw[] => {
    if (outputId === MIX) return [];
    const elsewhere =
      outputId !== null
        ? nameOf(session, outputId)
        : outputPair !== null
          ? `outputs ${outputPair * 2 + 1}–${outputPair * 2 + 2}`
          : 'nowhere';
    const path = outputId === null ? [id] : [id, outputId];
    const edge: Edge = { from: id, to: outputId ?? '', via: 'output' };
    const text = `${name} is a stem and goes ${outputId === null && outputPair === null ? '' : 'to '}${elsewhere}, not into ${nameOf(session, MIX)}.`;
    return [{ code: 'escape', path, edge, tracks: [], stems: [id], text, way: [name, elsewhere].join(' → ') }];
  });
}

/** Rule 3: from one stem on into another. Each pair once, by its shortest way. */
function doubles(session: Session, flow: Flow, chain: ReadonlySet<string>, stems: readonly Channel[]): Flaw[] {
  const next = (id: string) => (chain.has(id) ? [] : (flow.from.get(id) ?? []).map(({ to }) => to));
  const isStem = new Set(stems.map(({ id }) => id));
  return stems.flatMap(({ id, name }) => {
    const found: Flaw[] = [];
    // Beyond the next stem is that one's own affair.
    const before = (from: string) => (from !== id && isStem.has(from) ? [] : next(from));
    const reached = new Set<string>();
    for (const queue = [id]; queue.length;)
      for (const to of before(queue.shift()!))
        if (!reached.has(to)) {
          reached.add(to);
          queue.push(to);
        }
    for (const other of stems) {
      if (other.id === id || !reached.has(other.id)) continue;
      const path = pathAlong(before, id, other.id)!;
      const edge = (flow.from.get(path.at(-2)!) ?? []).find(({ to }) => to === other.id)!;
      const text = `${name} is a stem and flows on into ${other.name}, another: it is in both.`;
      found.push({ code: 'double', path, edge, tracks: [], stems: [id, other.id], text, way: wayOf(session, path) });
    }
    return found;
  });
}

/** Rule 4: tracks of which parts end in different stems; alike ones together. Common stems do not count. */
function splits(session: Session, flow: Flow, stems: readonly Channel[]): Flaw[] {
  const counted = stems.filter(({ common }) => !common);
  const bit = new Map(counted.map(({ id }, i) => [id, 1n << BigInt(i)]));
  const isStem = new Set(stems.map(({ id }) => id));
  const homes = new Map<string, string | null>();
  const homeAt = (id: string) => {
    if (!homes.has(id)) homes.set(id, homeOf(session, id, isStem));
    return homes.get(id)!;
  };
  /** The stems that sound from here crosses first. */
  const crossed = new Map<string, bigint>();
  const maskOf = (id: string) => (isStem.has(id) ? (bit.get(id) ?? 0n) : (crossed.get(id) ?? 0n));
  for (let i = flow.order.length - 1; i >= 0; i--) {
    let mask = 0n;
    for (const { to } of flow.from.get(flow.order[i]) ?? []) mask |= maskOf(to);
    crossed.set(flow.order[i], mask);
  }
  /** Edges by which sound leaves its home for other stems, from a station on: its own, or those of what it goes through at home. */
  const leaving = new Map<string, readonly Edge[]>();
  const leavesBy = (id: string, home: string): readonly Edge[] => {
    const known = leaving.get(id);
    if (known) return known;
    const found = (flow.from.get(id) ?? []).flatMap((edge) => {
      if ((maskOf(edge.to) & ~bit.get(home)!) === 0n) return [];
      return homeAt(edge.to) === home && !isStem.has(edge.to) ? leavesBy(edge.to, home) : [edge];
    });
    leaving.set(id, found);
    return found;
  };
  const groups = new Map<string, { readonly home: string; readonly other: string; readonly edge: Edge; readonly tracks: string[] }>();
  for (const id of flow.order) {
    const mask = crossed.get(id)!;
    if (!flow.sources.has(id) || isStem.has(id) || (mask & (mask - 1n)) === 0n) continue;
    const own = homeAt(id);
    const home = own !== null && ((bit.get(own) ?? 0n) & mask) !== 0n ? own : counted.find((stem) => (bit.get(stem.id)! & mask) !== 0n)!.id;
    const seen = new Set<string>();
    for (const edge of leavesBy(id, home)) {
      const away = maskOf(edge.to) & ~bit.get(home)!;
      for (const { id: other } of counted) {
        if ((bit.get(other)! & away) === 0n) continue;
        const key = [home, other, edge.to].join('\n');
        if (seen.has(key)) continue;
        seen.add(key);
        const group = groups.get(key);
        if (group) group.tracks.push(id);
        else groups.set(key, { home, other, edge, tracks: [id] });
      }
    }
  }
  return [...groups.values()].map(({ home, other, edge, tracks }): Flaw => {
    const next = (from: string) => (from !== tracks[0] && isStem.has(from) ? [] : (flow.from.get(from) ?? []).map(({ to }) => to));
    const path = [...pathAlong(next, tracks[0], edge.from)!, ...pathAlong(next, edge.to, other)!];
    const one = tracks.length === 1;
    const who = one ? nameOf(session, tracks[0]) : `${tracks.length} tracks`;
    const by = edge.to === other ? '' : `, by way of ${nameOf(session, edge.to)}`;
    const text = `${who} of ${nameOf(session, home)} ${one ? 'is' : 'are'} in ${nameOf(session, other)} as well${by}: neither stem is all of it.`;
    return { code: 'split', path, edge, tracks, stems: [home, other], text, way: wayOf(session, path) };
  });
}

/** The stem in whose branch something stands by main outputs, itself included, or null. */
export function homeOf(session: Session, from: string, isStem: ReadonlySet<string>): string | null {
  const seen = new Set<string>();
  for (let id: string | null = from; id !== null && !seen.has(id); id = session.channel.get(id)?.outputId ?? null) {
    if (isStem.has(id)) return id;
    seen.add(id);
  }
  return null;
}

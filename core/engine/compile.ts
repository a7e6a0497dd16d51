// compile: from a topology to a render plan in kernel memory: buffers, ops in order, gains, processors, meters.
import type { Insert } from '../session/entities.ts';
import { createEqControl, clearInstance, type EqControl } from './eqControl.ts';
import { startKernel, type Kernel, type KernelModule } from './kernel.ts';
import { CHUNK, EQ, METER_FLOATS, OP, OP_WORDS, PERIOD } from './layout.ts';
import { createRamps, type Ramps } from './ramps.ts';
import { createReverbControl, placeReverb, reverbBytes, type ReverbControl } from './reverbControl.ts';
import type { PlanEdge, Strip, Topology } from './topology.ts';

/** Addresses of a channel's buffers, left and right; a mono signal has equal addresses before the pan. */
type Pair = readonly [number, number];

export type PlannedStrip = {
  readonly strip: Strip;
  readonly pre: Pair;
  readonly post: Pair;
  /** Source chunks of a track, one per audio channel. */
  readonly chunks: readonly number[];
};

export type EqInstance = { readonly at: number; readonly controls: EqControl[] };

export type Plan = {
  readonly topology: Topology;
  readonly kernel: Kernel;
  readonly i32: Int32Array;
  readonly f32: Float32Array;
  readonly ops: number;
  readonly opCount: number;
  readonly strips: ReadonlyMap<string, PlannedStrip>;
  readonly order: readonly string[];
  readonly ramps: Ramps;
  readonly eqs: ReadonlyMap<string, EqControl>;
  readonly eqInstances: readonly EqInstance[];
  readonly reverbs: ReadonlyMap<string, ReverbControl>;
  readonly meters: number;
  readonly out: Pair;
};

const BUFFER = PERIOD * 4;

export function compile(module: KernelModule, topology: Topology, rate: number): Plan {
  const kernel = startKernel(module);
  const ramps = createRamps();
  const buffer = () => kernel.reserve(BUFFER);
  const silence = buffer();
  const trash = buffer();
  const out: Pair = [buffer(), buffer()];
  const meters = kernel.reserve(topology.strips.length * METER_FLOATS * 4);
  const ops: number[][] = [];
  const ramp = (key: string) => ramps.get(key)?.at ?? ramps.add(key, kernel.reserve(8)).at;
  const eqs = new Map<string, EqControl>();
  const eqInstances: EqInstance[] = [];
  const reverbs = new Map<string, ReverbControl>();
  const strips = new Map<string, PlannedStrip>();
  const incoming = new Map<string | null, PlanEdge[]>();
  for (const edge of topology.edges) incoming.set(edge.to, [...(incoming.get(edge.to) ?? []), edge]);

  /** Sums edges, in their order, into a pair. */
  const sum = (edges: readonly PlanEdge[], [left, right]: Pair) => {
    ops.push([OP.zero, left], [OP.zero, right]);
    for (const edge of edges) {
      const { pre, post } = strips.get(edge.from)!;
      if (edge.tap === 'post') {
        ops.push([OP.mix, left, post[0], ramp(edge.key)], [OP.mix, right, post[1], ramp(edge.key)]);
      } else ops.push([OP.mix, left, pre[0], ramp(`${edge.key} L`)], [OP.mix, right, pre[1], ramp(`${edge.key} R`)]);
    }
  };

  /** One round of inserts of a level: equalisers side by side, four channels an instance; reverbs each alone. */
  const insertRound = (round: readonly { insert: Insert; pair: Pair }[]): Pair[] => {
    const lanes = round.flatMap(({ insert, pair }) => {
      if (insert.type !== 'eq') return [];
      const sides = pair[0] === pair[1] ? [pair[0]] : [...pair];
      return [{ insert, sides, results: sides.map(buffer) }];
    });
    for (const group of packed(lanes)) {
      const at = kernel.reserve(EQ.bytes);
      const flat = group.flatMap(({ insert, sides, results }) => sides.map((from, i) => ({ insert, from, to: results[i] })));
      const controls = group.map(({ insert }) => {
        const own = flat.flatMap((lane, i) => (lane.insert === insert ? [i] : []));
        const control = createEqControl({ at, lanes: own });
        eqs.set(insert.id, control);
        return control;
      });
      eqInstances.push({ at, controls });
      const four = [0, 1, 2, 3];
      ops.push([OP.eq, ...four.map((i) => flat[i]?.from ?? silence), ...four.map((i) => flat[i]?.to ?? trash), at]);
    }
    return round.map(({ insert, pair }): Pair => {
      const lane = lanes.find((entry) => entry.insert === insert);
      if (lane) return [lane.results[0], lane.results.at(-1)!];
      const control = createReverbControl(kernel.reserve(reverbBytes(rate)), rate);
      reverbs.set(insert.id, control);
      const result: Pair = [buffer(), buffer()];
      ops.push([OP.reverb, ...pair, ...result, control.at]);
      return result;
    });
  };

  for (const level of levelsOf(topology.strips)) {
    const pairs = new Map<Strip, Pair>();
    const chunks = new Map<Strip, number[]>();
    for (const strip of level) {
      const { channel } = strip;
      if (channel.kind === 'track') {
        const own = Array.from({ length: channel.width }, () => ({ chunk: kernel.reserve(CHUNK * 4), at: buffer() }));
        for (const { chunk, at } of own) ops.push([OP.source, at, chunk]);
        chunks.set(
          strip,
          own.map(({ chunk }) => chunk)
        );
        pairs.set(strip, [own[0].at, own.at(-1)!.at]);
      } else {
        const pair: Pair = [buffer(), buffer()];
        sum(incoming.get(channel.id) ?? [], pair);
        pairs.set(strip, pair);
      }
    }
    const rounds = Math.max(...level.map((strip) => strip.inserts.length));
    for (let i = 0; i < rounds; i++) {
      const having = level.filter((strip) => strip.inserts.length > i);
      const results = insertRound(having.map((strip) => ({ insert: strip.inserts[i], pair: pairs.get(strip)! })));
      having.forEach((strip, n) => pairs.set(strip, results[n]));
    }
    for (const strip of level) {
      const { id } = strip.channel;
      const pre = pairs.get(strip)!;
      const post: Pair = [buffer(), buffer()];
      ops.push([OP.set, post[0], pre[0], ramp(`g ${id} L`)], [OP.set, post[1], pre[1], ramp(`g ${id} R`)]);
      ops.push([OP.meter, ...post, meters + strips.size * METER_FLOATS * 4]);
      strips.set(id, { strip, pre, post, chunks: chunks.get(strip) ?? [] });
    }
  }
  sum(
    (incoming.get(null) ?? []).filter((edge) => edge.pair === 0),
    out
  );

  const opsAt = kernel.reserve(ops.length * OP_WORDS * 4);
  const { i32, f32 } = kernel.seal();
  ops.forEach((op, i) => i32.set(op, (opsAt >> 2) + i * OP_WORDS));
  for (const { at } of eqInstances) clearInstance(at, f32);
  for (const control of reverbs.values()) placeReverb(control, i32, rate);
  return {
    topology,
    kernel,
    i32,
    f32,
    ops: opsAt,
    opCount: ops.length,
    strips,
    order: [...strips.keys()],
    ramps,
    eqs,
    eqInstances,
    reverbs,
    meters,
    out
  };
}

/** Strips by level, lowest first; they come sorted. */
function levelsOf(strips: readonly Strip[]): Strip[][] {
  const levels: Strip[][] = [];
  for (const strip of strips) (levels[strip.level] ??= []).push(strip);
  return levels.filter(Boolean);
}

/** Gathers entries into groups of at most four lanes, first fit in order. */
function packed<T extends { readonly sides: readonly unknown[] }>(entries: readonly T[]): T[][] {
  const groups: { size: number; members: T[] }[] = [];
  for (const entry of entries) {
    const fits = groups.find((group) => group.size + entry.sides.length <= 4);
    if (fits) {
      fits.members.push(entry);
      fits.size += entry.sides.length;
    } else groups.push({ size: entry.sides.length, members: [entry] });
  }
  return groups.map((group) => group.members);
}

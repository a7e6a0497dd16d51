// compile: from a topology to a render plan in kernel memory: buffers, ops in order, gains, processors, meters.
// What comes early waits for what comes late, at every sum and before every keyed insert, so that paths stay aligned.
import type { Insert, InsertType, Tap } from '../session/entities.ts';
import type { Frames } from '../units.ts';
import { startKernel, type Kernel, type KernelModule } from './kernel.ts';
import { CHUNK, METER_FLOATS, OP, OP_WORDS, PERIOD, powerOfTwo, slackAt } from './layout.ts';
import { processorOf } from './processors/index.ts';
import { resultFor, type Builder, type Control, type Entry, type Instance, type Memory, type Pair } from './processors/processor.ts';
import { createRamps, type Ramps } from './ramps.ts';
import type { PlanEdge, Strip, Topology } from './topology.ts';

/** A signal with the frames by which it is late. */
type Signal = { readonly pair: Pair; readonly late: Frames };

export type PlannedStrip = {
  readonly strip: Strip;
  readonly taps: Readonly<Record<Tap, Signal>>;
  /** Source chunks of a track, one per audio channel. */
  readonly chunks: readonly Float32Array[];
};

/** A ring in which a signal waits. */
export type Hold = { readonly ring: number; readonly frames: number; readonly wait: Frames; readonly cell: number };

export type Plan = Memory & {
  readonly topology: Topology;
  readonly ops: number;
  readonly opCount: number;
  readonly strips: ReadonlyMap<string, PlannedStrip>;
  readonly order: readonly string[];
  readonly ramps: Ramps;
  readonly controls: ReadonlyMap<string, Control>;
  /** Inserts whose control tells a gain reduction. */
  readonly reducers: readonly string[];
  /** The instance that an insert is part of. */
  readonly instanceOf: ReadonlyMap<string, Instance>;
  readonly holds: ReadonlyMap<string, Hold>;
  /** Of inserts with a memory: what goes in, and where what went in to the plan before is put while one follows the other. */
  readonly ghosts: ReadonlyMap<string, { readonly into: Pair; readonly ghost: Pair }>;
  readonly meters: number;
  /** By interface output pair. */
  readonly outs: ReadonlyMap<number, Pair>;
  readonly silence: number;
};

/** What remembers: an edge at its input would come out again, long after the change that made it. */
const REMEMBERS: ReadonlySet<InsertType> = new Set(['delay', 'reverb', 'outside', 'trim']);
/** The ramp by which such an insert goes over from what went in before to what goes in now. */
export const ghostRamp = (insertId: string): string => `n ${insertId}`;

const BUFFER = PERIOD * 4;
/** Cells of a channel's matrix, in the kernel's order. */
export const CELLS = ['LL', 'RL', 'LR', 'RR'] as const;
/** Signals before the fader that get a meter. */
const MOST_EARLY = 256;

export function compile(module: KernelModule, topology: Topology, rate: number): Plan {
  const kernel: Kernel = startKernel(module);
  const ramps = createRamps();
  const buffer = () => kernel.reserve(BUFFER, true);
  const pairOf = (): Pair => [buffer(), buffer()];
  const ops: number[][] = [];
  const op = (...words: number[]) => void ops.push(words);
  const builder: Builder = { kernel, rate, buffer, op, silence: buffer(), trash: buffer() };
  const pairs = [...new Set(topology.edges.flatMap(({ to, pair }) => (to === null ? [pair] : [])))].sort((a, b) => a - b);
  const outs = new Map<number, Pair>();
  /** Signals taken before the fader by some send: they are metered there. */
  const early = [...new Map(topology.edges.filter(({ source }) => source !== 'post').map((edge) => [`${edge.from}<${edge.source}`, edge]))]
    .slice(0, MOST_EARLY)
    .map(([key, { from, source }]) => ({ key, from, source }));
  const metered = topology.strips.length + pairs.length + early.length;
  const meters = kernel.reserve(metered * METER_FLOATS * 4);
  const cellAt = (index: number) => meters + index * METER_FLOATS * 4;
  const unity = kernel.reserve(8);
  const ramp = (key: string) => ramps.get(key)?.at ?? ramps.add(key, kernel.reserve(8)).at;
  const instances: Instance[] = [];
  const strips = new Map<string, PlannedStrip>();
  const addresses = new Map<string, number[]>();
  const holds = new Map<string, Hold>();
  const ghosts = new Map<string, { into: Pair; ghost: Pair }>();
  const waiting = new Map<string, Pair>();
  const folded = new Map<string, Pair>();
  const crossed = new Map<string, Pair>();
  const matrices = new Map<string, number>();
  const incoming = new Map<string | null, PlanEdge[]>();
  for (const edge of topology.edges) {
    const list = incoming.get(edge.to);
    if (list) list.push(edge);
    else incoming.set(edge.to, [edge]);
  }

  /** A signal brought to be `late` frames late. */
  const held = (name: string, signal: Signal, late: Frames): Pair => {
    const wait = late - signal.late;
    if (wait === 0) return signal.pair;
    const key = `${name} ${wait}`;
    const known = waiting.get(key);
    if (known) return known;
    const sides = [...new Set(signal.pair)].map((from, side) => {
      const frames = powerOfTwo(wait + PERIOD + slackAt(rate));
      const hold = { ring: kernel.reserve(frames * 4, true), frames, wait, cell: kernel.reserve(4) };
      holds.set(`${key} ${side}`, hold);
      const to = buffer();
      op(OP.hold, from, to, hold.ring, frames - 1, hold.cell);
      return to;
    });
    const pair: Pair = [sides[0], sides.at(-1)!];
    waiting.set(key, pair);
    return pair;
  };

  /** A channel's signal through its matrix of pins and width, at a tap. */
  const placed = (id: string, tap: Tap, { pair: [left, right] }: Signal): Pair => {
    const key = `${id} ${tap}`;
    const known = crossed.get(key);
    if (known) return known;
    let at = matrices.get(id);
    if (at === undefined) {
      matrices.set(id, (at = kernel.reserve(32)));
      for (const [i, cell] of CELLS.entries()) ramps.add(`m ${id} ${cell}`, at + i * 8);
    }
    const pair = pairOf();
    op(OP.matrix, left, right, ...pair, at);
    crossed.set(key, pair);
    return pair;
  };

  /** A signal on its way into an insert that remembers. */
  const ghosted = ({ id, type }: Insert, pair: Pair): Pair => {
    if (!REMEMBERS.has(type)) return pair;
    const into = resultFor(builder, pair);
    const ghost = resultFor(builder, pair);
    op(OP.blend, ...into, ...pair, ...ghost, ramp(ghostRamp(id)));
    ghosts.set(id, { into, ghost });
    return into;
  };

  const sourceOf = ({ from, source, fold, crossed: through }: PlanEdge): Signal => {
    const signal = strips.get(from)!.taps[source];
    if (through) return { pair: placed(from, source, signal), late: signal.late };
    if (!fold) return signal;
    const key = `${from} ${source}`;
    let pair = folded.get(key);
    if (!pair) {
      const mono = buffer();
      op(OP.mono, mono, ...signal.pair);
      pair = [mono, mono];
      folded.set(key, pair);
    }
    return { pair, late: signal.late };
  };

  /** Sums edges, in their order, into a pair; says how late the sum is. */
  const lateOf = (edges: readonly PlanEdge[]) => Math.max(0, ...edges.map((edge) => strips.get(edge.from)!.taps[edge.source].late));
  const sum = (edges: readonly PlanEdge[], [left, right]: Pair, late = lateOf(edges)): Frames => {
    op(OP.zero, left, right);
    for (const edge of edges) {
      const pair = held(`${edge.from} ${edge.source} ${edge.fold} ${edge.crossed}`, sourceOf(edge), late);
      const [l, r] = edge.sided ? [`${edge.key} L`, `${edge.key} R`] : [edge.key, edge.key];
      op(OP.mix, left, right, ...pair, ramp(l), ramp(r));
    }
    return late;
  };

  const begin = (strip: Strip): { signal: Signal; chunks: number[] } => {
    const { channel } = strip;
    const level = ramp(`i ${channel.id}`);
    if (channel.kind === 'track' || channel.kind === 'key') {
      const chunks = Array.from({ length: channel.width }, () => kernel.reserve(CHUNK * 4, true));
      const sides = chunks.map((chunk) => {
        const to = buffer();
        op(OP.source, to, chunk, level);
        return to;
      });
      return { signal: { pair: [sides[0], sides.at(-1)!], late: 0 }, chunks };
    }
    const pair = pairOf();
    const late = sum(incoming.get(channel.id) ?? [], pair);
    if (channel.width === 1) {
      op(OP.mono, pair[0], ...pair);
      op(OP.set, pair[0], pair[0], level);
      return { signal: { pair: [pair[0], pair[0]], late }, chunks: [] };
    }
    for (const side of pair) op(OP.set, side, side, level);
    return { signal: { pair, late }, chunks: [] };
  };

  /** One insert of each strip of a level that has so many: like processors are placed together. */
  const round = (level: readonly Strip[], index: number, signals: Map<Strip, Signal>, inputs: ReadonlyMap<Strip, Signal>) => {
    const having = level.filter((strip) => strip.inserts.length > index);
    const entries = having.map((strip): Entry & { strip: Strip; late: Frames } => {
      const insert = strip.inserts[index];
      const signal = signals.get(strip)!;
      const own = insert.keyId === strip.channel.id;
      const still: Signal = { pair: [builder.silence, builder.silence], late: 0 };
      // What listens to a channel that rests hears nothing, rather than itself.
      const key = insert.keyId === null ? null : own ? inputs.get(strip)! : (strips.get(insert.keyId)?.taps[insert.keyTap] ?? still);
      if (!key) return { strip, insert, pair: ghosted(insert, signal.pair), key: null, late: signal.late };
      const late = Math.max(signal.late, key.late);
      return {
        strip,
        insert,
        pair: held(`${strip.channel.id} ${insert.id}`, signal, late),
        key: held(`${insert.keyId} ${insert.keyTap} key ${insert.id}`, key, late),
        late
      };
    });
    for (const type of new Set(entries.map(({ insert }) => insert.type))) {
      const processor = processorOf[type];
      const mine = entries.filter(({ insert }) => insert.type === type);
      const built = processor.build(builder, mine);
      instances.push(...built.instances);
      mine.forEach(({ strip, insert, late }, i) =>
        signals.set(strip, { pair: built.results[i], late: late + processor.latency(rate, insert) })
      );
    }
  };

  for (const level of levelsOf(topology.strips)) {
    const begun = new Map(level.map((strip) => [strip, begin(strip)]));
    const inputs = new Map(level.map((strip) => [strip, begun.get(strip)!.signal]));
    const signals = new Map(inputs);
    const rounds = Math.max(...level.map((strip) => strip.inserts.length));
    for (let i = 0; i < rounds; i++) round(level, i, signals, inputs);
    for (const strip of level) {
      const { id } = strip.channel;
      const pre = signals.get(strip)!;
      const post = pairOf();
      const pair = strip.crossed ? placed(id, 'pre', pre) : pre.pair;
      op(OP.fader, ...pair, ...post, ramp(`g ${id} L`), ramp(`g ${id} R`), cellAt(strips.size));
      const taps = { input: inputs.get(strip)!, pre, post: { pair: post, late: pre.late } };
      addresses.set(id, begun.get(strip)!.chunks);
      strips.set(id, { strip, taps, chunks: [] });
    }
  }
  // All interface outputs come equally late.
  const leaving = incoming.get(null) ?? [];
  const last = lateOf(leaving);
  pairs.forEach((number, i) => {
    const summed = pairOf();
    const out = pairOf();
    sum(
      leaving.filter(({ pair }) => pair === number),
      summed,
      last
    );
    op(OP.fader, ...summed, ...out, unity, unity, cellAt(topology.strips.length + i));
    outs.set(number, out);
  });

  early.forEach(({ from, source }, i) => {
    const at = cellAt(topology.strips.length + pairs.length + i);
    op(OP.fader, ...strips.get(from)!.taps[source].pair, builder.trash, builder.trash, unity, unity, at);
  });

  const opsAt = kernel.reserve(ops.length * OP_WORDS * 4);
  const { i32, f32 } = kernel.seal();
  ops.forEach((words, i) => i32.set(words, (opsAt >> 2) + i * OP_WORDS));
  f32[unity >> 2] = 1;
  const memory: Memory = { kernel, i32, f32 };
  for (const [id, strip] of strips)
    strips.set(id, { ...strip, chunks: addresses.get(id)!.map((at) => f32.subarray(at >> 2, (at >> 2) + CHUNK)) });
  for (const { cell, wait } of holds.values()) i32[cell >> 2] = wait;
  for (const instance of instances) instance.place(memory);
  return {
    ...memory,
    topology,
    ops: opsAt,
    opCount: ops.length,
    strips,
    order: [...strips.keys(), ...pairs.map((pair) => `#${pair}`), ...early.map(({ key }) => key)],
    ramps,
    controls: new Map(instances.flatMap((instance) => [...instance.controls])),
    reducers: instances.flatMap(({ controls }) => [...controls].flatMap(([id, control]) => (control.reduction ? [id] : []))),
    instanceOf: new Map(instances.flatMap((instance) => [...instance.controls.keys()].map((id) => [id, instance]))),
    holds,
    ghosts,
    meters,
    outs,
    silence: builder.silence
  };
}

/** Strips by level, lowest first; they come sorted. */
function levelsOf(strips: readonly Strip[]): Strip[][] {
  const levels: Strip[][] = [];
  for (const strip of strips) (levels[strip.level] ??= []).push(strip);
  return levels.filter(Boolean);
}

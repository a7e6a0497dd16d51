// compile: from a topology to a render plan in kernel memory. What is emitted, level by level, some strips at a time: what comes in, its
// inserts, its fader; then the interface outputs. What comes early waits for what comes late, so that paths stay aligned.
import { constantsOf, type KernelModule } from '../kernel/kernel.ts';
import { CHUNK, METER_FLOATS, PERIOD } from '../kernel/period.ts';
import type { Pair } from '../processors/processor.ts';
import type { Tap } from '../session/entities.ts';
import { listed } from '../routing/graph.ts';
import { batchesOf } from './plan/batches.ts';
import { createCompensations } from './plan/compensation.ts';
import { beginEmission } from './plan/emission.ts';
import { createInserts } from './plan/inserts.ts';
import { createPlacing } from './plan/placing.ts';
import type { Plan, PlannedStrip, Signal } from './plan/plan.ts';
import { createSums } from './plan/sums.ts';
import type { Listened } from './engine.ts';
import type { PlanEdge, Strip, Topology } from './topology.ts';

const NONE: ReadonlySet<string> = new Set();
/** Curves of a gain that the kernel multiplies; one with more is worked out by the host each period. */
export const LANE_CURVES = 4;
/**
 * Bytes that a gain takes besides: its curves and itself in the lists of those that move, its curves in that of those that wait, what these
 * are where they bend, and how long the lists are.
 */
const LANE_LIST_BYTES = 4 * (2 * LANE_CURVES + 3) + 8 * LANE_CURVES;
/** Bytes of an entry of gains to be filled in. */
export const FILL_BYTES = 24;
/** Signals before the fader that get a meter. */
const MOST_EARLY = 256;

export type Wanted = {
  readonly listened?: readonly Listened[];
  /** Channels whose strips another engine runs ahead. */
  readonly first?: ReadonlySet<string>;
  /** How many gains may come from lanes. */
  readonly lanes?: number;
};

export function compile(
  module: KernelModule,
  topology: Topology,
  rate: number,
  { listened = [], first = NONE, lanes = 0 }: Wanted = {}
): Plan {
  const emission = beginEmission(module, rate);
  const { kernel, code, op, ramp, buffer } = emission;
  const strips = new Map<string, PlannedStrip>();
  const compensations = createCompensations(emission);
  const placing = createPlacing(emission);
  const sums = createSums(emission, { strips, compensations, placing });
  const inserts = createInserts(emission, { strips, compensations, rooms: topology.rooms });
  const { incoming, pairs, early } = readEdges(topology.edges);
  const cross = crossingOf(topology, listened, first);
  /** Signals before a fader that others take, later in the period. */
  const tapped = new Set([
    ...[...cross.values()].map(({ id }) => `${id} pre`),
    ...listened.map(({ id, tap }) => `${id} ${tap}`),
    ...topology.edges.map(({ from, source }) => `${from} ${source}`),
    ...topology.strips.flatMap(({ inserts: own }) => own.map(({ keyId, keyTap }) => `${keyId} ${keyTap}`))
  ]);
  const recorded = topology.strips.filter(({ channel: { kind } }) => kind === 'track' || kind === 'key');
  const chunks = recorded.reduce((sum, { channel: { width } }) => sum + width, 0);
  const sources = kernel.reserve(chunks * CHUNK * 4, true);
  let source = sources;
  const fading = topology.strips.some(({ fades }) => fades);
  const gains = fading ? kernel.reserve(CHUNK * 4, true) : 0;
  const chunksOf = new Map<string, readonly number[]>();
  const order = [...topology.strips.map(({ channel }) => channel.id), ...pairs.map((number) => `#${number}`), ...early];
  const meters = kernel.reserve(order.length * METER_FLOATS * 4);
  const meterOf = new Map(order.map((name, index) => [name, meters + index * METER_FLOATS * 4]));
  const unity = kernel.reserve(8);
  const laneGains = kernel.reserve(lanes * PERIOD * 4, true);
  const laneFills = lanes > 0 ? Math.max(256, 2 * lanes) : 0;
  const laneTable = kernel.reserve(laneFills * FILL_BYTES, true);
  const [reader, drive] = [constantsOf(kernel, 'READER', ['bytes']), constantsOf(kernel, 'DRIVE', ['bytes'])];
  const laneState = kernel.reserve(2 * reader.bytes + lanes * (LANE_CURVES * reader.bytes + drive.bytes + LANE_LIST_BYTES), true);

  /** What comes in to a strip: its recordings, or the sum of all that flows into it; through its trim. */
  const begin = ({ channel: { id, kind, width } }: Strip): Signal => {
    const trim = ramp(`i ${id}`);
    if (kind === 'track' || kind === 'key') {
      const own = Array.from({ length: width }, (_, side) => source + side * CHUNK * 4);
      source += width * CHUNK * 4;
      chunksOf.set(id, own);
      const sides = own.map((chunk) => {
        const to = buffer();
        op(code.source, to, chunk, trim);
        return to;
      });
      return { pair: [sides[0], sides.at(-1)!], latency: 0 };
    }
    const edges = incoming.get(id) ?? [];
    const summed: Pair = [buffer(), buffer()];
    const latency = sums.latest(edges);
    sums.into(summed, edges, latency, width === 1 ? unity : trim);
    if (width === 2) return { pair: summed, latency };
    op(code.mono, summed[0], ...summed);
    op(code.set, summed[0], summed[0], trim);
    return { pair: [summed[0], summed[0]], latency };
  };

  /** A signal through the mix's fades, whose gains come as late as it does. */
  const faded = (pair: Pair, latency: number): Pair => {
    const gain = compensations.aligned('fade', { pair: fadeSignal(), latency: 0 }, latency)[0];
    return pair.map((from) => {
      const to = buffer();
      op(code.shape, to, from, gain);
      return to;
    }) as unknown as Pair;
  };
  const fadeAt = new Map<string, Pair>();
  /** The gains of this period, as a signal: it stays for all that fade. */
  const fadeSignal = (): Pair => {
    const name = emission.own('fade');
    const known = fadeAt.get(name);
    if (known) return known;
    const to = emission.lasting();
    op(code.source, to, gains, unity);
    fadeAt.set(name, [to, to]);
    return [to, to];
  };

  /** Strips of the first part whose faders the other part does once more. */
  const again = new Set<string>();
  /** A strip's fader and pan, metered on the way. */
  const end = (strip: Strip, input: Signal, pre: Signal) => {
    const { id } = strip.channel;
    const post = emission.lastingPair();
    const placed = strip.crossed ? placing.crossed(id, 'pre', pre).pair : pre.pair;
    // The fader meters what comes in to it on the way.
    const besides = strip.crossed || strip.fades ? undefined : meterOf.get(`${id}<pre`);
    op(
      code.fader,
      ...(strip.fades ? faded(placed, pre.latency) : placed),
      ...post,
      ramp(`g ${id} L`, pre.latency),
      ramp(`g ${id} R`, pre.latency),
      meterOf.get(id)!,
      besides ?? 0
    );
    for (const [tap, { pair }] of Object.entries({ input, pre })) {
      const cell = meterOf.get(`${id}<${tap}`);
      if (cell !== undefined && cell !== besides) op(code.meter, ...pair, cell);
    }
    strips.set(id, { strip, taps: { input, pre, post: { pair: post, latency: pre.latency } }, chunks: [] });
    if (!cross.has(`${id} post`) || strip.crossed || strip.fades) return;
    if (pre.pair[0] !== pre.pair[1] && !cross.has(`${id} pre`)) return;
    again.add(id);
    emission.part(1);
    const [left, right] = [ramp(`g ${id} L`, pre.latency), ramp(`g ${id} R`, pre.latency)];
    op(code.fader, ...pre.pair, ...post, left, right, meterOf.get(id)!, 0);
    emission.part(0);
  };

  const crossing: number[] = [];
  let [region, addresses] = [0, 0];
  if (first.size > 0) emission.opLater(() => [code.scatter, region, addresses, crossing.length]);
  const passages: { ids: string[]; from: number; count: number; part: 0 | 1 }[] = [];
  const isFirst = ({ channel }: Strip) => first.has(channel.id);
  const batches = levelsOf(topology.strips).flatMap((level) => [
    ...batchesOf(level.filter(isFirst)),
    ...batchesOf(level.filter((strip) => !isFirst(strip)))
  ]);
  for (const batch of batches) {
    const part = isFirst(batch[0]) ? 0 : 1;
    emission.part(part);
    const from = emission.count();
    emission.passage(() => {
      const inputs = new Map(batch.map((strip) => [strip, begin(strip)]));
      const signals = inserts.through(batch, inputs);
      for (const strip of batch) end(strip, inputs.get(strip)!, signals.get(strip)!);
      return batch.flatMap(({ channel: { id } }) => {
        const { input, pre } = strips.get(id)!.taps;
        return [...(tapped.has(`${id} input`) ? input.pair : []), ...(tapped.has(`${id} pre`) ? pre.pair : [])];
      });
    });
    passages.push({ ids: batch.map(({ channel }) => channel.id), from, count: emission.count() - from, part });
  }
  if (first.size > 0) {
    // A mono signal before its fader is half of what is behind it: the fader is done once more on the other side.
    const signals = [...cross.values()].flatMap(({ id, tap }) => strips.get(id)!.taps[tap === 'post' && again.has(id) ? 'pre' : tap].pair);
    crossing.push(...new Set(signals));
    region = kernel.reserve(Math.max(1, crossing.length) * PERIOD * 4, true);
    addresses = emission.table(crossing);
    emission.part(0);
    op(code.gather, region, addresses, crossing.length);
    emission.part(1);
  }

  // All interface outputs come equally late.
  const leaving = incoming.get(null) ?? [];
  const last = sums.latest(leaving);
  const outs = new Map<number, Pair>();
  for (const number of pairs) {
    const out = emission.lastingPair();
    sums.into(
      out,
      leaving.filter((edge) => edge.pair === number),
      last,
      unity
    );
    op(code.meter, ...out, meterOf.get(`#${number}`)!);
    outs.set(number, out);
  }

  const memory = emission.seal();
  memory.f32[unity >> 2] = 1;
  compensations.place(memory);
  for (const instance of inserts.instances) instance.place(memory);
  for (const [id, addresses] of chunksOf)
    strips.set(id, { ...strips.get(id)!, chunks: addresses.map((at) => memory.f32.subarray(at >> 2, (at >> 2) + CHUNK)) });
  const controls = inserts.instances.flatMap((instance) => [...instance.controls]);
  return {
    ...memory,
    crossing: memory.f32.subarray(region >> 2, (region >> 2) + crossing.length * PERIOD),
    passages: passages.map(({ ids, from, count, part }) => ({ ids, ops: { at: memory.parts[part].at + from * code.words * 4, count } })),
    topology,
    strips,
    order,
    ramps: emission.ramps,
    late: emission.late,
    insertLate: inserts.late,
    lanes: { at: laneGains, count: lanes, table: laneTable, fills: laneFills, state: laneState },
    controls: new Map(controls),
    reducers: controls.flatMap(([id, control]) => (control.reduction ? [id] : [])),
    instanceOf: new Map(inserts.instances.flatMap((instance) => [...instance.controls.keys()].map((id) => [id, instance]))),
    compensations: compensations.all,
    ghosts: inserts.ghosts,
    sources: memory.f32.subarray(sources >> 2, (sources >> 2) + chunks * CHUNK),
    meters,
    fade: fading ? memory.f32.subarray(gains >> 2, (gains >> 2) + CHUNK) : null,
    outs,
    silence: emission.silence
  };
}

/** Edges by where they go (null is the interface), the output pairs in use, and the signals that some send takes before a fader. */
function readEdges(edges: readonly PlanEdge[]) {
  const incoming = new Map<string | null, PlanEdge[]>();
  const early = new Set<string>();
  for (const edge of edges) {
    listed(incoming, edge.to, edge);
    if (edge.source !== 'post') early.add(`${edge.from}<${edge.source}`);
  }
  return {
    incoming,
    pairs: [...new Set((incoming.get(null) ?? []).map(({ pair }) => pair))].sort((a, b) => a - b),
    /** They are metered there. */
    early: [...early].slice(0, MOST_EARLY)
  };
}

/** Signals that strips of the first part leave for others, or for whoever listens. */
function crossingOf({ edges, strips }: Topology, listened: readonly Listened[], first: ReadonlySet<string>): ReadonlyMap<string, Listened> {
  const found = new Map<string, Listened>();
  const add = (id: string | null, tap: Tap) => {
    if (id !== null && first.has(id)) found.set(`${id} ${tap}`, { id, tap });
  };
  for (const { from, to, source } of edges) if (to === null || !first.has(to)) add(from, source);
  for (const { channel, inserts } of strips) if (!first.has(channel.id)) for (const { keyId, keyTap } of inserts) add(keyId, keyTap);
  for (const { id, tap } of listened) add(id, tap);
  return found;
}

/** Strips by level, lowest first; they come sorted. */
function levelsOf(strips: readonly Strip[]): Strip[][] {
  const levels: Strip[][] = [];
  for (const strip of strips) (levels[strip.level] ??= []).push(strip);
  return levels.filter(Boolean);
}

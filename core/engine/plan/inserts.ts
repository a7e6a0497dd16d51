// The inserts of some strips, round by round: the first of each, then the second, so that like processors are placed together.
import { processors } from '../../processors/index.ts';
import { resultFor, type Entry, type Instance, type Pair } from '../../processors/processor.ts';
import type { Insert } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';
import type { Strip, Topology } from '../topology.ts';
import type { Compensations } from './compensation.ts';
import type { Emission } from './emission.ts';
import { ghostRamp, type Ghost, type PlannedStrip, type Signal } from './plan.ts';

export type Inserts = {
  readonly instances: readonly Instance[];
  readonly ghosts: ReadonlyMap<string, Ghost>;
  /** Frames by which what goes in to each is late. */
  readonly late: ReadonlyMap<string, Frames>;
  /** From what comes in to each of some strips of a level to what leaves its last insert. */
  readonly through: (strips: readonly Strip[], inputs: ReadonlyMap<Strip, Signal>) => ReadonlyMap<Strip, Signal>;
};

export function createInserts(
  emission: Emission,
  {
    strips,
    compensations,
    rooms
  }: { readonly strips: ReadonlyMap<string, PlannedStrip>; readonly compensations: Compensations; readonly rooms: Topology['rooms'] }
): Inserts {
  const { code, op, ramp, rate, silence } = emission;
  const instances: Instance[] = [];
  const ghosts = new Map<string, Ghost>();
  const late = new Map<string, Frames>();

  /** A signal on its way into an insert that remembers. */
  const ghosted = ({ id, type }: Insert, pair: Pair): Pair => {
    if (!processors[type].remembers) return pair;
    // The host reads and writes them between periods.
    const builder = { ...emission, buffer: emission.lasting };
    const into = resultFor(builder, pair);
    const ghost = resultFor(builder, pair);
    op(code.blend, ...into, ...pair, ...ghost, ramp(ghostRamp(id)));
    ghosts.set(id, { into, ghost });
    return into;
  };

  /** What a keyed insert listens to; null is its own input. What rests, or is gone, is silence rather than itself. */
  const keyOf = ({ channel }: Strip, { keyId, keyTap }: Insert, input: Signal): Signal | null => {
    if (keyId === null) return null;
    if (keyId === channel.id) return input;
    return strips.get(keyId)?.taps[keyTap] ?? { pair: [silence, silence], latency: 0 };
  };

  const round = (level: readonly Strip[], index: number, signals: Map<Strip, Signal>, inputs: ReadonlyMap<Strip, Signal>) => {
    const having = level.filter((strip) => strip.inserts.length > index);
    const entries = having.map((strip): Entry & { strip: Strip; latency: number } => {
      const insert = strip.inserts[index];
      const signal = signals.get(strip)!;
      const key = keyOf(strip, insert, inputs.get(strip)!);
      const room = rooms.get(insert.id) ?? 0;
      if (!key) return { strip, insert, pair: ghosted(insert, signal.pair), key: null, latency: signal.latency, room };
      const latency = Math.max(signal.latency, key.latency);
      return {
        strip,
        insert,
        pair: compensations.aligned(`${strip.channel.id} ${insert.id}`, signal, latency),
        key: compensations.aligned(`${insert.keyId} ${insert.keyTap} key ${insert.id}`, key, latency),
        latency,
        room
      };
    });
    for (const { insert, latency } of entries) late.set(insert.id, latency);
    for (const type of new Set(entries.map(({ insert }) => insert.type))) {
      const mine = entries.filter(({ insert }) => insert.type === type);
      const built = processors[type].build(emission, mine);
      instances.push(...built.instances);
      mine.forEach(({ strip, insert, latency }, i) =>
        signals.set(strip, { pair: built.results[i], latency: latency + processors[type].latency(rate, insert.params) })
      );
    }
  };

  return {
    instances,
    ghosts,
    late,
    through: (level, inputs) => {
      const signals = new Map(inputs);
      const rounds = Math.max(...level.map((strip) => strip.inserts.length));
      for (let i = 0; i < rounds; i++) round(level, i, signals, inputs);
      return signals;
    }
  };
}

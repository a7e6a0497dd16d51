// What a processor is to the plan: it places instances in kernel memory, and each insert gets a control that aims and moves.
import type { Insert } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';
import type { Kernel } from '../kernel.ts';

/** Addresses of a signal's two sides; a mono signal has equal addresses. */
export type Pair = readonly [number, number];

export type Memory = { readonly kernel: Kernel; readonly i32: Int32Array; readonly f32: Float32Array };

/** What parameters are read against. */
export type Site = { readonly rate: number; readonly bpm: number };

/** While a plan is made: kernel memory, period buffers and the list of ops. */
export type Builder = {
  readonly kernel: Kernel;
  readonly rate: number;
  readonly buffer: () => number;
  readonly op: (...words: number[]) => void;
  /** A buffer that is always zero, and one that nobody reads. */
  readonly silence: number;
  readonly trash: number;
};

export type Entry = { readonly insert: Insert; readonly pair: Pair; readonly key: Pair | null };

export type Control = {
  /** Takes the insert's values as targets; `snap` puts them in place at once. */
  readonly aim: (insert: Insert, site: Site, memory: Memory, snap: boolean) => void;
  /** Carries state over from the same insert's control in the plan before. */
  readonly adopt: (before: Control, from: Memory, to: Memory) => void;
  /** All of it on the host's side that changes while it runs, as plain objects. */
  readonly parts: () => Iterable<object>;
  /** Whether it holds, after so many rendered frames, what will come out louder than a level; of processors that keep it for long. */
  readonly holds?: (memory: Memory, rendered: Frames, level: number) => boolean;
  /** Deepest reduction in dB since the last reading, of processors that reduce. */
  readonly reduction?: (memory: Memory) => number;
};

export type Instance = {
  /** By insert id. */
  readonly controls: ReadonlyMap<string, Control>;
  /** Writes what never changes, once the memory is there. */
  readonly place: (memory: Memory) => void;
  /** Steps what moves and writes it, before a period; whether anything may move in the next one. */
  readonly advance: (memory: Memory) => boolean;
};

export type Built = { readonly instances: readonly Instance[]; readonly results: readonly Pair[] };

export type Processor = {
  readonly latency: (rate: number, insert: Insert) => Frames;
  /** Places all inserts of this type that are ready at the same time. */
  readonly build: (builder: Builder, entries: readonly Entry[]) => Built;
};

/** Places each entry alone, with an instance of its own. */
export function oneByOne(entries: readonly Entry[], each: (entry: Entry) => { instance: Instance; result: Pair }): Built {
  const built = entries.map(each);
  return { instances: built.map(({ instance }) => instance), results: built.map(({ result }) => result) };
}

/** A fresh result for a signal: one buffer where it is mono. */
export const resultFor = (builder: Builder, pair: Pair): Pair => {
  const left = builder.buffer();
  return [left, pair[0] === pair[1] ? left : builder.buffer()];
};

// What a processor is to the plan: it places instances in kernel memory, and each insert gets a control that aims and moves.
import type { Kernel } from '../kernel/kernel.ts';
import type { Insert } from '../session/entities.ts';
import type { Db, Frames } from '../units.ts';
import type { ParamSpec, Params } from './spec.ts';

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
  /** An op whose words are known once the plan is whole. */
  readonly opLater: (words: () => readonly number[]) => void;
  /** Room for four signals side by side, and by the addresses of their planar buffers those that could stay so: see `standing`. */
  readonly lanes: () => number;
  readonly stood: Map<string, Standing>;
  /** A buffer that is always zero, and one that nobody reads. */
  readonly silence: number;
  readonly trash: number;
};

/** Where a group's four signals stand side by side, 0 for nowhere in particular; and whether they come from planar buffers, and go to such. */
export type Standing = { lanes: number; gathers: boolean; scatters: boolean };

/** What is placed: an insert, what goes in, what its key hears (null is what goes in), and its room. */
export type Entry = { readonly insert: Insert; readonly pair: Pair; readonly key: Pair | null; readonly room: Frames };

export type Control = {
  /** Takes the insert's values as targets; `snap` puts them in place at once. */
  readonly aim: (insert: Insert, site: Site, memory: Memory, snap: boolean) => void;
  /** Carries state over from the same insert's control in the plan before, which has rendered so many frames. */
  readonly adopt: (before: Control, from: Memory, to: Memory, rendered: Frames) => void;
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

/** What a processor's registration says of it; what is absent is false, or nothing. */
export type Registration = {
  /** Its name in sessions, packages and commands: for good. */
  readonly type: string;
  /** As it stands inside a sentence. */
  readonly title: string;
  readonly specs: readonly ParamSpec[];
  /** Whether it makes two sides of one: a mono channel is stereo from there on. */
  readonly stereo?: true;
  /** Whether it has a key input. */
  readonly keyed?: true;
  /** Whether both sides get one gain, so that each alone would be another sound. */
  readonly linked?: true;
  /** Whether it tells a gain reduction. */
  readonly reduces?: true;
  /** Whether it remembers: an edge at its input would come out again, long after the change that made it. */
  readonly remembers?: true;
  /** Whether it sounds by itself, with nothing coming in: noise. */
  readonly makes?: true;
  /** Values that it begins with on anything but a return. */
  readonly onChannel?: Params;
  /** Whether it can make of a sum something else than of its parts, and whether it does at some values. */
  readonly bends?: (values: Params) => boolean;
  /** Whether at these values each side gets something of the other. */
  readonly crosses?: (values: Params) => boolean;
  /** What it multiplies a signal by, of one that is nothing but gains; `exact` is false where it also waits. */
  readonly gains?: (values: Params, width: 1 | 2) => { readonly matrix: Matrix; readonly level: Db; readonly exact: boolean };
  readonly latency?: (rate: number, params: Params) => Frames;
  /** Frames that it has to remember, in few steps: another number is another plan. */
  readonly room?: (values: Params, site: Site) => Frames;
  /** Places all inserts of this type that are ready at the same time. */
  readonly build: (builder: Builder, entries: readonly Entry[]) => Built;
};
/** { LL, RL, LR, RR }; "RL" is what of the right goes to the left. */
export type Matrix = readonly [number, number, number, number];

export type Processor = Omit<Registration, 'specs' | 'latency'> & {
  readonly specs: ReadonlyMap<string, ParamSpec>;
  readonly latency: (rate: number, params: Params) => Frames;
};

/** A processor as it is registered in `index.ts`. */
export const processor = ({ specs, latency = () => 0, ...rest }: Registration): Processor => ({
  ...rest,
  latency,
  specs: new Map(specs.map((spec) => [spec.id, spec]))
});

/** Places each entry alone, with an instance of its own. */
export function oneByOne(entries: readonly Entry[], each: (entry: Entry) => { instance: Instance; result: Pair }): Built {
  const built = entries.map(each);
  return { instances: built.map(({ instance }) => instance), results: built.map(({ result }) => result) };
}

export const isMono = ([left, right]: Pair): boolean => left === right;

/** A fresh result for a signal: one buffer where it is mono. */
export const resultFor = (builder: Builder, pair: Pair): Pair => {
  const left = builder.buffer();
  return [left, isMono(pair) ? left : builder.buffer()];
};

// While a plan is made: ops are listed in order and memory is reserved as it is needed. Nothing is written until all of it is known.
// Buffers of a period are used again as soon as nobody needs what they hold: what is at work at a time fits into the nearest cache.
import { constantsOf, startKernel, type Kernel, type KernelModule } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import type { Builder, Memory, Pair, Standing } from '../../processors/processor.ts';
import type { Frames } from '../../units.ts';
import { createRamps, type Ramps } from '../ramps.ts';

const BUFFER = PERIOD * 4;
const CODES = [
  'sum',
  'source',
  'set',
  'fader',
  'matrix',
  'delay',
  'mono',
  'blend',
  'meter',
  'shape',
  'gather',
  'scatter',
  'words'
] as const;

export type Emission = Builder & {
  /** Op codes of the desk, and how many words an op has. */
  readonly code: Readonly<Record<(typeof CODES)[number], number>>;
  readonly ramps: Ramps;
  /** Buffers that keep what they hold for the rest of the period; `buffer` only promises it within `passage`. */
  readonly lasting: () => number;
  readonly lastingPair: () => Pair;
  /** Emits something whose buffers are free again afterwards, but for those that it returns. */
  readonly passage: (emit: () => Iterable<number>) => void;
  /** From here on ops belong to a part of the plan: 0 what is run ahead, 1 the rest, or all of it. Parts share no buffer that is used again. */
  readonly part: (part: 0 | 1) => void;
  /** A name within the part that ops belong to. */
  readonly own: (name: string) => string;
  /** How many ops the part has so far. */
  readonly count: () => number;
  /** Address of a list of words. */
  readonly table: (words: readonly number[]) => number;
  /** Address of the ramp with a name, of a gain that a signal so late passes; the same name is the same ramp. */
  readonly ramp: (name: string, late?: Frames) => number;
  /** A ramp whose place is given. */
  readonly placed: (name: string, at: number, late: Frames) => void;
  /** How late what passes each ramp is. */
  readonly late: ReadonlyMap<string, Frames>;
  /** Ends the making: memory is there, and the ops are in it, part by part. */
  readonly seal: () => Memory & { readonly parts: readonly Ops[] };
};

/** Ops one after the other: the address of the first, and how many. */
export type Ops = { readonly at: number; readonly count: number };

export function beginEmission(module: KernelModule, rate: number): Emission {
  const kernel: Kernel = startKernel(module);
  const code = constantsOf(kernel, 'OP', CODES);
  const ramps = createRamps();
  const late = new Map<string, Frames>();
  const parts: (() => readonly number[])[][] = [[], []];
  let part: 0 | 1 = 1;
  const stood = new Map<string, Standing>();
  const freeLanes: number[][] = [[], []];
  let takenLanes: number[] = [];
  const tables: { readonly at: number; readonly words: readonly number[] }[] = [];
  const lasting = () => kernel.reserve(BUFFER, true);
  /** Buffers that are free, and those taken since the passage began. */
  const free: number[][] = [[], []];
  let taken: number[] = [];
  const buffer = () => {
    const at = free[part].pop() ?? lasting();
    taken.push(at);
    return at;
  };
  return {
    kernel,
    rate,
    code,
    ramps,
    buffer,
    silence: lasting(),
    trash: lasting(),
    op: (...words) => void parts[part].push(() => words),
    opLater: (words) => void parts[part].push(words),
    part: (next) => (part = next),
    own: (name) => (part === 0 ? `first ${name}` : name),
    count: () => parts[part].length,
    stood,
    lanes: () => {
      const at = freeLanes[part].pop() ?? kernel.reserve(4 * BUFFER, true);
      takenLanes.push(at);
      return at;
    },
    lasting,
    lastingPair: () => [lasting(), lasting()],
    passage: (emit) => {
      taken = [];
      takenLanes = [];
      stood.clear();
      const held = new Set(emit());
      freeLanes[part].push(...takenLanes);
      // The one that was used last is the nearest: it is taken first.
      free[part].push(...taken.filter((at) => !held.has(at)).reverse());
    },
    table: (words) => {
      const at = kernel.reserve(words.length * 4);
      tables.push({ at, words });
      return at;
    },
    ramp: (name, behind = 0) => {
      late.set(name, behind);
      return ramps.get(name)?.at ?? ramps.add(name, kernel.reserve(8)).at;
    },
    placed: (name, at, behind) => {
      late.set(name, behind);
      ramps.add(name, at);
    },
    late,
    seal: () => {
      const all = parts.map((ops) => ({ ops, at: kernel.reserve(ops.length * code.words * 4) }));
      const { i32, f32 } = kernel.seal();
      for (const { ops, at } of all) ops.forEach((words, i) => i32.set(words(), (at >> 2) + i * code.words));
      for (const { at: table, words } of tables) i32.set(words, table >> 2);
      return { kernel, i32, f32, parts: all.map(({ ops, at }) => ({ at, count: ops.length })) };
    }
  };
}

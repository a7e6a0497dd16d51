// One running kernel: an instance of the WebAssembly module with its memory and a bump allocator over it.
import { HEAP, PERIOD } from './period.ts';

export type KernelModule = WebAssembly.Module;

/** What the desk itself asks of the kernel; a processor's control names what its own part exports by `partOf`. */
type Exports = {
  readonly memory: WebAssembly.Memory;
  run(ops: number, count: number, frame: bigint, phase: number): void;
  setStage(at: number, lane: number, kind: number, order: number, freq: number, gain: number, q: number, wet: number, rate: number): void;
  clearStage(at: number, lane: number): void;
  onePole(freq: number, rate: number): number;
  follow(ms: number, rate: number): number;
  gainOf(db: number): number;
  dbOf(gain: number): number;
  panLeft(position: number, centre: number): number;
  scale(at: number, count: number, gain: number): void;
  fillGains(table: number, count: number): void;
  readOn(readers: number, list: number, to: number, anew: boolean, asked: number): number;
  driveOn(drives: number, list: number, now: number, mids: number, asked: number): number;
  amplitudeOf(db: number): number;
  pinOf(place: number, which: number): number;
};

export type Kernel = Exports & {
  /** All that the module exports. */
  readonly exported: Readonly<Record<string, unknown>>;
  /**
   * Reserves zeroed bytes, aligned to 16; call `seal` before use. `passing` bytes are rings by the absolute frame, or hold nothing from
   * one period to the next: a snapshot leaves them out.
   */
  readonly reserve: (bytes: number, passing?: boolean) => number;
  /** Ranges of bytes that make up the state, without what is passing. */
  readonly kept: () => readonly (readonly [from: number, to: number])[];
  /** Grows the memory to what was reserved and makes the views. */
  readonly seal: () => { readonly i32: Int32Array; readonly f32: Float32Array };
};

export const kernelModule = (bytes: Uint8Array<ArrayBuffer> | ArrayBuffer): KernelModule => new WebAssembly.Module(bytes);

export function startKernel(module: KernelModule): Kernel {
  const instance = new WebAssembly.Instance(module, {
    env: {
      abort: () => {
        throw new Error('The kernel stopped on an error of its own.');
      }
    }
  });
  const exports = instance.exports as unknown as Exports;
  if (constant(instance.exports, 'PERIOD') !== PERIOD)
    throw new Error('The kernel was built for another length of periods. Build it again.');
  let top = HEAP;
  const kept: [number, number][] = [];
  return {
    ...exports,
    exported: instance.exports,
    reserve: (bytes, passing = false) => {
      const at = top;
      top += Math.ceil(bytes / 16) * 16;
      const last = kept.at(-1);
      if (!passing && last?.[1] === at) last[1] = top;
      else if (!passing) kept.push([at, top]);
      return at;
    },
    kept: () => kept,
    seal: () => {
      const missing = Math.ceil((top - exports.memory.buffer.byteLength) / 65536);
      if (missing > 0) exports.memory.grow(missing);
      return { i32: new Int32Array(exports.memory.buffer), f32: new Float32Array(exports.memory.buffer) };
    }
  };
}

function constant(exported: Readonly<Record<string, unknown>>, name: string): number {
  const found = exported[name] as { readonly value: number } | undefined;
  if (typeof found?.value !== 'number') throw new Error(`The kernel exports no constant ${name}.`);
  return found.value;
}

/**
 * Constants that the kernel exports under a prefix: `constantsOf(kernel, 'COMP', ['wet', 'bytes'])` is { wet: COMP_WET, bytes: COMP_BYTES }.
 * Byte offsets are written in the kernel and nowhere else; one that is not there throws when the plan is made.
 */
export const constantsOf = <N extends string>({ exported }: Kernel, prefix: string, names: readonly N[]): Readonly<Record<N, number>> =>
  Object.fromEntries(
    names.map((name) => [name, constant(exported, `${prefix}_${name.replace(/[A-Z]/g, (letter) => `_${letter}`).toUpperCase()}`)])
  ) as Record<N, number>;

/** The functions that a part of the kernel exports, as its host side declares them. */
export const partOf = <F extends object>({ exported }: Kernel): F => exported as unknown as F;

/** The op code of a processor, whose kernel part exports its place as `<type>Op`. */
export const opOf = (kernel: Kernel, type: string): number =>
  partOf<Record<string, () => number>>(kernel)[`${type}Op`]() + constant(kernel.exported, 'OP_PROCESSOR');

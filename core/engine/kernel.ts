// One running kernel: an instance of the WebAssembly module with its memory and a bump allocator over it.
import { HEAP } from './layout.ts';

export type KernelModule = WebAssembly.Module;

type Exports = {
  readonly memory: WebAssembly.Memory;
  run(ops: number, count: number, frame: bigint, phase: number): void;
  eqStage(at: number, lane: number, kind: number, order: number, freq: number, gain: number, q: number, wet: number, rate: number): void;
  decayGain(frames: number, seconds: number, rate: number): number;
  onePole(freq: number, rate: number): number;
  compLane(
    at: number,
    lane: number,
    threshold: number,
    ratio: number,
    knee: number,
    attack: number,
    release: number,
    averaging: number,
    slow: number,
    colour: number,
    linked: number,
    listen: number,
    rate: number
  ): void;
  limiterTable(at: number): void;
  follow(ms: number, rate: number): number;
  gainOf(db: number): number;
  dbOf(gain: number): number;
  panLeft(position: number, centre: number): number;
};

export type Kernel = Exports & {
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
  let top = HEAP;
  const kept: [number, number][] = [];
  return {
    ...exports,
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

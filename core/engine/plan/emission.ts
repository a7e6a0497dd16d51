// While a plan is made: ops are listed in order and memory is reserved as it is needed. Nothing is written until all of it is known.
import { constantsOf, startKernel, type Kernel, type KernelModule } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import type { Builder, Memory, Pair } from '../../processors/processor.ts';
import { createRamps, type Ramps } from '../ramps.ts';

const BUFFER = PERIOD * 4;
const CODES = ['zero', 'source', 'set', 'mix', 'fader', 'matrix', 'delay', 'mono', 'blend', 'meter', 'words'] as const;

export type Emission = Builder & {
  /** Op codes of the desk, and how many words an op has. */
  readonly code: Readonly<Record<(typeof CODES)[number], number>>;
  readonly ramps: Ramps;
  readonly pair: () => Pair;
  /** Address of the ramp with a name; the same name is the same ramp. */
  readonly ramp: (name: string) => number;
  /** Ends the making: memory is there, and the ops are in it. */
  readonly seal: () => Memory & { readonly ops: number; readonly opCount: number };
};

export function beginEmission(module: KernelModule, rate: number): Emission {
  const kernel: Kernel = startKernel(module);
  const code = constantsOf(kernel, 'OP', CODES);
  const ramps = createRamps();
  const ops: number[][] = [];
  const buffer = () => kernel.reserve(BUFFER, true);
  return {
    kernel,
    rate,
    code,
    ramps,
    buffer,
    silence: buffer(),
    trash: buffer(),
    op: (...words) => void ops.push(words),
    pair: () => [buffer(), buffer()],
    ramp: (name) => ramps.get(name)?.at ?? ramps.add(name, kernel.reserve(8)).at,
    seal: () => {
      const at = kernel.reserve(ops.length * code.words * 4);
      const { i32, f32 } = kernel.seal();
      ops.forEach((words, i) => i32.set(words, (at >> 2) + i * code.words));
      return { kernel, i32, f32, ops: at, opCount: ops.length };
    }
  };
}

// A channel's signal on its way out: through its matrix of pins and width, or folded to mono; each made once however many ask.
import type { Pair } from '../../processors/processor.ts';
import type { Tap } from '../../session/entities.ts';
import type { Emission } from './emission.ts';
import type { Frames } from '../../units.ts';
import { cellRamp, CELLS, type Signal } from './plan.ts';

export type Placing = {
  /** Through the channel's matrix, at a tap. */
  readonly crossed: (id: string, tap: Tap, signal: Signal) => Signal;
  /** (L+R)/2 on both sides. */
  readonly folded: (id: string, tap: Tap, signal: Signal) => Signal;
};

export function createPlacing({ kernel, code, placed, op, own, lastingPair, lasting }: Emission): Placing {
  const matrices = new Map<string, number>();
  const made = new Map<string, Pair>();
  const once = (name: string, make: () => Pair): Pair => {
    const key = own(name);
    const present = made.get(key) ?? make();
    made.set(key, present);
    return present;
  };
  /** A tap has one of its own, since lanes that move it are read as late as its signal is. */
  const matrixOf = (id: string, tap: Tap, latency: Frames): number => {
    const key = `${id} ${tap}`;
    const present = matrices.get(key);
    if (present !== undefined) return present;
    const at = kernel.reserve(32);
    for (const [i, cell] of CELLS.entries()) placed(cellRamp(id, tap, cell), at + i * 8, latency);
    matrices.set(key, at);
    return at;
  };
  return {
    crossed: (id, tap, { pair: from, latency }) => ({
      latency,
      pair: once(`crossed ${id} ${tap}`, () => {
        const at = matrixOf(id, tap, latency);
        const to = lastingPair();
        op(code.matrix, ...from, ...to, at);
        return to;
      })
    }),
    folded: (id, tap, { pair: from, latency }) => ({
      latency,
      pair: once(`folded ${id} ${tap}`, () => {
        const mono = lasting();
        op(code.mono, mono, ...from);
        return [mono, mono];
      })
    })
  };
}

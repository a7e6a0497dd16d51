// What a processor's oracle is: the same sound in float64, one frame after the other, written apart from the kernel. For tests.
import type { Params } from './spec.ts';

/** One or two sides of a whole recording, and what the key hears, through a processor at steady values. */
export type Oracle = (
  sides: readonly Float64Array[],
  at: { readonly key: readonly Float64Array[]; readonly values: Params; readonly rate: number; readonly bpm: number }
) => readonly Float64Array[];

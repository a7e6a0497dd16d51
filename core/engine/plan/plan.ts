// What a compiled plan is: ops in order in kernel memory, and where of each channel, insert and output everything lies.
import type { Control, Instance, Memory, Pair } from '../../processors/processor.ts';
import type { Tap } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';
import type { Ramps } from '../ramps.ts';
import type { Strip, Topology } from '../topology.ts';
import type { Ops } from './emission.ts';

/** A signal with the frames by which it comes late. */
export type Signal = { readonly pair: Pair; readonly latency: Frames };

export type PlannedStrip = {
  readonly strip: Strip;
  readonly taps: Readonly<Record<Tap, Signal>>;
  /** Source chunks of a track, one per audio channel. */
  readonly chunks: readonly Float32Array[];
};

/** A compensation delay: the ring in which a signal waits for a later one. */
export type Compensation = { readonly ring: number; readonly frames: number; readonly delay: Frames; readonly cell: number };

/** Of an insert that remembers: what goes in, and where what went in to the plan before is put while one follows the other. */
export type Ghost = { readonly into: Pair; readonly ghost: Pair };

export type Plan = Memory & {
  readonly topology: Topology;
  /** Ops that are run ahead, none where one engine runs all, and the others. */
  readonly parts: readonly Ops[];
  /** What the first part leaves for the other, side by side. */
  readonly crossing: Float32Array;
  /** By passage, the strips that it makes and its ops. */
  readonly passages: readonly { readonly ids: readonly string[]; readonly ops: Ops }[];
  readonly strips: ReadonlyMap<string, PlannedStrip>;
  /** What the meters are of: channel ids, output pairs as `#0`, early taps as `id<pre`. */
  readonly order: readonly string[];
  readonly ramps: Ramps;
  /** By ramp, the frames by which what passes it is late; by insert, those by which what goes in is. */
  readonly late: ReadonlyMap<string, Frames>;
  readonly insertLate: ReadonlyMap<string, Frames>;
  /** Room for the gains of lanes that play: so many buffers, and where the first is; a table of what is to be filled in; what they follow. */
  readonly lanes: {
    readonly at: number;
    readonly count: number;
    readonly table: number;
    readonly fills: number;
    readonly state: number;
  };
  readonly controls: ReadonlyMap<string, Control>;
  /** Inserts whose control tells a gain reduction. */
  readonly reducers: readonly string[];
  /** The instance that an insert is part of. */
  readonly instanceOf: ReadonlyMap<string, Instance>;
  readonly compensations: ReadonlyMap<string, Compensation>;
  readonly ghosts: ReadonlyMap<string, Ghost>;
  /** All source chunks, one after the other. */
  readonly sources: Float32Array;
  readonly meters: number;
  /** The gains of the mix's fades for the chunk, a frame each; null where it has none. */
  readonly fade: Float32Array | null;
  /** By interface output pair. */
  readonly outs: ReadonlyMap<number, Pair>;
  readonly silence: number;
};

/** The ramp by which an insert that remembers goes over from what went in before to what goes in now. */
export const ghostRamp = (insertId: string): string => `n ${insertId}`;
/** The ramp of a cell of a channel's matrix, which each tap has for itself. */
export const cellRamp = (id: string, tap: Tap, cell: (typeof CELLS)[number]): string => `m ${id} ${tap} ${cell}`;
/** Cells of a channel's matrix, in the kernel's order. */
export const CELLS = ['LL', 'RL', 'LR', 'RR'] as const;

// What a pass costs on the machine that it runs on, so that it can be cut in two: measured in the middle of what is rendered.
import type { Pcm } from '../engine/engine.ts';
import type { KernelModule } from '../kernel/kernel.ts';
import { PERIOD } from '../kernel/period.ts';
import type { Pass } from './passes.ts';
import { engineOf, type Span } from './render.ts';

export type Costs = {
  /** Of each channel's strip, its recordings' reading included. */
  readonly strips: ReadonlyMap<string, number>;
  /** Of what is done besides: outlets held and given out. */
  readonly besides: number;
  /** Of each buffer that crosses to another core, on either side. */
  readonly buffer: number;
};

const ROUNDS = 5;
const PERIODS = 64;
const COPIES = 1000;
/**
 * In copies of a buffer within a core: what one that crosses takes on either side, gathered, put into the ring and fetched from another
 * core's cache; and what an outlet takes, held and given out.
 */
const FAR = 1.5;
const OUTLET = 11;

/** Costs of a period by a clock, in its units. `costsOf(module, pass, pcm, span, () => performance.now())` */
export function costsOf(module: KernelModule, pass: Pass, pcm: Pcm, { start, to }: Span, now: () => number): Costs {
  const engine = engineOf(module, pass, pcm, { to });
  const half = start + (to - start) / 2;
  engine.locate(half - (half % PERIOD));
  // The first periods find nothing in any cache; of the others the quickest count: what disturbs makes them longer, and never shorter.
  engine.costs(PERIODS, now);
  const strips = new Map<string, number>();
  for (let round = 0; round < ROUNDS; round++)
    for (const [id, time] of engine.costs(PERIODS, now)) strips.set(id, Math.min(strips.get(id) ?? Infinity, time / PERIODS));
  const copy = quickestCopy(now);
  return { strips, besides: pass.outlets.length * copy * OUTLET, buffer: copy * FAR };
}

/** What copying a period of a signal takes. */
function quickestCopy(now: () => number): number {
  const [one, other] = [new Float32Array(PERIOD), new Float32Array(PERIOD)];
  let least = Infinity;
  for (let round = 0; round < ROUNDS * 2; round++) {
    const began = now();
    for (let i = 0; i < COPIES; i++) other.set(one);
    least = Math.min(least, now() - began);
  }
  return least / COPIES;
}

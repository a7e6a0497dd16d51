// Sums: what flows into a channel or an output, edge by edge in the order of birth, all of it brought to the latest.
import type { Pair } from '../../processors/processor.ts';
import type { Frames } from '../../units.ts';
import type { PlanEdge } from '../topology.ts';
import type { Compensations } from './compensation.ts';
import type { Emission } from './emission.ts';
import type { Placing } from './placing.ts';
import type { PlannedStrip, Signal } from './plan.ts';

export type Sums = {
  /** The latest of what edges take. */
  readonly latest: (edges: readonly PlanEdge[]) => Frames;
  /** Emits the sum of edges into a pair at a latency, through the ramp at `trim`. */
  readonly into: (pair: Pair, edges: readonly PlanEdge[], latency: Frames, trim: number) => void;
};

export function createSums(
  { code, op, ramp, table }: Emission,
  {
    strips,
    compensations,
    placing
  }: {
    readonly strips: ReadonlyMap<string, PlannedStrip>;
    readonly compensations: Compensations;
    readonly placing: Placing;
  }
): Sums {
  const taken = ({ from, source, fold, crossed }: PlanEdge): Signal => {
    const signal = strips.get(from)!.taps[source];
    if (crossed) return placing.crossed(from, source, signal);
    return fold ? placing.folded(from, source, signal) : signal;
  };
  return {
    latest: (edges) => Math.max(0, ...edges.map(({ from, source }) => strips.get(from)!.taps[source].latency)),
    into: (to, edges, latency, trim) => {
      const parts = edges.flatMap((edge) => {
        const name = `${edge.from} ${edge.source} ${edge.fold} ${edge.crossed}`;
        const pair = compensations.aligned(name, taken(edge), latency);
        const [l, r] = edge.sided ? [`${edge.key} L`, `${edge.key} R`] : [edge.key, edge.key];
        return [...pair, ramp(l, latency), ramp(r, latency)];
      });
      op(code.sum, ...to, table(parts), edges.length, trim);
    }
  };
}

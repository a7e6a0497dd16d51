// Keeping what a running plan was at some frames, so that audio rendered ahead can be rendered again after a move: registers are
// copied, rings go by the absolute frame and need not be, and what moves on the host's side is put back from a journal.
import type { Frames } from '../units.ts';
import type { Plan } from './plan/plan.ts';

/** Snapshots kept: with one every 128 frames they reach 5120 frames back, less than rings are longer than their delays. */
const KEPT = 40;

type Snapshot = { rendered: Frames; memory: Float32Array; mark: number };

export type Keeper = {
  /** Gives all memory back: another plan takes over. */
  readonly release: () => void;
  /** Remembers objects as they are now, before they change. */
  readonly note: (objects: Iterable<object>) => void;
  /** Keeps the plan as it is at this frame. `moving` are the objects that change by themselves. */
  readonly take: (rendered: Frames, moving: Iterable<object>) => void;
  /** Puts back the earliest snapshot at or after a frame; its frame and the objects put back, or null where there is none. */
  readonly restore: (from: Frames) => { readonly rendered: Frames; readonly objects: ReadonlySet<object> } | null;
};

/** `pool` is memory for snapshots, shared by plans that follow upon one another. */
export function createKeeper({ f32, kernel }: Plan, pool: Float32Array[]): Keeper {
  const ranges = kernel.kept();
  const size = ranges.reduce((sum, [from, to]) => sum + (to - from), 0) / 4;
  const taken: Snapshot[] = [];
  /** Objects with copies of what they were, oldest first; `first` is the running number of the first. */
  let journal: (readonly [object, object])[] = [];
  let first = 0;

  const note: Keeper['note'] = (objects) => {
    if (taken.length) for (const object of objects) journal.push([object, { ...object }]);
  };
  return {
    note,
    release: () => {
      for (const { memory } of taken.splice(0)) pool.push(memory);
      journal = [];
    },
    take: (rendered, moving) => {
      while (taken.length >= KEPT) pool.push(taken.shift()!.memory);
      // What lies before the oldest snapshot is never asked for again.
      const oldest = taken[0]?.mark ?? first + journal.length;
      if (oldest > first) {
        journal = journal.slice(oldest - first);
        first = oldest;
      }
      let memory = pool.pop();
      // What is too small for this plan is forgotten; a little room spares the next one the same.
      while (memory && memory.length < size) memory = pool.pop();
      memory ??= new Float32Array(Math.ceil(size * 1.2));
      let at = 0;
      for (const [from, to] of ranges) {
        memory.set(f32.subarray(from >> 2, to >> 2), at);
        at += (to - from) >> 2;
      }
      taken.push({ rendered, memory, mark: first + journal.length });
      note(moving);
    },
    restore: (from) => {
      const index = taken.findIndex(({ rendered }) => rendered >= from);
      if (index === -1) return null;
      const { rendered, memory, mark } = taken[index];
      let at = 0;
      for (const [begin, to] of ranges) {
        const count = (to - begin) >> 2;
        f32.set(memory.subarray(at, at + count), begin >> 2);
        at += count;
      }
      const objects = new Set<object>();
      for (const [object, copy] of journal.splice(mark - first).reverse()) {
        Object.assign(object, copy);
        objects.add(object);
      }
      // The one restored is taken anew when the period is rendered again.
      for (const { memory: free } of taken.splice(index)) pool.push(free);
      return { rendered, objects };
    }
  };
}

// One render on two cores: two engines make the same plan, each runs its share of the ops. What the first leaves for the second goes
// through a ring in shared memory, a slot a period. The bits are those of one engine, since the ops and their order are.
import { PERIOD } from '../kernel/period.ts';

/** Periods that the first may be ahead. */
const SLOTS = 16;
/** How many are read, or written, before the other is woken: each waking costs more than a period's copying. */
const BUNDLE = 4;
/** Cells of the ring's head. */
const WRITTEN = 0;
const READ = 1;
const STATE = 2;
const CELLS = 16;
const RUNNING = 0;
const STOPPED = 1;
const FAILED = 2;
/** How long one waits before it looks whether the other is still there, and how often. */
const WAIT_MS = 500;
const PATIENCE = 60;

export type Ring = {
  /** Floats of a slot: what crosses, and whether an echo is still on its way. */
  readonly floats: number;
  readonly buffer: SharedArrayBuffer;
};

/** A ring for so many buffers of a period. */
export function shareRing(buffers: number): Ring {
  const floats = buffers * PERIOD + 1;
  return { floats, buffer: new SharedArrayBuffer(CELLS * 4 + SLOTS * floats * 4) };
}

export type Share = {
  /** 0 runs ahead, 1 goes on from what it leaves. */
  readonly part: 0 | 1;
  /** Channels whose strips the first runs; all that feeds them is among them. */
  readonly first: ReadonlySet<string>;
  /** Signals that are listened to, so that they cross too. */
  readonly ring: Ring | null;
  /** Of the first: from which rendered frame on it says whether something louder than a level is still held. */
  readonly tail?: { readonly from: number; readonly level: number };
};

export type Exchange = {
  /** Of the first: puts a period's signals into the ring; false once the second has all it wants. */
  readonly push: (signals: Float32Array, holding: boolean) => boolean;
  /** Of the second: takes the next period's; whether the first still holds something. Throws where the first has failed. */
  readonly pull: (signals: Float32Array) => boolean;
  readonly stop: (failed?: boolean) => void;
};

export function exchangeOver({ floats, buffer }: Ring): Exchange {
  const cells = new Int32Array(buffer, 0, CELLS);
  const slots = new Float32Array(buffer, CELLS * 4);
  const slot = (n: number) => (n % SLOTS) * floats;
  let written = 0;
  let read = 0;
  /** Waits until a cell is no longer what it was; false where the other is gone. */
  const wait = (cell: number, was: number): boolean => {
    for (let i = 0; i < PATIENCE && Atomics.load(cells, STATE) === RUNNING; i++) {
      Atomics.wait(cells, cell, was, WAIT_MS);
      if (Atomics.load(cells, cell) !== was) return true;
    }
    return Atomics.load(cells, cell) !== was;
  };
  return {
    push: (signals, holding) => {
      for (;;) {
        const seen = Atomics.load(cells, READ);
        if (written - seen < SLOTS - BUNDLE) break;
        // What was not told yet is told before one waits.
        Atomics.store(cells, WRITTEN, written);
        Atomics.notify(cells, WRITTEN);
        if (!wait(READ, seen)) return false;
      }
      slots.set(signals, slot(written));
      slots[slot(written) + floats - 1] = holding ? 1 : 0;
      written++;
      if (written % BUNDLE === 0) {
        Atomics.store(cells, WRITTEN, written);
        Atomics.notify(cells, WRITTEN);
      }
      return Atomics.load(cells, STATE) === RUNNING;
    },
    pull: (signals) => {
      for (;;) {
        const seen = Atomics.load(cells, WRITTEN);
        if (seen > read) break;
        if (!wait(WRITTEN, seen))
          throw new Error(
            Atomics.load(cells, STATE) === FAILED
              ? 'The thread that renders ahead failed.'
              : 'The thread that renders ahead does not answer.'
          );
      }
      const at = slot(read);
      signals.set(slots.subarray(at, at + floats - 1));
      const holding = slots[at + floats - 1] === 1;
      read++;
      if (read % BUNDLE === 0) {
        Atomics.store(cells, READ, read);
        Atomics.notify(cells, READ);
      }
      return holding;
    },
    stop: (failed = false) => {
      Atomics.store(cells, STATE, failed ? FAILED : STOPPED);
      Atomics.notify(cells, WRITTEN);
      Atomics.notify(cells, READ);
    }
  };
}

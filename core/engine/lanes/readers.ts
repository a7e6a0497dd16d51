// Curves as stages read them that are equally late. In the kernel's memory lies how each goes on from period to period; here is what it goes
// on in, and what happens where it bends.
import { constantsOf, type Kernel } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';
import { Stretch, type Curve } from './curve.ts';

export class Reader {
  users = 0;
  /** Its place among those of the kernel. */
  index = 0;
  readonly curve: Curve;
  /** The stretch that the period begins in, and the one after it. */
  private stretch = new Stretch();
  private then = new Stretch();
  constructor(curve: Curve) {
    this.curve = curve;
  }
  at(frame: Frames): number {
    const { stretch, then } = this;
    if (frame >= stretch.begin && frame <= stretch.end) return stretch.at(frame);
    return frame >= then.begin && frame <= then.end ? then.at(frame) : this.curve.at(frame);
  }
  /** Where the stretch ends that a frame is in. */
  end(frame: Frames): Frames {
    const { stretch, then } = this;
    if (frame >= stretch.begin && frame < stretch.end) return stretch.end;
    if (!(frame >= then.begin && frame < then.end)) this.curve.seek(frame, then);
    return then.end;
  }
  /** The stretch of a period, which begins at a frame. */
  reach(frame: Frames): Stretch {
    const { stretch, then } = this;
    if (frame >= stretch.begin && frame < stretch.end) return stretch;
    if (frame >= then.begin && frame < then.end) {
      this.then = stretch;
      this.stretch = then;
      return then;
    }
    this.curve.seek(frame, stretch);
    return stretch;
  }
}

export type ReaderMemory = {
  readonly bytes: number;
  /** Writes where a reader stands over [from, from + 64), and how it goes on. */
  readonly write: (reader: Reader, at: number, from: Frames) => void;
};

/** Readers in the kernel's memory: { now, next, end, from, by, start, ratio; kind, bent }. */
export function readerMemory(kernel: Kernel, f64: Float64Array, i32: Int32Array): ReaderMemory {
  const { bytes } = constantsOf(kernel, 'READER', ['bytes']);
  const kinds = constantsOf(kernel, 'READ', ['still', 'even', 'ratio', 'asked', 'pin']);
  return {
    bytes,
    write: (reader, at, from) => {
      const to = from + PERIOD;
      const stretch = reader.reach(from);
      const { steady, end } = stretch;
      const place = at >> 3;
      f64[place] = stretch.at(from);
      f64[place + 1] = reader.at(to);
      f64[place + 2] = end;
      f64[place + 3] = stretch.from;
      f64[place + 4] = stretch.by;
      f64[place + 5] = stretch.start;
      f64[place + 6] = stretch.ratio;
      i32[(at >> 2) + 14] = steady === 'pin' ? kinds.pin + stretch.which : kinds[steady];
      i32[(at >> 2) + 15] = end < to ? 1 : 0;
    }
  };
}

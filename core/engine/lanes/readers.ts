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
  /** A frame at which it bends is of the stretch that begins there, whoever asks. */
  at(frame: Frames): number {
    const { stretch, then } = this;
    if (frame >= stretch.begin && frame < stretch.end) return stretch.at(frame);
    return frame >= then.begin && frame < then.end ? then.at(frame) : this.curve.at(frame);
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
  /** The stretch that a frame is in, later in that period. */
  later(frame: Frames): Stretch {
    const { then } = this;
    if (!(frame >= then.begin && frame < then.end)) this.curve.seek(frame, then);
    return then;
  }
}

export type ReaderMemory = {
  /**
   * Writes where a reader stands over [from, from + 64), and how it goes on. Answers the period in which it is to be looked at again, of one
   * that the kernel strikes off before that, since it rests; NaN of others.
   */
  readonly write: (reader: Reader, at: number, from: Frames) => number;
};

/** Readers in the kernel's memory, what they are where they bend at `mids`: { now, next; kind, bend; end, from, by, start, ratio }. */
export function readerMemory(kernel: Kernel, f64: Float64Array, i32: Int32Array, mids: number): ReaderMemory {
  const kinds = constantsOf(kernel, 'READ', ['still', 'even', 'ratio', 'asked', 'pin']);
  return {
    write: (reader, at, from) => {
      const to = from + PERIOD;
      const stretch = reader.reach(from);
      const bends = stretch.end < to;
      const on = bends ? reader.later(to) : stretch;
      const place = at >> 3;
      f64[place] = stretch.at(from);
      f64[place + 1] = reader.at(to);
      f64[place + 3] = on.end;
      f64[place + 4] = on.from;
      f64[place + 5] = on.by;
      f64[place + 6] = on.start;
      f64[place + 7] = on.ratio;
      const bend = !bends ? 0 : on.begin === stretch.end ? stretch.end - from : -1;
      if (bend > 0) f64[(mids + (at >> 3)) >> 3] = on.at(stretch.end);
      const { steady } = on;
      i32[(at >> 2) + 4] = steady === 'pin' ? kinds.pin + on.which : kinds[steady];
      i32[(at >> 2) + 5] = bend;
      if (bend < 0 || steady !== 'still' || on.end === Infinity) return NaN;
      // In the next period the kernel looks at it in any case, and in the one after that where it bent before it came to rest.
      return on.end > from + (bends ? 3 : 2) * PERIOD ? Math.ceil(on.end / PERIOD) - 1 : NaN;
    }
  };
}

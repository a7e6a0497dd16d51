// Curves: what a gain or a value is at each frame of the timeline, of lanes and of what is made of them. A curve is a function of the
// position alone, so that a print, a play from the middle, a loop and a rewind give the same.
import type { Kernel } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import { shaped } from '../../lanes/course.ts';
import type { Scale } from '../../lanes/kinds.ts';
import type { Point } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';
import { amplitudeOf, pinGain } from './exact.ts';

/** What a stretch of a curve is, of one that stands still, moves evenly, or evenly in dB; or of anything else. */
const STILL = 0;
const EVEN = 1;
const IN_DB = 2;
const OTHER = 3;

/** A stretch of a curve without bends, ready to be asked for many frames: [begin, end), and continuous beyond. */
export class Stretch {
  /** No frame is in one that was not filled in. */
  begin: Frames = NaN;
  end: Frames = NaN;
  private kind = STILL;
  private from = 0;
  private by = 0;
  private start = 0;
  /** 1 / length of an eased stretch; 0 of one that is not. */
  private eased = 0;
  /** Of a pin: which side it is for, and its law. */
  private side: -1 | 0 | 1 = 0;
  private law = 0;
  private other: (frame: Frames) => number = NOTHING;

  still(begin: Frames, end: Frames, value: number): void {
    this.begin = begin;
    this.end = end;
    this.kind = STILL;
    this.from = value;
    this.side = 0;
  }
  /** From one value to another between `start` and the end, of which [begin, end) is a part. */
  moves(begin: Frames, end: Frames, start: Frames, from: number, to: number, shape: 'even' | 'eased', inDb: boolean): void {
    const length = end - start;
    this.begin = begin;
    this.end = end;
    this.kind = inDb ? IN_DB : EVEN;
    this.from = from;
    this.start = start;
    this.side = 0;
    this.eased = shape === 'eased' ? 1 / length : 0;
    this.by = shape === 'eased' ? to - from : (to - from) / length;
  }
  made(begin: Frames, end: Frames, of: (frame: Frames) => number): void {
    this.begin = begin;
    this.end = end;
    this.kind = OTHER;
    this.other = of;
    this.side = 0;
  }
  /** What it says is a pin's place, of which a side's gain is wanted. */
  placed(side: -1 | 1, law: number, still: (place: number) => number): void {
    if (this.kind === STILL) this.from = still(this.from);
    else {
      this.side = side;
      this.law = law;
    }
  }
  get stands(): boolean {
    return this.kind === STILL;
  }
  at(frame: Frames): number {
    if (this.kind === STILL) return this.from;
    if (this.kind === OTHER) return this.other(frame);
    let value: number;
    if (this.eased === 0) value = this.from + this.by * (frame - this.start);
    else {
      const share = (frame - this.start) * this.eased;
      value = this.from + this.by * (share * share * (3 - 2 * share));
    }
    if (this.kind === IN_DB) return amplitudeOf(value);
    return this.side === 0 ? value : pinGain((this.side * value) / 100, this.law);
  }
}
const NOTHING = () => 0;

export type Curve = {
  /** Fills in the stretch that a frame is in. */
  readonly seek: (frame: Frames, into: Stretch) => void;
  /** Its value at a frame: of levels an amplitude. It has no jumps. */
  readonly at: (frame: Frames) => number;
};

/** Frames over which a lane goes from one value to another where it steps. */
const STEP = PERIOD;

type Sums = Pick<Kernel, 'gainOf' | 'dbOf'>;

const asking = (seek: Curve['seek']): Curve => {
  const own = new Stretch();
  return {
    seek,
    at: (frame) => {
      if (!(frame >= own.begin && frame < own.end)) seek(frame, own);
      return own.at(frame);
    }
  };
};

/**
 * The curve of a lane's points, which are by time, one at least. Levels come out as amplitudes; `turned` of a switch is 1 where the lane
 * says 0. A step is a ramp of 64 frames, which the next point cuts short.
 */
export function curveOf(points: readonly Point[], scale: Scale, sums: Sums, turned = false): Curve {
  const level = scale === 'level';
  const at = Float64Array.from(points, (point) => point.at);
  /** What comes out at each point, and its dB where it is interpolated in dB. */
  const out = Float64Array.from(points, ({ value }) => (level ? sums.gainOf(value) : turned ? 1 - value : value));
  const logs = level ? Float64Array.from(points, ({ value }) => value) : scale === 'ratio' ? out.map((value) => sums.dbOf(value)) : null;
  const shapes = points.map(({ shape }) => (scale === 'steps' ? 'hold' : shape));
  const last = points.length - 1;

  const stands = (i: number) => i === last || shapes[i] === 'hold' || out[i] === out[i + 1];
  const inDb = (i: number) => logs !== null && logs[i] > -Infinity && logs[i + 1] > -Infinity;
  /** From a point to the next, without the ramp of a step at its beginning. */
  const along = (i: number, frame: Frames): number => {
    if (stands(i) || frame === at[i]) return out[i];
    const share = shaped(shapes[i], (frame - at[i]) / (at[i + 1] - at[i]));
    return inDb(i) ? amplitudeOf(logs![i] + (logs![i + 1] - logs![i]) * share) : out[i] + (out[i + 1] - out[i]) * share;
  };
  /** The point that was found last: most of the time the next question is about it too, or about the next one. */
  let near = 0;
  const within = (i: number, frame: Frames) => frame >= at[i] && (i === last || frame < at[i + 1]);
  const before = (frame: Frames): number => {
    if (within(near, frame)) return near;
    if (near < last && within(near + 1, frame)) return ++near;
    let [low, high] = [0, last + 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (at[middle] > frame) high = middle;
      else low = middle + 1;
    }
    near = Math.max(0, low - 1);
    return low - 1;
  };
  return asking((frame, into) => {
    const i = before(frame);
    if (i < 0) return into.still(-Infinity, at[0], out[0]);
    const next = i === last ? Infinity : at[i + 1];
    const steps = i > 0 && shapes[i - 1] === 'hold' && out[i - 1] !== out[i];
    const stepped = steps ? Math.min(at[i] + STEP, next) : at[i];
    if (frame < stepped) {
      const to = stepped === next && !stands(i) ? out[i + 1] : along(i, stepped);
      return into.moves(at[i], stepped, at[i], out[i - 1], to, 'even', false);
    }
    if (stands(i)) return into.still(stepped, next, out[i]);
    const db = inDb(i);
    const ends = db ? logs! : out;
    into.moves(stepped, next, at[i], ends[i], ends[i + 1], shapes[i] === 'eased' ? 'eased' : 'even', db);
  });
}

/** The gain of a side by a pin that a curve places; `law` is that of the middle, dB. */
export const pinned = (pin: Curve, side: -1 | 1, law: number, still: (place: number) => number): Curve =>
  asking((frame, into) => {
    pin.seek(frame, into);
    into.placed(side, law, still);
  });

/** A curve made of others, by what it is at a frame. */
export function made(of: readonly Curve[], value: (frame: Frames) => number): Curve {
  const own = of.map(() => new Stretch());
  return asking((frame, into) => {
    let [begin, end, still] = [-Infinity, Infinity, true];
    of.forEach((curve, i) => {
      const stretch = own[i];
      curve.seek(frame, stretch);
      begin = Math.max(begin, stretch.begin);
      end = Math.min(end, stretch.end);
      still &&= stretch.stands;
    });
    if (still) into.still(begin, end, value(frame));
    else into.made(begin, end, value);
  });
}

// Curves: what a gain or a value is at each frame of the timeline, of lanes and of what is made of them. A curve is a function of the
// position alone, so that a print, a play from the middle, a loop and a rewind give the same.
import type { Kernel } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import { shaped } from '../../lanes/course.ts';
import type { Scale } from '../../lanes/kinds.ts';
import type { PanLaw, Point } from '../../session/entities.ts';
import type { Frames } from '../../units.ts';

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
  /** Of one that moves: what it is at `start`, and by how much it goes on a frame. */
  from = 0;
  by = 0;
  start = 0;
  /** 1 / length of an eased stretch; 0 of one that is not. */
  private eased = 0;
  /** Of a pin: which side it is for and its law, as the kernel names them; −1 of one that is none. */
  which = -1;
  private pin: Sums['pinOf'] = NOTHING;
  private amplitude: Sums['amplitudeOf'] = NOTHING;
  /** Evenly in dB: the multiple of 64 that was asked for last, what it is there, and by what it grows to the next. */
  private grid: Frames = NaN;
  private worth = 0;
  ratio = 1;
  private other: (frame: Frames) => number = NOTHING;

  still(begin: Frames, end: Frames, value: number): void {
    this.begin = begin;
    this.end = end;
    this.kind = STILL;
    this.from = value;
    this.which = -1;
  }
  /** From one value to another between `start` and the end, of which [begin, end) is a part. */
  moves(begin: Frames, end: Frames, start: Frames, from: number, to: number, shape: 'even' | 'eased', inDb: Sums | null): void {
    const length = end - start;
    this.begin = begin;
    this.end = end;
    this.kind = inDb ? IN_DB : EVEN;
    this.from = from;
    this.start = start;
    this.which = -1;
    this.eased = shape === 'eased' ? 1 / length : 0;
    this.by = shape === 'eased' ? to - from : (to - from) / length;
    this.grid = NaN;
    if (inDb) {
      this.amplitude = inDb.amplitudeOf;
      this.ratio = inDb.amplitudeOf(this.by * PERIOD);
    }
  }
  made(begin: Frames, end: Frames, of: (frame: Frames) => number): void {
    this.begin = begin;
    this.end = end;
    this.kind = OTHER;
    this.other = of;
    this.which = -1;
  }
  /** What it says is a pin's place, of which a side's gain is wanted. */
  placed(which: number, sums: Sums, still: (place: number) => number): void {
    if (this.kind === STILL) this.from = still(this.from);
    else {
      this.which = which;
      this.pin = sums.pinOf;
    }
  }
  get stands(): boolean {
    return this.kind === STILL;
  }
  /** How it goes from one multiple of 64 to the next; `asked` is in no way that can be said. */
  get steady(): 'still' | 'even' | 'ratio' | 'pin' | 'asked' {
    if (this.kind === STILL) return 'still';
    if (this.eased !== 0 || this.kind === OTHER) return 'asked';
    return this.kind === IN_DB ? 'ratio' : this.which >= 0 ? 'pin' : 'even';
  }
  at(frame: Frames): number {
    if (this.kind !== IN_DB || this.eased !== 0) return this.anywhere(frame);
    const cells = frame / PERIOD;
    return cells === Math.floor(cells) ? this.onGrid(frame) : this.anywhere(frame);
  }
  /**
   * At a multiple of 64: evenly in dB each is the one before times a ratio, counted anew from every 1024th on, so that it is the same
   * bits from wherever one comes.
   */
  private onGrid(frame: Frames): number {
    if (frame !== this.grid) {
      const first = Math.max(Math.floor(frame / ANCHORS) * ANCHORS, Math.ceil(this.begin / PERIOD) * PERIOD);
      const near = this.grid >= first && this.grid < frame;
      let here = near ? this.grid : first;
      let value = near ? this.worth : this.amplitude(this.from + this.by * (first - this.start));
      for (; here < frame; here += PERIOD) value *= this.ratio;
      this.grid = frame;
      this.worth = value;
    }
    return this.worth;
  }
  private anywhere(frame: Frames): number {
    if (this.kind === STILL) return this.from;
    if (this.kind === OTHER) return this.other(frame);
    let value: number;
    if (this.eased === 0) value = this.from + this.by * (frame - this.start);
    else {
      const share = (frame - this.start) * this.eased;
      value = this.from + this.by * (share * share * (3 - 2 * share));
    }
    if (this.kind === IN_DB) return this.amplitude(value);
    return this.which < 0 ? value : this.pin(value, this.which);
  }
}
/** Multiples of 64 from which amplitudes are counted on. */
export const ANCHORS = 16 * PERIOD;
const NOTHING = () => 0;

export type Curve = {
  /** Fills in the stretch that a frame is in. */
  readonly seek: (frame: Frames, into: Stretch) => void;
  /** Its value at a frame: of levels an amplitude. It has no jumps. */
  readonly at: (frame: Frames) => number;
};

/** Frames over which a lane goes from one value to another where it steps. */
const STEP = PERIOD;

type Sums = Pick<Kernel, 'gainOf' | 'dbOf' | 'panLeft' | 'pinOf' | 'amplitudeOf'>;

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
    return inDb(i) ? sums.amplitudeOf(logs![i] + (logs![i + 1] - logs![i]) * share) : out[i] + (out[i + 1] - out[i]) * share;
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
      return into.moves(at[i], stepped, at[i], out[i - 1], to, 'even', null);
    }
    if (stands(i)) return into.still(stepped, next, out[i]);
    const db = inDb(i);
    const ends = db ? logs! : out;
    into.moves(stepped, next, at[i], ends[i], ends[i + 1], shapes[i] === 'eased' ? 'eased' : 'even', db ? sums : null);
  });
}

/** The gain of a side by a pin that a curve places; `law` is that of the middle, dB. */
export const pinned = (pin: Curve, side: 'left' | 'right', law: PanLaw, sums: Sums): Curve => {
  const which = 2 * LAWS.indexOf(law) + (side === 'left' ? 0 : 1);
  const still = (place: number) => sums.panLeft((side === 'left' ? place : -place) / 100, law);
  return asking((frame, into) => {
    pin.seek(frame, into);
    into.placed(which, sums, still);
  });
};
/** In the kernel's order. */
const LAWS: readonly PanLaw[] = [0, -3, -4.5, -6];

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

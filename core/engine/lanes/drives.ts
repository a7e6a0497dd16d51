// Gains that follow curves. Each is worked out at points and at multiples of 64 timeline frames and is linear between: most periods are one
// such stretch, a ramp to the kernel; where they are not, it gets 64 gains. Either way a frame of the timeline is the same bits.
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';
import { FILL_BYTES } from '../compile.ts';
import type { Plan } from '../plan/plan.ts';
import { RAMP_PERIODS, type Ramp } from '../ramps.ts';
import { Stretch, type Curve } from './curve.ts';
import type { Piece, Where } from './where.ts';

/** What a gain follows: the product of curves, and of a factor that does not move. */
export type Course = { readonly factor: number; readonly curves: readonly Curve[] };

/** A curve as stages read it that are equally late: what it is where the period begins and where it ends. */
class Reader {
  now = 0;
  next = 0;
  /** Whether it bends within the period. */
  bent = false;
  users = 0;
  readonly curve: Curve;
  /** The frame that `next` is of. */
  private reached = NaN;
  /** The stretch that the period begins in, and the one after it. */
  private stretch = new Stretch();
  private then = new Stretch();
  constructor(curve: Curve) {
    this.curve = curve;
  }
  /** Over [from, from + 64), `from` a multiple of 64. */
  read(from: Frames): void {
    const to = from + PERIOD;
    if (!(from >= this.stretch.begin && from < this.stretch.end)) this.seek(from);
    this.now = this.reached === from ? this.next : this.stretch.at(from);
    this.bent = this.stretch.end < to;
    if (this.bent) this.curve.seek(this.stretch.end, this.then);
    this.next = this.at(to);
    this.reached = to;
  }
  private seek(frame: Frames): void {
    const { then } = this;
    if (frame >= then.begin && frame < then.end) {
      this.then = this.stretch;
      this.stretch = then;
    } else this.curve.seek(frame, this.stretch);
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
}

/** By how much a gain is still off its course, from when the course became another: it goes in whole periods, as ramps do. */
type Offset = { value: number; left: number };

type Drive = {
  readonly ramp: Ramp;
  readonly cell: number;
  readonly buffer: number;
  readonly offset: Offset;
  course: Course;
  readers: readonly Reader[];
};

/** All that is read equally late; the lists are made anew when something came or went. */
type Group = {
  readonly late: Frames;
  readonly readers: Map<Curve, Reader>;
  readonly drives: Set<Drive>;
  lists: { readonly readers: readonly Reader[]; readonly drives: readonly Drive[] } | null;
};

export type Drives = {
  /** A gain follows a course from the next period on, or none any more; false where there is no room for one more. */
  readonly aim: (key: string, course: Course | null, rendered: Frames, snap: boolean) => boolean;
  /** What gains that follow courses are at the beginning of the next period. */
  readonly heard: (rendered: Frames) => Iterable<readonly [key: string, gain: number]>;
  /** Writes the coming period's gains. */
  readonly advance: (rendered: Frames) => void;
  /** What changes by itself, for the journal; and of one gain, null where it follows nothing. */
  readonly moving: () => Iterable<object>;
  readonly offsetOf: (key: string) => object | null;
  /** Whether an object is one of those. */
  readonly owns: (object: object) => boolean;
};

const floor = (frame: Frames): Frames => Math.floor(frame / PERIOD) * PERIOD;

function valueOf({ course: { factor }, readers }: Pick<Drive, 'course' | 'readers'>, frame: Frames): number {
  let value = factor;
  for (let i = 0; i < readers.length; i++) value *= readers[i].at(frame);
  return value;
}
/** The first frame after one at which something of it bends, or the next multiple of 64. */
function bendOf({ readers }: Drive, frame: Frames): Frames {
  let least = floor(frame) + PERIOD;
  for (let i = 0; i < readers.length; i++) least = Math.min(least, readers[i].end(frame));
  return least;
}

export function createDrives(plan: Plan, where: Where, behind: Frames): Drives {
  const { f32, i32, kernel, lanes } = plan;
  const byKey = new Map<string, { readonly drive: Drive; readonly group: Group }>();
  const groups = new Map<Frames, Group>();
  const offsets = new WeakSet<object>();
  /** Buffers that no gain has. */
  const free = Array.from({ length: lanes.count }, (_, i) => lanes.at + (lanes.count - 1 - i) * PERIOD * 4);
  let filled = 0;

  const flush = () => {
    if (filled > 0) kernel.fillGains(lanes.table, filled);
    filled = 0;
  };
  /** Gains of a cell from its `first` frame on: `start` + `step` a frame. */
  const fill = (to: number, count: number, first: number, start: number, step: number, adds: 0 | 1) => {
    if (filled === lanes.fills) flush();
    const at = (lanes.table + filled * FILL_BYTES) >> 2;
    i32[at] = to;
    i32[at + 1] = count;
    f32[at + 2] = first;
    f32[at + 3] = start;
    f32[at + 4] = step;
    i32[at + 5] = adds;
    filled += 1;
  };

  const play = (drive: Drive, from: Frames, count: Frames, to: number) => {
    const end = from + count;
    let left = floor(from);
    let right = bendOf(drive, left);
    while (right <= from) {
      left = right;
      right = bendOf(drive, left);
    }
    let start = valueOf(drive, left);
    for (let here = from; ;) {
      const next = valueOf(drive, right);
      const stop = Math.min(right, end);
      fill(to + (here - from) * 4, stop - here, here - left, start, (next - start) / (right - left), 0);
      if (stop === end) return;
      here = stop;
      left = right;
      right = bendOf(drive, left);
      start = next;
    }
  };
  /** What a course is at the beginning of a period. */
  const nowOf = (drive: Pick<Drive, 'course' | 'readers'>, late: Frames, rendered: Frames): number => {
    const [piece] = where.period(rendered - late);
    if (piece.kind === 'play') return valueOf(drive, piece.from);
    const began = valueOf(drive, piece.left);
    return began + ((valueOf(drive, piece.to) - began) * piece.into) / PERIOD;
  };

  /** A period of which gains are given one by one. */
  const each = (drive: Drive, pieces: readonly Piece[]) => {
    const { buffer, cell, offset } = drive;
    let to = buffer;
    for (const piece of pieces) {
      if (piece.kind === 'play') play(drive, piece.from, piece.count, to);
      else {
        const began = valueOf(drive, piece.left);
        fill(to, piece.count, piece.into, began, (valueOf(drive, piece.to) - began) / PERIOD, 0);
      }
      to += piece.count * 4;
    }
    if (offset.left > 0) {
      const next = offset.left > 1 ? offset.value - offset.value / offset.left : 0;
      fill(buffer, PERIOD, 0, offset.value, (next - offset.value) / PERIOD, 1);
      offset.value = next;
      offset.left -= 1;
    }
    i32[cell] = buffer;
    f32[cell + 1] = NaN;
  };

  const advanceGroup = (group: Group, rendered: Frames) => {
    const pieces = where.period(rendered - group.late);
    const [first] = pieces;
    const { readers, drives } = (group.lists ??= { readers: [...group.readers.values()], drives: [...group.drives] });
    if (first.kind !== 'play' || first.count !== PERIOD || first.from !== floor(first.from)) {
      for (const drive of drives) each(drive, pieces);
      return;
    }
    const { from } = first;
    for (let i = 0; i < readers.length; i++) readers[i].read(from);
    for (let i = 0; i < drives.length; i++) {
      const drive = drives[i];
      const { factor } = drive.course;
      const own = drive.readers;
      let now = factor;
      let next = factor;
      let bent = drive.offset.left > 0;
      for (let n = 0; n < own.length; n++) {
        const reader = own[n];
        now *= reader.now;
        next *= reader.next;
        bent ||= reader.bent;
      }
      if (bent) each(drive, pieces);
      else {
        f32[drive.cell] = now;
        f32[drive.cell + 1] = (next - now) / PERIOD;
      }
    }
  };

  const groupOf = (late: Frames): Group => {
    let group = groups.get(late);
    if (!group) groups.set(late, (group = { late, readers: new Map(), drives: new Set(), lists: null }));
    return group;
  };
  const readersOf = ({ readers }: Group, { curves }: Course): Reader[] =>
    curves.map((curve) => {
      let reader = readers.get(curve);
      if (!reader) readers.set(curve, (reader = new Reader(curve)));
      reader.users += 1;
      return reader;
    });
  const leave = ({ readers }: Group, used: readonly Reader[]) => {
    for (const reader of used) if (--reader.users === 0) readers.delete(reader.curve);
  };

  /** It goes to its course from what it was; null: it is there at once. */
  const off = (drive: Drive, from: number | null, late: Frames, rendered: Frames) => {
    const value = from === null ? 0 : from - nowOf(drive, late, rendered);
    Object.assign(drive.offset, { value, left: value === 0 ? 0 : RAMP_PERIODS });
  };
  return {
    aim: (key, course, rendered, snap) => {
      const known = byKey.get(key);
      if (known) {
        const { drive, group } = known;
        const was = nowOf(drive, group.late, rendered);
        group.lists = null;
        leave(group, drive.readers);
        if (!course) {
          const { ramp } = drive;
          // From here on it is a ramp again, from what it is now.
          ramp.value = ramp.target = was + drive.offset.value;
          ramp.left = 0;
          plan.ramps.wake(ramp);
          free.push(drive.buffer);
          byKey.delete(key);
          group.drives.delete(drive);
          return true;
        }
        drive.course = course;
        drive.readers = readersOf(group, course);
        // Where it is the same course still, it goes on as it was.
        if (snap) off(drive, null, group.late, rendered);
        else if (was !== nowOf(drive, group.late, rendered)) off(drive, was + drive.offset.value, group.late, rendered);
        return true;
      }
      const ramp = plan.ramps.get(key);
      if (!ramp || !course) return true;
      const buffer = free.pop();
      if (buffer === undefined) return false;
      const group = groupOf((plan.late.get(key) ?? 0) + behind);
      const drive = { ramp, cell: ramp.at >> 2, course, buffer, offset: { value: 0, left: 0 }, readers: readersOf(group, course) };
      byKey.set(key, { drive, group });
      group.drives.add(drive);
      group.lists = null;
      offsets.add(drive.offset);
      if (!snap) off(drive, ramp.value, group.late, rendered);
      return true;
    },
    *heard(rendered) {
      for (const [key, { drive, group }] of byKey) yield [key, nowOf(drive, group.late, rendered) + drive.offset.value];
    },
    advance: (rendered) => {
      for (const group of groups.values()) if (group.drives.size > 0) advanceGroup(group, rendered);
      flush();
    },
    *moving() {
      for (const { drive } of byKey.values()) if (drive.offset.left > 0) yield drive.offset;
    },
    offsetOf: (key) => byKey.get(key)?.drive.offset ?? null,
    owns: (object) => offsets.has(object)
  };
}

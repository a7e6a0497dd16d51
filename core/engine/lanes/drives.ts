// Gains that follow curves. Each is worked out at points and at multiples of 64 timeline frames and is linear between: most periods are one
// such stretch, a ramp that the kernel makes by itself; where they are not, it is given 64 gains. Either way a frame of the timeline is the
// same bits.
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';
import { FILL_BYTES, LANE_CURVES as MOST } from '../compile.ts';
import type { Plan } from '../plan/plan.ts';
import { RAMP_PERIODS } from '../ramps.ts';
import { groupMemory, type Course, type Drive, type Group, type Placed } from './group.ts';
import { Reader } from './readers.ts';
import type { Piece, Where } from './where.ts';

export type Drives = {
  /** A gain follows a course from the next period on, or none any more; false where there is no room for one more. */
  readonly aim: (key: string, course: Course | null, rendered: Frames, snap: boolean) => boolean;
  /** What gains that follow courses are at the beginning of the next period. */
  readonly heard: (rendered: Frames) => Iterable<readonly [key: string, gain: number]>;
  /** The plan was put back: what lies in the kernel's memory is none of that time. */
  readonly again: () => void;
  /** Writes the coming period's gains. */
  readonly advance: (rendered: Frames) => void;
  /** What changes by itself, for the journal; and of one gain, null where it follows nothing. */
  readonly moving: () => Iterable<object>;
  readonly offsetOf: (key: string) => object | null;
  /** Looks at one of these again that was put back to what it was; false where it is none. */
  readonly wake: (object: object) => boolean;
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

/** `behind`: frames by which all of it is read later than its stages are late. */
export function createDrives(plan: Plan, where: Where, behind: Frames): Drives {
  const { f32, i32, kernel, lanes } = plan;
  const memory = groupMemory(plan);
  const byKey = new Map<string, { readonly drive: Drive; readonly group: Group }>();
  const groups = new Map<Frames, Group>();
  const offsets = new WeakMap<object, Drive>();
  /** Those that are off their courses. */
  const gliding = new Set<Drive>();
  /** Whether what lies in the kernel's memory is what there is. */
  let stands = false;
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

  /** Whether a drive is worked out here for now. */
  const mark = (drive: Drive) => {
    const glides = drive.offset.left > 0;
    if (drive.own > 0) i32[drive.own] = glides || drive.readers.length > MOST ? 1 : 0;
    if (glides) gliding.add(drive);
    else gliding.delete(drive);
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
      if (offset.left === 0) mark(drive);
    }
    i32[cell] = buffer;
    f32[cell + 1] = NaN;
  };

  const advanceGroup = (group: Group, placed: Placed, rendered: Frames) => {
    const pieces = where.period(rendered - group.late);
    const [first] = pieces;
    if (first.kind !== 'play' || first.count !== PERIOD || first.from !== floor(first.from)) {
      group.reached = NaN;
      for (const drive of group.drives) each(drive, pieces);
      return;
    }
    const own = memory.advance(group, placed, first.from);
    for (let n = 0; n < own; n++) each(memory.asked(placed, n), pieces);
  };

  const groupOf = (late: Frames): Group => {
    let group = groups.get(late);
    if (!group) groups.set(late, (group = { late, readers: new Map(), drives: new Set(), placed: null, reached: NaN }));
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
    mark(drive);
  };
  return {
    aim: (key, course, rendered, snap) => {
      const known = byKey.get(key);
      if (known) {
        const { drive, group } = known;
        const was = nowOf(drive, group.late, rendered);
        leave(group, drive.readers);
        stands = false;
        if (!course) {
          const { ramp } = drive;
          // From here on it is a ramp again, from what it is now.
          ramp.value = ramp.target = was + drive.offset.value;
          ramp.left = 0;
          plan.ramps.wake(ramp);
          free.push(drive.buffer);
          byKey.delete(key);
          group.drives.delete(drive);
          gliding.delete(drive);
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
      const readers = readersOf(group, course);
      const drive: Drive = { ramp, cell: ramp.at >> 2, course, buffer, offset: { value: 0, left: 0 }, readers, own: 0 };
      byKey.set(key, { drive, group });
      group.drives.add(drive);
      offsets.set(drive.offset, drive);
      stands = false;
      if (!snap) off(drive, ramp.value, group.late, rendered);
      return true;
    },
    *heard(rendered) {
      for (const [key, { drive, group }] of byKey) yield [key, nowOf(drive, group.late, rendered) + drive.offset.value];
    },
    again: () => (stands = false),
    advance: (rendered) => {
      if (byKey.size === 0) return;
      if (!stands) memory.place(groups.values(), mark);
      stands = true;
      for (const group of groups.values()) if (group.placed && group.drives.size > 0) advanceGroup(group, group.placed, rendered);
      flush();
    },
    *moving() {
      for (const { offset } of gliding) yield offset;
    },
    offsetOf: (key) => byKey.get(key)?.drive.offset ?? null,
    wake: (object) => {
      const drive = offsets.get(object);
      if (drive) mark(drive);
      return drive !== undefined;
    }
  };
}

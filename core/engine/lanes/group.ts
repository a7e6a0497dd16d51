// Gains that are read equally late, and the curves that they follow, as they lie in the kernel's memory. Most rest most of the time, so the
// kernel goes through lists of those that move: it strikes off what comes to rest, and here that is entered again when its stretch ends.
import { constantsOf } from '../../kernel/kernel.ts';
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';
import { LANE_CURVES as MOST } from '../compile.ts';
import type { Plan } from '../plan/plan.ts';
import type { Ramp } from '../ramps.ts';
import { ANCHORS, type Curve } from './curve.ts';
import { readerMemory, type Reader } from './readers.ts';

/** What a gain follows: the product of curves, and of a factor that does not move. */
export type Course = { readonly factor: number; readonly curves: readonly Curve[] };

/** By how much a gain is still off its course, from when the course became another: it goes in whole periods, as ramps do. */
export type Offset = { value: number; left: number };

export type Drive = {
  readonly ramp: Ramp;
  readonly cell: number;
  readonly buffer: number;
  readonly offset: Offset;
  course: Course;
  readers: readonly Reader[];
  /** Word of the kernel's memory that says whether it is worked out by the host; 0 before it has a place. */
  own: number;
};

/** Words of a drive's place after that one: whether it is in the list of those that move; where its gains are. */
const [LISTED, GAINS] = [1, 2];

/** Bytes of a line of the machine's cache. */
const LINE = 64;

/** All that is read equally late. */
export type Group = {
  readonly late: Frames;
  readonly readers: Map<Curve, Reader>;
  readonly drives: Set<Drive>;
  /** As they lie side by side in the kernel's memory; null before they do. */
  placed: Placed | null;
  /** The frame that its readers were read up to. */
  reached: Frames;
};

export type Placed = {
  readonly readers: readonly Reader[];
  readonly drives: readonly Drive[];
  /** Of each reader, which drives follow it. */
  readonly followers: readonly (readonly number[])[];
  /** Readers that rest, by the period in which they are to be looked at again. */
  readonly resting: Map<number, number[]>;
  readonly readersAt: number;
  readonly drivesAt: number;
  /** Words of the two lists: how many, then which. */
  readonly readerList: number;
  readonly driveList: number;
};

export type GroupMemory = {
  /** Gives all groups their places; `standing` is told of each drive that has one. */
  readonly place: (groups: Iterable<Group>, standing: (drive: Drive) => void) => void;
  /** Goes on over a period that begins at a frame; answers how many drives are the host's to work out, which `asked` names. */
  readonly advance: (group: Group, placed: Placed, from: Frames) => number;
  readonly asked: (placed: Placed, nth: number) => Drive;
};

export function groupMemory({ f32, i32, kernel, lanes }: Plan): GroupMemory {
  const f64 = new Float64Array(f32.buffer);
  const [{ bytes: readerBytes }, { bytes: driveBytes }] = [
    constantsOf(kernel, 'READER', ['bytes']),
    constantsOf(kernel, 'DRIVE', ['bytes'])
  ];
  /** A reader of what is 1 for good; it and all others in lines of their own. */
  const unity = Math.ceil(lanes.state / LINE) * LINE;
  const readersFrom = unity + readerBytes;
  const middles = readersFrom + lanes.count * MOST * readerBytes;
  const mids = middles - (readersFrom >> 3);
  const memory = readerMemory(kernel, f64, i32, mids);
  const drivesFrom = middles + lanes.count * MOST * 8;
  const asked = drivesFrom + lanes.count * driveBytes;
  const listsFrom = (asked >> 2) + lanes.count * MOST;

  const enter = (list: number, index: number) => (i32[list + ++i32[list]] = index);
  const moves = ({ drives, driveList }: Placed, index: number) => {
    const listed = drives[index].own + LISTED;
    if (i32[listed]) return;
    i32[listed] = 1;
    enter(driveList, index);
  };
  const read = ({ readers, readersAt, resting }: Placed, index: number, from: Frames) => {
    const period = memory.write(readers[index], readersAt + index * readerBytes, from);
    if (Number.isNaN(period)) return;
    const others = resting.get(period);
    if (others) others.push(index);
    else resting.set(period, [index]);
  };
  /** All of it is read anew, wherever it stood. */
  const begin = (placed: Placed, from: Frames) => {
    placed.resting.clear();
    i32[placed.readerList] = 0;
    placed.readers.forEach((_, i) => {
      enter(placed.readerList, i);
      read(placed, i, from);
    });
    placed.drives.forEach((_, i) => moves(placed, i));
  };
  const goOn = (placed: Placed, from: Frames) => {
    const { followers, readersAt, readerList, resting } = placed;
    const woken = resting.get(from / PERIOD);
    if (woken) {
      resting.delete(from / PERIOD);
      for (const index of woken) enter(readerList, index);
    }
    const to = from + PERIOD;
    const waiting = kernel.readOn(readersAt, readerList * 4, to, to % ANCHORS === 0, asked);
    for (let n = 0; n < waiting; n++) {
      const index = i32[(asked >> 2) + n];
      read(placed, index, from);
      for (const drive of followers[index]) moves(placed, drive);
    }
  };

  return {
    place: (groups, standing) => {
      let [readersAt, drivesAt, list] = [readersFrom, drivesFrom, listsFrom];
      f64.fill(1, unity >> 3, (unity >> 3) + 2);
      for (const group of groups) {
        const drives = [...group.drives];
        if (drives.length === 0) continue;
        // The host reads by itself what is a product of too many: there is room for so many readers a drive.
        const kept = drives.map((drive) => (drive.readers.length > MOST ? [] : drive.readers));
        const readers = [...new Set(kept.flat())];
        const followers = readers.map((): number[] => []);
        const [readerList, driveList] = [list, list + 1 + readers.length];
        list = driveList + 1 + drives.length;
        group.placed = { readers, drives, followers, resting: new Map(), readersAt, drivesAt, readerList, driveList };
        group.reached = NaN;
        i32[driveList] = 0;
        readers.forEach((reader, i) => (reader.index = i));
        drives.forEach((drive, i) => {
          f64[drivesAt >> 3] = drive.course.factor;
          const word = drivesAt >> 2;
          i32[word + 2] = drive.ramp.at;
          i32.fill(unity, word + 3, word + 3 + MOST);
          kept[i].forEach(({ index }, n) => {
            i32[word + 3 + n] = readersAt + index * readerBytes;
            followers[index].push(i);
          });
          drive.own = word + 3 + MOST;
          i32[drive.own + LISTED] = 0;
          i32[drive.own + GAINS] = drive.buffer;
          standing(drive);
          drivesAt += driveBytes;
        });
        readersAt += readers.length * readerBytes;
      }
    },
    advance: (group, placed, from) => {
      if (group.reached === from) goOn(placed, from);
      else begin(placed, from);
      group.reached = from + PERIOD;
      return kernel.driveOn(placed.drivesAt, placed.driveList * 4, from, mids, asked);
    },
    asked: ({ drives }, nth) => drives[i32[(asked >> 2) + nth]]
  };
}

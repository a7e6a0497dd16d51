// Where on the timeline a rendered frame lies: a journal of the jumps that a loop makes, so that a stage that is late can say what was
// rendered so many frames before.
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';

/** Jumps remembered: loops are 256 frames at least, so that these reach further back than anything is late. */
const KEPT = 512;

type Jump = { readonly rendered: Frames; readonly left: Frames; readonly to: Frames };

/** A stretch of rendered frames on the timeline; over a jump's first period gains go from what they were where it left to what they become. */
export type Piece =
  | { readonly kind: 'play'; readonly from: Frames; readonly count: Frames }
  | { readonly kind: 'jump'; readonly left: Frames; readonly to: Frames; readonly into: Frames; readonly count: Frames };

export type Where = {
  /** Rendering starts at a position. */
  readonly start: (position: Frames) => void;
  /** At a rendered frame the position became another than it would have been; later jumps are forgotten. */
  readonly jump: (rendered: Frames, left: Frames, to: Frames) => void;
  /** Forgets jumps after a rendered frame: it is rendered again from there. */
  readonly back: (rendered: Frames) => void;
  /** Position of a rendered frame, also before the first. */
  readonly at: (rendered: Frames) => Frames;
  /** The pieces of a period that begins at a rendered frame. */
  readonly period: (rendered: Frames) => readonly Piece[];
};

export function createWhere(): Where {
  let start: Frames = 0;
  let jumps: Jump[] = [];
  const before = (rendered: Frames): number => {
    let i = jumps.length - 1;
    while (i >= 0 && jumps[i].rendered > rendered) i--;
    return i;
  };
  const at = (rendered: Frames): Frames => {
    const jump = jumps[before(rendered)];
    return jump ? jump.to + rendered - jump.rendered : start + rendered;
  };
  return {
    start: (position) => {
      start = position;
      jumps = [];
    },
    jump: (rendered, left, to) => {
      jumps.push({ rendered, left, to });
      if (jumps.length <= KEPT) return;
      const gone = jumps[jumps.length - KEPT - 1];
      start = gone.to - gone.rendered;
      jumps = jumps.slice(-KEPT);
    },
    back: (rendered) => {
      while (jumps.length && jumps[jumps.length - 1].rendered > rendered) jumps.pop();
    },
    at,
    period: (rendered) => {
      const end = rendered + PERIOD;
      if (jumps.length === 0) return [{ kind: 'play', from: start + rendered, count: PERIOD }];
      const pieces: Piece[] = [];
      for (let here = rendered; here < end;) {
        const i = before(here);
        const jump = jumps[i];
        const until = Math.min(end, jumps[i + 1]?.rendered ?? Infinity);
        if (jump && here < jump.rendered + PERIOD) {
          const count = Math.min(until, jump.rendered + PERIOD) - here;
          pieces.push({ kind: 'jump', left: jump.left, to: jump.to + PERIOD, into: here - jump.rendered, count });
          here += count;
        } else {
          pieces.push({ kind: 'play', from: at(here), count: until - here });
          here = until;
        }
      }
      return pieces;
    }
  };
}

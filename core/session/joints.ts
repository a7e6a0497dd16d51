// Where clips of a track meet: which of them fill the same side, where one goes on where another stops, and where two cross.
import type { Clip } from './entities.ts';
import type { Frames } from '../units.ts';

/** The first timeline frame after a clip. */
export const clipEnd = ({ start, length }: Clip): Frames => start + length;

/** The sides that a clip fills: 0 left, 1 right; of a mono track 0. */
export const sidesOf = ({ side }: Clip): readonly (0 | 1)[] => (side === 'both' ? [0, 1] : side === 'left' ? [0] : [1]);

/** Whether two clips of one track fill a side in common. */
export const share = (a: Clip, b: Clip): boolean => a.side === 'both' || b.side === 'both' || a.side === b.side;

/** By time: the earlier first, of two that begin together the shorter. */
export const byTime = (a: Clip, b: Clip): number => a.start - b.start || a.length - b.length || (a.id < b.id ? -1 : 1);

/** Whether two clips play one recording so that both would say the same at the same frame: pieces of one. */
export const inStep = (a: Clip, b: Clip): boolean =>
  a.mediaId === b.mediaId && a.channel === b.channel && a.side === b.side && a.start - a.offset === b.start - b.offset;

/**
 * Whether the earlier `a` crosses over into `b`: they overlap, and both fades are as long as the overlap.
 * Only clips of the same side cross.
 */
export const crosses = (a: Clip, b: Clip): boolean => {
  const overlap = clipEnd(a) - b.start;
  return overlap > 0 && a.side === b.side && a.start < b.start && clipEnd(a) < clipEnd(b) && a.fadeOut === overlap && b.fadeIn === overlap;
};

/** Whether `b` begins where `a` stops and goes on with its recording, neither fading there. */
export const goesOn = (a: Clip, b: Clip): boolean => clipEnd(a) === b.start && a.fadeOut === 0 && b.fadeIn === 0 && inStep(a, b);

/** Whether two sound as one: one goes on where the other stops, or crosses into it, equally loud. */
export const asOne = (a: Clip, b: Clip): boolean =>
  a.gainDb === b.gainDb && !a.muted && !b.muted && (goesOn(a, b) || (crosses(a, b) && inStep(a, b)));

/** The first two clips of a track that lie over each other without crossing, of a list by time; or null. */
export function overlapIn(clips: readonly Clip[]): readonly [Clip, Clip] | null {
  // The last two of each side: a clip meets the one before it, and may not reach the one before that.
  const last: (Clip | undefined)[][] = [[], []];
  for (const clip of clips)
    for (const side of sidesOf(clip)) {
      const [before, earlier] = last[side];
      if (before && clipEnd(before) > clip.start && !crosses(before, clip)) return [before, clip];
      if (earlier && clipEnd(earlier) > clip.start) return [earlier, clip];
      last[side] = [clip, before];
    }
  return null;
}

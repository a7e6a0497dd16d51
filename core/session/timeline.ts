// Clips by time: of each channel in the order in which they sound, found by halving and not by looking through.
import { settingsOf, type Clip, type Session } from './entities.ts';
import { fact, known } from './facts.ts';
import { byTime, clipEnd } from './joints.ts';
import { rowsBy } from './lookup.ts';
import type { Frames } from '../units.ts';

/** The clips of a channel by time: those of its left side or of both, and those of its right side alone. No two of a list end out of order. */
type Lists = readonly [readonly Clip[], readonly Clip[]];

/** Filled as somebody asks: an edit changes the clips of few tracks. */
const lists = fact(['clips'], () => new Map<string, Lists>());

function listsOf(session: Session, channelId: string): Lists {
  const made = known(session, lists);
  let own = made.get(channelId);
  if (!own) {
    const clips = rowsBy(session, 'clip', 'channelId', channelId).sort(byTime);
    own = clips.some(({ side }) => side === 'right')
      ? [clips.filter(({ side }) => side !== 'right'), clips.filter(({ side }) => side === 'right')]
      : [clips, []];
    made.set(channelId, own);
  }
  return own;
}

/** Where in a list ordered by end the first is that ends after a frame: O(log n). `firstAfter(ends, 4800, (end) => end)` */
export function firstAfter<T>(list: readonly T[], frame: Frames, endOf: (item: T) => Frames): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (endOf(list[middle]) > frame) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** A channel's clips in the order of time, both sides together. */
export function clipsInTime(session: Session, channelId: string): readonly Clip[] {
  const own = listsOf(session, channelId);
  return own[1].length ? [...own[0], ...own[1]].sort(byTime) : own[0];
}

/** Channels that have clips. */
export const channelsWithClips = (session: Session): ReadonlySet<string> =>
  new Set([...session.clip.values()].map(({ channelId }) => channelId));

/** A channel's clips that lie wholly or in part from `from` to before `to`. `clipsWithin(session, 'vox', 0, 48000)` */
export function clipsWithin(session: Session, channelId: string, from: Frames, to: Frames): Clip[] {
  const found: Clip[] = [];
  for (const list of listsOf(session, channelId))
    for (let i = firstAfter(list, from, clipEnd); i < list.length && list[i].start < to; i++) found.push(list[i]);
  return found;
}

/** Frames of the fade that an edge gets which an edit makes, and over which gains glide where pieces meet. */
export function edgeOf(session: Session): Frames {
  const { edgeMs, rate } = settingsOf(session);
  return Math.round((edgeMs * rate) / 1000);
}

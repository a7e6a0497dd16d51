// Edges that an edit makes and takes away: where clips begin or stop at once that did not before, and where pieces meet again. Only what
// changed, and what stands beside it, is looked at closely: a track may have thousands of clips.
import type { Clip } from '../session/entities.ts';
import { clipEnd, goesOn, inStep } from '../session/joints.ts';
import { SIDES } from '../session/tables/clip.ts';
import { edgeOf } from '../session/timeline.ts';
import { ownOf, put, type Lay } from './lay.ts';

type Which = 'in' | 'out';
/** Edges by what of a recording they show: looked up by its parts, as thousands of texts would cost more than all the rest. */
function edgeSet() {
  const byMedia = new Map<string, Map<number, Set<number>>>();
  const kindOf = ({ channel, side }: Clip, which: Which) => channel * 6 + SIDES.indexOf(side) * 2 + (which === 'in' ? 0 : 1);
  const offsetOf = (clip: Clip, which: Which) => clip.offset + (which === 'in' ? 0 : clip.length);
  return {
    add: (clip: Clip, which: Which): void => {
      let kinds = byMedia.get(clip.mediaId);
      if (!kinds) byMedia.set(clip.mediaId, (kinds = new Map()));
      const kind = kindOf(clip, which);
      const offsets = kinds.get(kind);
      if (offsets) offsets.add(offsetOf(clip, which));
      else kinds.set(kind, new Set([offsetOf(clip, which)]));
    },
    has: (clip: Clip, which: Which): boolean => byMedia.get(clip.mediaId)?.get(kindOf(clip, which))?.has(offsetOf(clip, which)) ?? false
  };
}

/** By clip, the one before it on its track and side, and the one after. */
type Beside = { readonly before: ReadonlyMap<Clip, Clip>; readonly after: ReadonlyMap<Clip, Clip> };
function besideOf(clips: Iterable<Clip>): Beside {
  const [before, after] = [new Map<Clip, Clip>(), new Map<Clip, Clip>()];
  const last = new Map<string, Map<string, Clip>>();
  for (const clip of clips) {
    let sides = last.get(clip.channelId);
    if (!sides) last.set(clip.channelId, (sides = new Map()));
    const other = sides.get(clip.side);
    if (other) {
      before.set(clip, other);
      after.set(other, clip);
    }
    sides.set(clip.side, clip);
  }
  return { before, after };
}
const neighbour = ({ before, after }: Beside, clip: Clip, which: Which): Clip | undefined => (which === 'in' ? before : after).get(clip);

/** Whether a clip begins, or stops, at once: neither fading nor going on in its neighbour. */
function isHard(beside: Beside, clip: Clip, which: Which): boolean {
  if ((which === 'in' ? clip.fadeIn : clip.fadeOut) !== 0) return false;
  const other = neighbour(beside, clip, which);
  return !other || !(which === 'in' ? goesOn(other, clip) : goesOn(clip, other));
}

export type EdgesBefore = {
  readonly beside: Beside;
  /** Whether a piece began there where one of the same recording stopped, whatever their fades were. */
  readonly joined: (clip: Clip) => boolean;
  /** Whether a hard edge showed the same of that recording. */
  readonly wasHard: (clip: Clip, which: Which) => boolean;
};

/** Made when it is first asked for: most edits ask little, and an edit over many tracks asks for each. */
function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | null = null;
  return () => (made ??= { value: make() }).value;
}

/** What the edges of a lay were before the edit. */
export function edgesBefore({ before }: Lay): EdgesBefore {
  // By time within each track, as a lay is filled.
  const rows = [...before.values()];
  const beside = besideOf(rows);
  const joints = once(() => {
    const found = edgeSet();
    for (const [b, a] of beside.before) if (clipEnd(a) === b.start && inStep(a, b)) found.add(b, 'in');
    return found;
  });
  const hard = once(() => {
    const found = edgeSet();
    for (const clip of rows) for (const which of ['in', 'out'] as const) if (isHard(beside, clip, which)) found.add(clip, which);
    return found;
  });
  return { beside, joined: (clip) => joints().has(clip, 'in'), wasHard: (clip, which) => hard().has(clip, which) };
}

/** Whether a clip or what stands beside it there is another than before. */
const moved = ({ before }: Lay, was: Beside, now: Beside, clip: Clip, which: Which): boolean =>
  before.get(clip.id) !== clip || neighbour(was, clip, which) !== neighbour(now, clip, which);

/** Pieces that meet again lose the edge fades that parting gave them. */
export function heal(lay: Lay, channelId: string, { beside: was, joined }: EdgesBefore): void {
  const edge = edgeOf(lay.session);
  const now = besideOf(ownOf(lay, channelId));
  for (const [b, a] of now.before) {
    if (!moved(lay, was, now, b, 'in') && !moved(lay, was, now, a, 'out')) continue;
    if (clipEnd(a) !== b.start || !inStep(a, b) || joined(b)) continue;
    const [from, to] = [lay.clips.get(a.id)!, lay.clips.get(b.id)!];
    if (from.fadeOut > edge || from.fadeOutCurve !== 'linear' || to.fadeIn > edge || to.fadeInCurve !== 'linear') continue;
    put(lay, { ...from, fadeOut: 0 });
    put(lay, { ...to, fadeIn: 0 });
  }
}

/** Edges that were not there before, or were none, get the session's edge fade, but for those that are meant to be as they are. */
export function soften(lay: Lay, channelId: string, { beside: was, wasHard }: EdgesBefore, meant: ReadonlySet<string>): void {
  const edge = edgeOf(lay.session);
  if (edge === 0) return;
  const own = ownOf(lay, channelId);
  const now = besideOf(own);
  const fresh = (clip: Clip, which: Which) =>
    moved(lay, was, now, clip, which) && !meant.has(`${clip.id} ${which}`) && isHard(now, clip, which) && !wasHard(clip, which);
  for (const clip of own) {
    const [begins, ends] = [fresh(clip, 'in'), fresh(clip, 'out')];
    if (!begins && !ends) continue;
    const room = clip.length - clip.fadeIn - clip.fadeOut;
    const each = Math.min(edge, begins && ends ? Math.floor(room / 2) : room);
    put(lay, {
      ...clip,
      ...(begins ? { fadeIn: each, fadeInCurve: 'linear' } : {}),
      ...(ends ? { fadeOut: each, fadeOutCurve: 'linear' } : {})
    });
  }
}

// Edges that an edit makes and takes away: where clips begin or stop at once that did not before, and where pieces meet again. Only what
// changed, and what stands beside it, is looked at closely: a track may have thousands of clips.
import type { Clip } from '../session/entities.ts';
import { clipEnd, goesOn, inStep } from '../session/joints.ts';
import { edgeOf } from '../session/timeline.ts';
import { ownOf, put, type Lay } from './lay.ts';

type Which = 'in' | 'out';
const offsetOf = (clip: Clip, which: Which): number => clip.offset + (which === 'in' ? 0 : clip.length);
/** What of a recording an edge shows. */
const keyOf = (clip: Clip, which: Which): string => `${clip.mediaId}\n${clip.channel} ${clip.side} ${which} ${offsetOf(clip, which)}`;

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
  /** Of edges that are hard now, those that show what was shown by a hard one before. */
  /** Whether a piece began there where one of the same recording stopped, whatever their fades were. */
  readonly joined: (clip: Clip) => boolean;
  readonly hardAmong: (edges: readonly (readonly [Clip, Which])[]) => ReadonlySet<string>;
};

/** What the edges of a lay were before the edit. */
export function edgesBefore({ before }: Lay): EdgesBefore {
  // By time within each track, as a lay is filled.
  const rows = [...before.values()];
  const beside = besideOf(rows);
  let joints: ReadonlySet<string> | null = null;
  const jointsThen = () =>
    new Set([...beside.before].flatMap(([b, a]) => (clipEnd(a) === b.start && inStep(a, b) ? [keyOf(b, 'in')] : [])));
  return {
    beside,
    joined: (clip) => (joints ??= jointsThen()).has(keyOf(clip, 'in')),
    hardAmong: (edges) => {
      const offsets = new Set(edges.map(([clip, which]) => offsetOf(clip, which)));
      const found = new Set<string>();
      for (const clip of rows)
        for (const which of ['in', 'out'] as const)
          if (offsets.has(offsetOf(clip, which)) && isHard(beside, clip, which)) found.add(keyOf(clip, which));
      return found;
    }
  };
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
export function soften(lay: Lay, channelId: string, { beside: was, hardAmong }: EdgesBefore, meant: ReadonlySet<string>): void {
  const edge = edgeOf(lay.session);
  if (edge === 0) return;
  const own = ownOf(lay, channelId);
  const now = besideOf(own);
  const fresh = (which: Which) =>
    own.filter((clip) => moved(lay, was, now, clip, which) && !meant.has(`${clip.id} ${which}`) && isHard(now, clip, which));
  const [into, out] = [fresh('in'), fresh('out')];
  if (!into.length && !out.length) return;
  const known = hardAmong([...into.map((clip) => [clip, 'in'] as const), ...out.map((clip) => [clip, 'out'] as const)]);
  const begin = new Set(into.filter((clip) => !known.has(keyOf(clip, 'in'))));
  const end = new Set(out.filter((clip) => !known.has(keyOf(clip, 'out'))));
  for (const clip of new Set([...begin, ...end])) {
    const room = clip.length - clip.fadeIn - clip.fadeOut;
    const each = Math.min(edge, begin.has(clip) && end.has(clip) ? Math.floor(room / 2) : room);
    put(lay, {
      ...clip,
      ...(begin.has(clip) ? { fadeIn: each, fadeInCurve: 'linear' } : {}),
      ...(end.has(clip) ? { fadeOut: each, fadeOutCurve: 'linear' } : {})
    });
  }
}

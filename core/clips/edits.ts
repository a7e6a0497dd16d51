// Edits of clips, each upon a lay: cut, trim, move, copy, cross, reunite. They say what does not go in words, and change nothing then.
import { DAY_S } from '../session/check.ts';
import { settingsOf, type Channel, type Clip } from '../session/entities.ts';
import { byTime, clipEnd, crosses, inStep } from '../session/joints.ts';
import { ok, refuse, type Result } from '../result.ts';
import { timeText } from '../time.ts';
import type { Frames } from '../units.ts';
import { drop, mediaOf, newClipId, ownOf, partOf, put, split, type Lay } from './lay.ts';

const nameOf = ({ session }: Lay, { channelId }: Clip): string => session.channel.get(channelId)!.name;
const timeOf = ({ session }: Lay, frame: Frames): string => timeText(frame, settingsOf(session).rate);

export const inside = (clip: Clip, at: Frames): boolean => clip.start < at && at < clipEnd(clip);

/** Cuts clips at a frame inside them; pieces take `as` with a number behind. Inside a crossing both end there. */
export function cutAt(lay: Lay, clips: readonly Clip[], at: Frames, as: string): void {
  let made = 0;
  for (const { id } of clips) {
    const clip = lay.clips.get(id);
    if (!clip || !inside(clip, at)) continue;
    const own = ownOf(lay, clip.channelId);
    const crossing = own.flatMap((other) => (crosses(clip, other) ? [[clip, other]] : crosses(other, clip) ? [[other, clip]] : []));
    const met = crossing.find(([a, b]) => b.start <= at && at <= clipEnd(a));
    if (met) {
      put(lay, partOf(met[0], met[0].start, at));
      put(lay, partOf(met[1], at, clipEnd(met[1])));
    } else split(lay, clip, at, `${as}:${++made}`);
  }
}

/**
 * New edges of clips at one frame each. The recording's ends and the timeline's beginning stop them: all stop where the first has to.
 * An edge that would pass the other one is refused.
 */
export function trim(lay: Lay, clips: readonly Clip[], { start, end }: { readonly start?: Frames; readonly end?: Frames }): Result<null> {
  const begin = start === undefined ? undefined : Math.max(start, 0, ...clips.map((clip) => clip.start - clip.offset));
  const stop =
    end === undefined ? undefined : Math.min(end, ...clips.map((clip) => clip.start - clip.offset + mediaOf(lay.session, clip).frames));
  for (const clip of clips) {
    const [from, to] = [begin ?? clip.start, stop ?? clipEnd(clip)];
    if (from >= to)
      return refuse('overlong', `Nothing would be left of a clip of ${nameOf(lay, clip)}. Keep a frame of it, or take it out.`, {
        id: clip.id
      });
    const length = to - from;
    const fadeIn = Math.min(clip.fadeIn, length);
    const fadeOut = Math.min(clip.fadeOut, length - fadeIn);
    put(lay, { ...clip, start: from, offset: clip.offset + from - clip.start, length, fadeIn, fadeOut });
  }
  return ok(null);
}

/** Whether clips can stand `by` frames later, in words where they cannot. */
function within(lay: Lay, clips: readonly Clip[], by: Frames): Result<null> {
  const first = [...clips].sort(byTime)[0];
  if (first && first.start + by < 0)
    return refuse(
      'before-zero',
      first.start === 0
        ? `${nameOf(lay, first)} begins where the session does: it cannot go back any further.`
        : `${nameOf(lay, first)} begins ${first.start} frames after the session’s beginning: it can go back by that, not by ${-by}.`,
      { id: first.id, most: -first.start }
    );
  const most = DAY_S * settingsOf(lay.session).rate;
  const last = clips.find((clip) => clipEnd(clip) + by > most);
  return last
    ? refuse('too-large', `${nameOf(lay, last)} would end more than a day after the session’s beginning. Move it less far.`, {
        id: last.id
      })
    : ok(null);
}

/** Why a clip cannot stand on a track, in words, or null. */
function unfit(lay: Lay, clip: Clip, track: Channel): Result<never> | null {
  const from = lay.session.channel.get(clip.channelId)!;
  if (track.kind !== 'track' && track.kind !== 'key')
    return refuse('not-a-track', `${track.name} is no track: clips stand on tracks.`, { id: track.id });
  if (track.width !== from.width)
    return refuse(
      'unequal',
      from.width === 1
        ? `${from.name} is mono and ${track.name} stereo. Move the clip to a mono track.`
        : `${from.name} is stereo and ${track.name} mono. Move the clip to a stereo track, or split ${from.name} first.`,
      { id: track.id }
    );
  return null;
}

/** Moves clips by frames, and to another track if one is given. Answers the ids of what now lies on top. */
export function move(lay: Lay, clips: readonly Clip[], by: Frames, track?: Channel): Result<Set<string>> {
  const fits = within(lay, clips, by);
  if (!fits.ok) return fits;
  for (const clip of clips) {
    const wrong = track && track.id !== clip.channelId ? unfit(lay, clip, track) : null;
    if (wrong) return wrong;
    put(lay, { ...clip, start: clip.start + by, channelId: track?.id ?? clip.channelId });
  }
  return ok(new Set(clips.map(({ id }) => id)));
}

/** Copies of clips `by` frames later; their ids are `as` with a number behind. Answers these. */
export function copy(lay: Lay, clips: readonly Clip[], by: Frames, as: string): Result<Set<string>> {
  const fits = within(lay, clips, by);
  if (!fits.ok) return fits;
  const made = new Set<string>();
  for (const [i, clip] of clips.entries()) {
    const id = newClipId(lay, `${as}:${i + 1}`);
    made.add(id);
    put(lay, { ...clip, id, start: clip.start + by });
  }
  return ok(made);
}

/** The pieces of tracks within ranges, cut off at the ranges' ends. */
export function piecesIn(
  lay: Lay,
  channels: readonly string[],
  ranges: readonly { readonly from: Frames; readonly to: Frames }[]
): readonly Clip[] {
  const ids: string[] = [];
  for (const channelId of channels)
    for (const { from, to } of ranges) {
      for (const at of [from, to]) for (const clip of ownOf(lay, channelId)) if (inside(clip, at)) cutAt(lay, [clip], at, `${clip.id}:c`);
      ids.push(...ownOf(lay, channelId).flatMap((clip) => (clip.start >= from && clipEnd(clip) <= to ? [clip.id] : [])));
    }
  return ids.map((id) => lay.clips.get(id)!);
}

/** Where two clips meet: the frame at which they touch, or the middle of their crossing; null where they do not. */
export const meeting = (a: Clip, b: Clip): Frames | null =>
  a.side !== b.side || a.channelId !== b.channelId
    ? null
    : clipEnd(a) === b.start
      ? b.start
      : crosses(a, b)
        ? b.start + Math.floor((clipEnd(a) - b.start) / 2)
        : null;

/** Pairs of clips that meet, of those given; of one alone it and the next. */
export function pairsOf(lay: Lay, clips: readonly Clip[]): (readonly [Clip, Clip])[] {
  const given = new Set(clips.map(({ id }) => id));
  return [...new Set(clips.map(({ channelId }) => channelId))].flatMap((channelId) =>
    (['both', 'left', 'right'] as const).flatMap((side) => {
      const own = ownOf(lay, channelId).filter((clip) => clip.side === side);
      return own.flatMap((b, i): (readonly [Clip, Clip])[] => {
        const a = own[i - 1] as Clip | undefined;
        if (!a || meeting(a, b) === null) return [];
        return given.has(a.id) && (given.has(b.id) || given.size === 1) ? [[a, b]] : [];
      });
    })
  );
}

/** Crosses two clips that meet over so many frames, in the middle of which they met; with 0 they meet at once. */
export function cross(lay: Lay, [first, second]: readonly [Clip, Clip], frames: Frames): Result<null> {
  const [a, b] = [lay.clips.get(first.id)!, lay.clips.get(second.id)!];
  const at = meeting(a, b)!;
  const tail = mediaOf(lay.session, a).frames - a.offset - (at - a.start);
  const lead = Math.min(b.offset + at - b.start, at);
  // The middle moves where one recording has less to give.
  const before = Math.min(lead, Math.max(Math.ceil(frames / 2), frames - tail));
  const after = frames - before;
  if (after > tail)
    return refuse(
      'no-recording',
      `Around ${timeOf(lay, at)} the recordings of ${nameOf(lay, a)} reach ${lead + tail} frames over each other, not ${frames}. Cross over as many, or trim the clips first.`,
      { most: lead + tail }
    );
  const [head, foot] = [at + after - a.start, clipEnd(b) - (at - before)];
  const most = Math.min(head - a.fadeIn, foot - b.fadeOut);
  if (frames > most)
    return refuse(
      'overlong',
      `A crossing of ${frames} frames is longer than the clips of ${nameOf(lay, a)} around ${timeOf(lay, at)}. Cross over fewer.`,
      {
        most: Math.max(0, most)
      }
    );
  const curve = inStep(a, b) ? 'linear' : 'power';
  put(lay, { ...a, length: head, fadeOut: frames, ...(frames ? { fadeOutCurve: curve } : {}) });
  const start = at - before;
  put(lay, { ...b, start, offset: b.offset + start - b.start, length: foot, fadeIn: frames, ...(frames ? { fadeInCurve: curve } : {}) });
  return ok(null);
}

/** Whether two that meet are pieces of one. */
export const divided = (a: Clip, b: Clip): boolean => inStep(a, b) && a.gainDb === b.gainDb && a.muted === b.muted;

/** Makes one of two pieces that meet; it keeps the first's id. */
export function reunite(lay: Lay, [first, second]: readonly [Clip, Clip]): string {
  const [a, b] = [lay.clips.get(first.id)!, lay.clips.get(second.id)!];
  drop(lay, b.id);
  put(lay, { ...a, length: clipEnd(b) - a.start, fadeOut: b.fadeOut, fadeOutCurve: b.fadeOutCurve });
  return a.id;
}

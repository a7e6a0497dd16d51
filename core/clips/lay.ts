// An edit under way: the clips of some tracks, changed one by one, and told as changes.
import { creation, removal, update, type Change } from '../session/changes.ts';
import type { Clip, Media, Session } from '../session/entities.ts';
import { byTime, clipEnd } from '../session/joints.ts';
import { clipsInTime } from '../session/timeline.ts';
import { idsBy } from '../session/lookup.ts';
import type { Frames } from '../units.ts';

export type Lay = {
  readonly session: Session;
  /** As it was. */
  readonly before: ReadonlyMap<string, Clip>;
  /** As it is now, by id; changed by `put` and `drop` alone. */
  readonly clips: Map<string, Clip>;
  /** The ids of each track's clips: an edit may touch thousands of tracks. */
  readonly tracks: Map<string, Set<string>>;
};

/** The clips of these tracks, to be edited. */
export function layOf(session: Session, channelIds: Iterable<string>): Lay {
  // By time already: sorting what is in order costs next to nothing, and it is done again and again.
  const rows = [...new Set(channelIds)].flatMap((id) => clipsInTime(session, id));
  const before = new Map(rows.map((row) => [row.id, row]));
  const lay: Lay = { session, before, clips: new Map(), tracks: new Map() };
  for (const row of rows) put(lay, row);
  return lay;
}

/** The same, to be changed by itself. */
export const copyOf = ({ session, before, clips, tracks }: Lay): Lay => ({
  ...{ session, before, clips: new Map(clips) },
  tracks: new Map([...tracks].map(([id, own]) => [id, new Set(own)]))
});

/** Clips of a track as they are now, by time. */
export const ownOf = ({ clips, tracks }: Lay, channelId: string): Clip[] =>
  [...(tracks.get(channelId) ?? [])].map((id) => clips.get(id)!).sort(byTime);

export const mediaOf = (session: Session, { mediaId }: Clip): Media => session.media.get(mediaId)!;

const LONGEST_ID = 80;
/** An id that nothing has yet: `base`, then `base:2`, and so on. */
export function newClipId({ session, clips }: Lay, base: string): string {
  const taken = (id: string) => session.clip.has(id) || clips.has(id);
  if (base.length <= LONGEST_ID && !taken(base)) return base;
  for (let next = 2; ; next++) {
    const id = `${base.slice(0, LONGEST_ID - 10)}:${next}`;
    if (!taken(id)) return id;
  }
}

/** A clip's part from `from` to `to`, timeline frames; a fade that is cut into ends or begins there. */
export function partOf(clip: Clip, from: Frames, to: Frames): Clip {
  const begin = Math.max(from, clip.start);
  const end = Math.min(to, clipEnd(clip));
  const length = end - begin;
  const fadeIn = begin === clip.start ? Math.min(clip.fadeIn, length) : 0;
  const fadeOut = end === clipEnd(clip) ? Math.min(clip.fadeOut, length - fadeIn) : 0;
  return { ...clip, start: begin, offset: clip.offset + begin - clip.start, length, fadeIn, fadeOut };
}

/** A clip as it is from now on. */
export function put({ clips, tracks }: Lay, clip: Clip): void {
  const was = clips.get(clip.id);
  if (was && was.channelId !== clip.channelId) tracks.get(was.channelId)!.delete(clip.id);
  clips.set(clip.id, clip);
  const own = tracks.get(clip.channelId);
  if (own) own.add(clip.id);
  else tracks.set(clip.channelId, new Set([clip.id]));
}

/** Takes a clip away. */
export function drop({ clips, tracks }: Lay, id: string): void {
  const clip = clips.get(id);
  if (clip) tracks.get(clip.channelId)!.delete(id);
  clips.delete(id);
}

/** Cuts a clip in two at a frame inside it; the second piece takes `id`, or one made from the clip's. */
export function split(lay: Lay, clip: Clip, at: Frames, id?: string): void {
  put(lay, partOf(clip, clip.start, at));
  put(lay, { ...partOf(clip, at, clipEnd(clip)), id: newClipId(lay, id ?? `${clip.id}:c`) });
}

/** Takes `from` … `to` out of a clip, on the sides that `over` fills, or on all; what is left keeps its place. */
export function carve(lay: Lay, clip: Clip, from: Frames, to: Frames, over?: Clip): void {
  drop(lay, clip.id);
  const pieces: Clip[] = [];
  if (clip.start < from) pieces.push(partOf(clip, clip.start, from));
  if (over && clip.side === 'both' && over.side !== 'both') {
    const other = over.side === 'left' ? 'right' : 'left';
    pieces.push({ ...partOf(clip, from, to), side: other, channel: clip.channel + (other === 'right' ? 1 : 0) });
  }
  if (clipEnd(clip) > to) pieces.push(partOf(clip, to, clipEnd(clip)));
  for (const [i, piece] of pieces.entries()) put(lay, i === 0 ? piece : { ...piece, id: newClipId(lay, `${clip.id}:c`) });
}

/** Takes a range out of a track, leaving a gap. Answers whether there was anything. */
export function takeOut(lay: Lay, channelId: string, from: Frames, to: Frames): boolean {
  const within = ownOf(lay, channelId).filter((clip) => clip.start < to && clipEnd(clip) > from);
  for (const clip of within) carve(lay, clip, from, to);
  return within.length > 0;
}

/** What the edit changed, recordings that nothing plays any more among it. */
export function changesOf({ session, before, clips }: Lay): Change[] {
  const gone = [...before.values()].filter(({ id }) => !clips.has(id));
  const made = [...clips.values()].filter(({ id }) => !before.has(id));
  const lost = [...new Set(gone.map(({ mediaId }) => mediaId))].filter(
    (mediaId) =>
      idsBy(session, 'clip', 'mediaId', mediaId).every((id) => before.has(id) && !clips.has(id)) &&
      !made.some((clip) => clip.mediaId === mediaId)
  );
  return [
    ...gone.map(({ id }) => removal(session, 'clip', id)),
    ...[...clips.values()].flatMap((clip) =>
      before.get(clip.id) === clip ? [] : before.has(clip.id) ? update(session, 'clip', clip.id, clip) : []
    ),
    ...made.map((clip) => creation('clip', clip.id, clip)),
    ...lost.map((id) => removal(session, 'media', id))
  ];
}

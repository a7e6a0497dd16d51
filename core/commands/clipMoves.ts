// Clips moved and copied along the timeline, and to other tracks.
import * as yup from 'yup';
import { clipsOf, edited, tracksOf } from '../clips/edit.ts';
import { copy, move, piecesIn } from '../clips/edits.ts';
import { copyOf, type Lay } from '../clips/lay.ts';
import { ok, refuse, type Result } from '../result.ts';
import { settingsOf, type Clip, type Session } from '../session/entities.ts';
import { channelsOf, counted } from '../session/select.ts';
import { timeText } from '../time.ts';
import { MOST_FRAMES } from '../units.ts';
import { clipsText, either, idList, ranges } from './clips.ts';
import { define, id, newId } from './define.ts';
import { linkedShift } from './linked/clips.ts';

const by = () => yup.number().integer().min(-MOST_FRAMES).max(MOST_FRAMES).required();
const shift = { ids: idList(), channels: idList(), ranges: ranges(), by: by() };
const WORDS = 'name either clips, or channels with ranges';
type Shift = {
  readonly ids?: readonly string[];
  readonly channels?: readonly string[];
  readonly ranges?: readonly { from: number; to: number }[];
};

/** The tracks that a shift is about, and how the clips that it moves are had: pieces within ranges are cut off for it. */
function shifted(
  session: Session,
  { ids, channels = [], ranges: within = [] }: Shift
): Result<{ tracks: string[]; clips: (lay: Lay) => readonly Clip[] }> {
  if (ids) {
    const named = clipsOf(session, ids);
    return named.ok ? ok({ tracks: tracksOf(named.value), clips: () => named.value }) : named;
  }
  const tracks = channelsOf(session, channels);
  if (!tracks.ok) return tracks;
  if (!within.length) return refuse('bad-arguments', 'Name the ranges of these channels that are meant.');
  const names = tracks.value.map((track) => track.id);
  return ok({ tracks: names, clips: (lay) => piecesIn(lay, names, within) });
}
const NOTHING = () => refuse('nothing-there', 'No clip lies in these ranges. Choose others.');

/** "12 frames later", "120 ms earlier", "0:05.076 later". */
function far(session: Session, frames: number): string {
  const { rate } = settingsOf(session);
  const [size, ms] = [Math.abs(frames), (Math.abs(frames) / rate) * 1000];
  const text = ms < 1 ? `${size} frame${size === 1 ? '' : 's'}` : ms < 1000 ? `${Math.round(ms * 10) / 10} ms` : timeText(size, rate);
  return `${text} ${frames < 0 ? 'earlier' : 'later'}`;
}
const what = (session: Session, { ids, channels = [] }: Shift) => (ids ? clipsText(session, ids) : counted(session, channels));

/**
 * Moves clips by so many frames, and onto the track `to`; or of `channels` what lies in `ranges`. What they come to lie on is cut away
 * beneath them. Nothing goes before the session’s beginning.
 * @example { "do": "clips.move", "ids": ["a:1"], "by": 4800 }
 */
export const clipsMove = define({
  name: 'clips.move',
  schema: either(yup.object({ ...shift, to: id() }), WORDS),
  label: (session, args) =>
    `Move ${what(session, args)}${args.to ? ` to ${session.channel.get(args.to)?.name ?? 'another track'}` : ''}${args.by ? `, ${far(session, args.by)}` : ''}`,
  plan: (session, args) => {
    const moved = shifted(session, args);
    if (!moved.ok) return moved;
    const { tracks, clips } = moved.value;
    const target = args.to === undefined ? undefined : session.channel.get(args.to);
    if (args.to !== undefined && !target) return refuse('not-found', 'The track to move to is no longer in the session.', { id: args.to });
    if (target && tracks.length > 1)
      return refuse(
        'bad-arguments',
        `Clips of ${tracks.length} tracks would all go onto ${target.name}. Move those of one track at a time.`
      );
    return edited(session, [...tracks, ...(target ? [target.id] : [])], (lay) => {
      const own = clips(lay);
      if (!own.length) return NOTHING();
      const onTop = move(lay, own, args.by, target);
      return onTop.ok ? ok({ onTop: onTop.value }) : onTop;
    });
  },
  linked: linkedShift('clips.move')
});

/**
 * Copies of clips so many frames later, or earlier; their ids begin with `as`. With `channels`, of what lies in `ranges`.
 * @example { "do": "clips.duplicate", "ids": ["spare:1"], "by": 100, "as": "again" }
 */
export const clipsDuplicate = define({
  name: 'clips.duplicate',
  schema: either(yup.object({ ...shift, as: newId().required() }), WORDS),
  label: (session, args) => `Duplicate ${what(session, args)}, ${far(session, args.by)}`,
  plan: (session, args) => {
    if (args.by === 0) return refuse('bad-arguments', 'A copy needs another place than the original: give “by” in frames.');
    const copied = shifted(session, args);
    if (!copied.ok) return copied;
    return edited(session, copied.value.tracks, (lay) => {
      // What is copied out of ranges stays in one piece.
      const pieces = args.ids ? copied.value.clips(lay) : apart(lay, copied.value.clips);
      if (!pieces.length) return NOTHING();
      const onTop = copy(lay, pieces, args.by, args.as);
      return onTop.ok ? ok({ onTop: onTop.value }) : onTop;
    });
  },
  linked: linkedShift('clips.duplicate')
});

/** Pieces as they would be if they were cut off, without that being done. */
function apart(lay: Lay, clips: (lay: Lay) => readonly Clip[]): readonly Clip[] {
  return clips(copyOf(lay));
}

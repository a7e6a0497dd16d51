// Clips cut, taken out, trimmed and made one again.
import * as yup from 'yup';
import { clipsOf, edited, pieceAt, tracksOf } from '../clips/edit.ts';
import { cutAt, divided, inside, pairsOf, reunite, trim } from '../clips/edits.ts';
import { drop, takeOut } from '../clips/lay.ts';
import { ok, refuse } from '../result.ts';
import { settingsOf, type Clip, type Session } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';
import { channelsOf, counted } from '../session/select.ts';
import { timeText } from '../time.ts';
import { define, ids, id, newId, whole } from './define.ts';
import { linkedCut, linkedMeeting, linkedRemove, linkedTrim } from './linked/clips.ts';

/** "Lead voice", "3 clips of Lead voice", "4 clips". */
export function clipsText(session: Session, given: readonly string[]): string {
  const tracks = tracksOf(given.flatMap((each) => session.clip.get(each) ?? []));
  const clips = given.length === 1 ? '' : `${given.length} clips`;
  if (tracks.length !== 1) return clips || 'a clip';
  const name = counted(session, tracks);
  return clips ? `${clips} of ${name}` : name;
}
export const timeOf = (session: Session, frame: number): string => timeText(frame, settingsOf(session).rate);
/** Clips by their ids, or those of whole tracks. */
export const idList = () => yup.array().of(id().required()).min(1, 'select something first');
/** Ranges of the timeline, frames. */
export const ranges = () =>
  yup
    .array()
    .of(yup.object({ from: whole().required(), to: whole().required() }))
    .test('range', 'a range has “from” and a later “to”, in frames', (list) => !list || list.every(({ from, to }) => from < to));
/** That a command names clips or tracks, not both. */
export const either = <T extends yup.Maybe<yup.AnyObject>>(schema: yup.ObjectSchema<T>, words: string): yup.ObjectSchema<T> =>
  schema.test('either', words, (value: unknown) => {
    const given = (value ?? {}) as { ids?: unknown; channels?: unknown };
    return (given.ids === undefined) !== (given.channels === undefined);
  });

/**
 * Cuts clips, or all clips of `channels`, at a frame inside them; the ids of new pieces begin with `as`. A piece that another page cut off
 * meanwhile is cut in its place.
 * @example { "do": "clips.cut", "ids": ["a:1"], "at": 48000, "as": "piece" }
 */
export const clipsCut = define({
  name: 'clips.cut',
  schema: yup.object({ ids: idList(), channels: idList(), at: whole().required(), as: newId().required() }),
  label: (session, { ids: given, channels, at }) =>
    `Cut ${given ? clipsText(session, given) : counted(session, channels ?? [], 'track')} at ${timeOf(session, at)}`,
  plan: (session, { ids: given = [], channels = [], at, as }) => {
    if (!given.length && !channels.length) return refuse('bad-arguments', 'clips.cut: name clips or channels.');
    const named = clipsOf(session, given);
    if (!named.ok) return named;
    const tracks = channelsOf(session, channels);
    if (!tracks.ok) return tracks;
    const found = [
      ...named.value.flatMap((clip) => pieceAt(session, clip, at) ?? []),
      ...tracks.value.flatMap((track) => rowsBy(session, 'clip', 'channelId', track.id).filter((clip) => inside(clip, at)))
    ];
    if (!found.length)
      return refuse('nothing-there', `None of these clips can be cut at ${timeOf(session, at)}: choose a place inside one.`, { at });
    return edited(session, tracksOf(found), (lay) => {
      cutAt(lay, found, at, as);
      return ok(null);
    });
  },
  linked: linkedCut
});

/**
 * Takes clips out, or of `channels` all that sounds from frame `from` to before `to`, or in several `ranges`. A gap stays; edges that this makes get the session’s
 * edge fade.
 * @example { "do": "clips.remove", "channels": ["a"], "from": 48000, "to": 96000 }
 */
export const clipsRemove = define({
  name: 'clips.remove',
  schema: either(
    yup.object({ ids: idList(), channels: idList(), from: whole(), to: whole(), ranges: ranges() }),
    'name either clips or channels with a range'
  ),
  label: (session, { ids: given, channels, from = 0, to = 0, ranges: several }) => {
    if (given) return `Take out ${clipsText(session, given)}`;
    const what = several && several.length !== 1 ? `${several.length} ranges` : null;
    const [one] = several ?? [{ from, to }];
    return `Take ${what ?? `${timeOf(session, one.from)} to ${timeOf(session, one.to)}`} out of ${counted(session, channels ?? [])}`;
  },
  plan: (session, { ids: given, channels = [], from, to, ranges: several }) => {
    if (given) {
      const named = clipsOf(session, given);
      if (!named.ok) return named;
      return edited(session, tracksOf(named.value), (lay) => {
        for (const clip of named.value) drop(lay, clip.id);
        return ok(null);
      });
    }
    const tracks = channelsOf(session, channels);
    if (!tracks.ok) return tracks;
    const within = several ?? (from !== undefined && to !== undefined && from < to ? [{ from, to }] : []);
    if (!within.length) return refuse('bad-arguments', 'clips.remove: a range has “from” and a later “to”, in frames.');
    return edited(session, channels, (lay) => {
      let some = false;
      for (const track of tracks.value) for (const range of within) some = takeOut(lay, track.id, range.from, range.to) || some;
      const [{ from: first, to: last }] = within;
      return some
        ? ok(null)
        : refuse('nothing-there', `Nothing sounds there from ${timeOf(session, first)} to ${timeOf(session, last)}. Choose another range.`);
    });
  },
  linked: linkedRemove
});

/**
 * New edges of clips, timeline frames. The recording’s ends and the timeline’s beginning stop them, all where the first has to stop; what
 * lies beneath an edge that goes outward is cut off.
 * @example { "do": "clips.trim", "ids": ["a:1"], "start": 4800, "end": 96000 }
 */
export const clipsTrim = define({
  name: 'clips.trim',
  schema: yup.object({ ids: ids(), start: whole(), end: whole() }),
  label: (session, { ids: given, start, end }) =>
    `Trim ${clipsText(session, given)} to ${[start, end]
      .map((at) => (at === undefined ? '' : timeOf(session, at)))
      .join(' – ')
      .trim()}`,
  plan: (session, { ids: given, start, end }) => {
    if (start === undefined && end === undefined) return refuse('bad-arguments', 'clips.trim: give “start”, “end”, or both, in frames.');
    const named = clipsOf(session, given);
    if (!named.ok) return named;
    return edited(session, tracksOf(named.value), (lay) => {
      const trimmed = trim(lay, named.value, { start, end });
      return trimmed.ok ? ok({ onTop: new Set(given) }) : trimmed;
    });
  },
  linked: linkedTrim
});

/**
 * Makes one clip of pieces of one recording that meet and are equally loud; it keeps the first one’s id.
 * @example { "do": "clips.reunite", "ids": ["d:1", "dd:1"] }
 */
export const clipsReunite = define({
  name: 'clips.reunite',
  schema: yup.object({ ids: ids() }),
  label: (session, { ids: given }) => `Reunite ${clipsText(session, given)}`,
  plan: (session, { ids: given }) => {
    const named = clipsOf(session, given);
    if (!named.ok) return named;
    return edited(session, tracksOf(named.value), (lay) => {
      const pairs = pairsOf(lay, named.value).filter(([a, b]) => divided(a, b));
      if (!pairs.length) return refuse('not-beside', notDivided(session, named.value));
      // The second of a pair may be the first of the next: that goes by the id it was taken into.
      const into = new Map<string, string>();
      const present = (clip: Clip): Clip => lay.clips.get(into.get(clip.id) ?? clip.id)!;
      for (const [a, b] of pairs) into.set(b.id, reunite(lay, [present(a), b]));
      return ok(null);
    });
  },
  linked: linkedMeeting('clips.reunite', 'cuts')
});

const notDivided = (session: Session, clips: readonly Clip[]): string =>
  `Nothing here can be reunited: ${clipsText(
    session,
    clips.map(({ id: each }) => each)
  )} ${clips.length === 1 ? 'has' : 'have'} no pieces of one recording side by side that are equally loud.`;

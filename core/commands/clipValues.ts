// What a clip is made to sound like: gain, fades, crossings, muted or not.
import * as yup from 'yup';
import { clipsOf, edited, tracksOf } from '../clips/edit.ts';
import { cross, pairsOf } from '../clips/edits.ts';
import { put } from '../clips/lay.ts';
import { ok, refuse } from '../result.ts';
import { update } from '../session/changes.ts';
import { dbText } from '../session/select.ts';
import { CURVES, type Curve } from '../session/tables/settings.ts';
import { clipsText } from './clips.ts';
import { define, ids, whole } from './define.ts';
import { field } from './field.ts';
import { linkedFade, linkedMeeting } from './linked/clips.ts';

/**
 * The gain of clips, −60 … +24 dB. Where a piece goes on in one that is louder or softer, the gain glides over the session’s edge fade.
 * @example { "do": "clips.gain", "ids": ["a:1"], "db": -3 }
 */
export const clipsGain = define({
  name: 'clips.gain',
  schema: yup.object({ ids: ids(), db: field('clip', 'gainDb').required() }),
  label: (session, { ids: given, db }) => `Gain of ${clipsText(session, given)} to ${dbText(db)} dB`,
  plan: (session, { ids: given, db }) => {
    const named = clipsOf(session, given);
    return named.ok ? ok(named.value.flatMap((clip) => update(session, 'clip', clip.id, { gainDb: db }))) : named;
  }
});

/**
 * Mutes clips, or lets them sound again; they keep their place.
 * @example { "do": "clips.mute", "ids": ["c:1"], "on": true }
 */
export const clipsMute = define({
  name: 'clips.mute',
  schema: yup.object({ ids: ids(), on: yup.boolean().required() }),
  label: (session, { ids: given, on }) => `${on ? 'Mute' : 'Unmute'} ${clipsText(session, given)}`,
  plan: (session, { ids: given, on }) => {
    const named = clipsOf(session, given);
    return named.ok ? ok(named.value.flatMap((clip) => update(session, 'clip', clip.id, { muted: on }))) : named;
  }
});

const fade = () =>
  yup
    .object({
      frames: whole().required(),
      curve: yup
        .string()
        .oneOf([...CURVES] as const)
        .default(undefined)
    })
    .default(undefined);
type Fade = { readonly frames: number; readonly curve?: Curve };

/**
 * Fades of clips, `in`, `out`, or both: length in frames, 0 for none, and curve: `linear`, `power` (powers add to one), `slow`, `fast`. A
 * crossing of which one fade is changed ends: the other clip is cut off there.
 * @example { "do": "clips.fade", "ids": ["a:1"], "in": {"frames": 480, "curve": "power"}, "out": {"frames": 9600, "curve": "slow"} }
 */
export const clipsFade = define({
  name: 'clips.fade',
  schema: yup.object({ ids: ids(), in: fade(), out: fade() }),
  label: (session, { ids: given, in: into, out }) =>
    `${into && out ? 'Fades' : into ? 'Fade-in' : 'Fade-out'} of ${clipsText(session, given)}`,
  plan: (session, { ids: given, in: into, out }) => {
    if (!into && !out) return refuse('bad-arguments', 'clips.fade: give “in”, “out”, or both.');
    const named = clipsOf(session, given);
    if (!named.ok) return named;
    return edited(session, tracksOf(named.value), (lay) => {
      const meant = new Set<string>();
      for (const clip of named.value) {
        const fades = { ...fields(into, 'fadeIn', 'fadeInCurve'), ...fields(out, 'fadeOut', 'fadeOutCurve') };
        const next = { ...clip, ...fades };
        const most = clip.length - (into ? (out ? 0 : clip.fadeOut) : clip.fadeIn);
        if (next.fadeIn + next.fadeOut > clip.length)
          return refuse(
            'overlong',
            `The fades would be longer than a clip of ${session.channel.get(clip.channelId)!.name}, which has room for ${most} frames. Give fewer.`,
            { id: clip.id, most }
          );
        put(lay, next);
        if (into) meant.add(`${clip.id} in`);
        if (out) meant.add(`${clip.id} out`);
      }
      return ok({ onTop: new Set(given), meant });
    });
  },
  linked: linkedFade
});

const fields = (given: Fade | undefined, length: string, curve: string) =>
  given ? { [length]: given.frames, ...(given.curve ? { [curve]: given.curve } : {}) } : {};

/**
 * Crosses clips that meet over so many frames, half of them before the place where they met; of one clip, it and the next. Where the
 * second goes on with the first one’s recording amplitudes add to one, elsewhere powers. 0 ends a crossing.
 * @example { "do": "clips.join", "ids": ["d:1", "dd:1"], "frames": 480 }
 */
export const clipsJoin = define({
  name: 'clips.join',
  schema: yup.object({ ids: ids(), frames: whole().required() }),
  label: (session, { ids: given, frames }) => `${frames ? 'Cross' : 'End crossings of'} ${clipsText(session, given)}`,
  plan: (session, { ids: given, frames }) => {
    const named = clipsOf(session, given);
    if (!named.ok) return named;
    return edited(session, tracksOf(named.value), (lay) => {
      const pairs = pairsOf(lay, named.value);
      if (!pairs.length)
        return refuse('not-beside', 'No two of these clips meet. Move one up to the other, or trim it up to there, and join them then.');
      for (const pair of pairs) {
        const crossed = cross(lay, pair, frames);
        if (!crossed.ok) return crossed;
      }
      return ok(null);
    });
  },
  linked: linkedMeeting('clips.join', 'fades')
});

// Clips: a piece of a recording on a track's timeline.
import * as is from '../column.ts';
import { CURVES } from './settings.ts';

export const SIDES = ['both', 'left', 'right'] as const;
export type Side = (typeof SIDES)[number];

/** What a clip's gain may be, dB; silence is a clip that is muted. */
export const MIN_CLIP_DB = -60;
export const MAX_CLIP_DB = 24;

export const clip = is.table(
  {
    id: is.id(),
    channelId: is.id({ sound: 'clips', structural: true, reference: { to: 'channel', removed: 'goes', copied: 'with' } }),
    mediaId: is.id({ sound: 'clips', structural: true, reference: { to: 'media', removed: 'goes', counted: true } }),
    /** Where it begins on the timeline. */
    start: is.frames({ unit: 'frames', default: 0, sound: 'clips', structural: true }),
    /** First frame of the media that is heard. */
    offset: is.frames({ unit: 'frames', default: 0, sound: 'clips', structural: true }),
    length: is.number({ ...is.schemas.frames, minimum: 1 }, { unit: 'frames', sound: 'clips', structural: true }),
    /** The media's audio channel that the track's first one plays; that of one side alone where `side` names one. */
    channel: is.whole(0, 255, { default: 0, since: 2, sound: 'clips', structural: true }),
    /** Which audio channels of the track it fills: of a pair made of two recordings each fills one. */
    side: is.oneOf(SIDES, { default: 'both', since: 3, sound: 'clips', structural: true }),
    gainDb: is.between(MIN_CLIP_DB, MAX_CLIP_DB, { unit: 'dB', default: 0, since: 7, sound: 'clips' }),
    /** Fades from and to silence within the clip; over an overlap with a neighbour, of exactly its length, they cross. */
    fadeIn: is.frames({ unit: 'frames', default: 0, since: 7, sound: 'clips', structural: true }),
    fadeInCurve: is.oneOf(CURVES, { default: 'linear', since: 7, sound: 'clips' }),
    fadeOut: is.frames({ unit: 'frames', default: 0, since: 7, sound: 'clips', structural: true }),
    fadeOutCurve: is.oneOf(CURVES, { default: 'linear', since: 7, sound: 'clips' }),
    muted: is.flag({ default: false, since: 7, sound: 'clips' })
  },
  { notInTemplates: true, always: ['rows', 'clips'], conditions: ['"fade_in" + "fade_out" <= "length"'] }
);
export type Clip = is.RowOf<typeof clip>;

// Clips: a piece of a recording on a track's timeline.
import * as is from '../column.ts';

export const SIDES = ['both', 'left', 'right'] as const;
export type Side = (typeof SIDES)[number];

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
    side: is.oneOf(SIDES, { default: 'both', since: 3, sound: 'clips', structural: true })
  },
  { notInTemplates: true, always: ['rows', 'clips'] }
);
export type Clip = is.RowOf<typeof clip>;

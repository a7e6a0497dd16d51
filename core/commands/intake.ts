// From recordings that were taken in to the tracks they become: one each, or one a channel where there are more than two.
import type { Media } from '../session/entities.ts';
import { cleaned } from '../text.ts';
import type { Frames } from '../units.ts';

export type Taken = { readonly name: string; readonly media: Media; readonly timeReference: Frames | null };
export type NewTrack = {
  readonly id: string;
  readonly name: string;
  readonly colour: number;
  readonly media: Media;
  readonly channel?: number;
  readonly width?: 1 | 2;
  readonly timeReference: Frames | null;
};

/** A track's first name is the file's, without its ending. */
export const trackName = (file: string): string => cleaned(file.replace(/\.[^.]+$/, ''), 110) || 'Unnamed';

/** What `tracks.add` is given for recordings, in their order; `newId` makes an id a track. */
export function tracksFor(taken: readonly Taken[], newId: () => string, colour: number): NewTrack[] {
  return taken.flatMap(({ name, media, timeReference }) => {
    const track = { name: trackName(name), colour, media, timeReference };
    if (media.channels <= 2) return [{ ...track, id: newId() }];
    return Array.from({ length: media.channels }, (_, channel) => ({
      ...track,
      id: newId(),
      name: `${track.name} ${channel + 1}`,
      channel,
      width: 1 as const
    }));
  });
}

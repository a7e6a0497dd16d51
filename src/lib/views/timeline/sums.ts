// What a bus's row shows: how loud all is that flows into it, an estimate from its tracks' peaks for finding one's way.
import { amplitudeAt } from '$core/clips/curves';
import { PEAK_BIN, PEAK_FACTOR, PEAK_FIELDS, type Peaks } from '$core/measure/peaks';
import type { Session } from '$core/session/entities';
import { clipEnd } from '$core/session/joints';
import { clipsInTime } from '$core/session/timeline';
import { branchOf } from '$core/routing/graph';
import { levelFor } from './picture';

export const COLUMNS = 2048;

/** Amplitude of a bus along `frames` of timeline, in columns: the root of its tracks' powers. Recordings whose peaks are not here yet lack. */
export function sumOf(session: Session, busId: string, frames: number, peaksOf: (sha256: string) => Peaks | null): Float32Array {
  const power = new Float32Array(COLUMNS);
  const width = frames / COLUMNS;
  for (const id of branchOf(session, busId))
    for (const clip of clipsInTime(session, id)) {
      const media = session.media.get(clip.mediaId);
      const peaks = media && !clip.muted ? peaksOf(media.sha256) : null;
      if (!peaks) continue;
      const level = levelFor(peaks, width);
      const [bins, bin] = [peaks.levels[level], PEAK_BIN * PEAK_FACTOR ** level];
      const last = Math.min(COLUMNS - 1, Math.floor((clipEnd(clip) - 1) / width));
      for (let column = Math.floor(clip.start / width); column <= last; column++) {
        const frame = Math.max(clip.start, Math.min(clipEnd(clip) - 1, column * width));
        const at = Math.floor((frame - clip.start + clip.offset) / bin) * PEAK_FIELDS;
        if (at + 2 < bins.length) power[column] += ((bins[at + 2] / 32767) * amplitudeAt(clip, frame)) ** 2;
      }
    }
  return power.map(Math.sqrt);
}

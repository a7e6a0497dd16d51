// Peaks of recordings, fetched once, and the overview of the whole song computed from them.
import { amplitudeAt } from '$core/clips/curves';
import { decodePeaks, PEAK_BIN, PEAK_FACTOR, PEAK_FIELDS, type Peaks } from '$core/measure/peaks';
import { endOf } from '$core/session/select';
import { levelOf, mutedOf } from '$core/routing/level';
import type { Session } from '$core/session/entities';
import { gainOf } from '$core/units';

const known = new Map<string, Promise<Peaks | null>>();

export const peaksOf = (sha256: string): Promise<Peaks | null> => {
  const fetched = known.get(sha256) ?? fetchPeaks(sha256);
  known.set(sha256, fetched);
  return fetched;
};

const here = new Map<string, Peaks>();
/** The peaks of a recording if they are here; else they are fetched, and `arrived` is told. */
export function peaksNow(sha256: string, arrived: () => void): Peaks | null {
  const found = here.get(sha256);
  if (found) return found;
  const asked = known.has(sha256);
  const coming = peaksOf(sha256);
  if (!asked || !told.has(sha256)) {
    told.add(sha256);
    void coming.then((peaks) => {
      if (!peaks) return;
      here.set(sha256, peaks);
      arrived();
    });
  }
  return null;
}
const told = new Set<string>();

async function fetchPeaks(sha256: string): Promise<Peaks | null> {
  const response = await fetch(`/api/peaks/${sha256}`);
  return response.ok ? decodePeaks(new Uint8Array(await response.arrayBuffer())) : null;
}

/**
 * Loudness along the song in `columns`, 0 … 1: the power of all clips, each at its faders from track to output.
 * An estimate for finding one's way, not a measurement: effects do not count.
 */
export async function overview(session: Session, columns: number): Promise<Float32Array> {
  const power = new Float32Array(columns);
  const end = endOf(session);
  for (const clip of [...session.clip.values()]) {
    if (clip.muted) continue;
    const media = session.media.get(clip.mediaId);
    const peaks = media && (await peaksOf(media.sha256));
    const gain = pathGain(session, clip.channelId);
    if (!peaks || gain === 0) continue;
    const width = end / columns;
    const index = Math.min(peaks.levels.length - 1, Math.max(0, Math.floor(Math.log(width / PEAK_BIN) / Math.log(PEAK_FACTOR))));
    const level = peaks.levels[index];
    const bin = PEAK_BIN * PEAK_FACTOR ** index;
    const last = Math.min(columns - 1, Math.floor((clip.start + clip.length - 1) / width));
    for (let column = Math.floor(clip.start / width); column <= last; column++) {
      const frame = Math.min(clip.start + clip.length - 1, Math.max(clip.start, column * width));
      const at = Math.floor((frame - clip.start + clip.offset) / bin) * PEAK_FIELDS;
      if (at + 2 < level.length) power[column] += ((level[at + 2] / 32767) * gain * amplitudeAt(clip, frame)) ** 2;
    }
  }
  const loudest = Math.sqrt(Math.max(...power, 1e-12));
  return power.map((value) => Math.sqrt(value) / loudest);
}

/** Amplitude from a channel to an output along its main outputs; 0 where a mute or a loose end lies between. */
function pathGain(session: Session, id: string): number {
  let gain = 1;
  for (let channel = session.channel.get(id); channel; channel = channel.outputId ? session.channel.get(channel.outputId) : undefined) {
    if (mutedOf(session, channel)) return 0;
    gain *= gainOf(levelOf(session, channel));
    if (channel.outputId === null) return channel.outputPair === null ? 0 : gain;
  }
  return 0;
}

// How loud tracks are as recorded: what their recordings measure.
import type { Session } from './entities.ts';
import { rowsBy } from './lookup.ts';

export type RecordedLevel = {
  /** dBFS, of the recordings, before the trim. */
  readonly peakDb: number;
  /** LUFS of the loudest recording, before the trim; null where it is silent or not measured. */
  readonly lufs: number | null;
};

/** What a track's recordings measure, each at its clip's gain. Peaks are the whole recording's, of all its channels. */
export function recordedLevel(session: Session, channelId: string): RecordedLevel {
  const channel = session.channel.get(channelId);
  let peakDb = -Infinity;
  let lufs: number | null = null;
  for (const clip of rowsBy(session, 'clip', 'channelId', channelId)) {
    const media = session.media.get(clip.mediaId);
    if (!media || clip.muted) continue;
    peakDb = Math.max(peakDb, media.peakDb + clip.gainDb);
    const pair = channel?.width === 2 && clip.side === 'both' && media.channels === 2;
    const own = media.loudness?.[pair ? 2 : clip.channel] ?? null;
    if (own !== null) lufs = Math.max(lufs ?? -Infinity, own + clip.gainDb);
  }
  return { peakDb, lufs };
}

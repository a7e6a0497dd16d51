// How loud the Map's rivers are: what is known of the recordings, through trims, faders and sends.
import { levelOf, mutedOf } from '../routing/level.ts';
import type { Session } from '../session/entities.ts';
import { rowsBy } from '../session/lookup.ts';

/** Loudness taken for what was not measured, LUFS. */
const UNKNOWN = -30;

/** Power of each channel's output in dB: its recordings' loudness through trims, faders and sends, as far as gains say. */
export function estimatedLevels(session: Session, order: readonly string[]): Map<string, number> {
  const arriving = new Map<string, number>();
  const levels = new Map<string, number>();
  const add = (id: string, db: number) => arriving.set(id, (arriving.get(id) ?? 0) + 10 ** (db / 10));
  const measured = (mediaId: string) => session.media.get(mediaId)?.loudness?.find((value) => value !== null) ?? UNKNOWN;
  const loudnessOf = (id: string, otherwise: number) => {
    const clips = rowsBy(session, 'clip', 'channelId', id);
    return clips.length ? Math.max(...clips.map(({ mediaId }) => measured(mediaId))) : otherwise;
  };
  for (const id of order) {
    const channel = session.channel.get(id)!;
    const own =
      channel.kind === 'track' || channel.kind === 'key'
        ? loudnessOf(id, channel.pattern ? -30 : -Infinity)
        : 10 * Math.log10(arriving.get(id) ?? 0);
    const input = channel.resting ? -Infinity : own + channel.trimDb;
    const level = mutedOf(session, channel) ? -Infinity : input + levelOf(session, channel);
    levels.set(id, level);
    if (channel.outputId !== null) add(channel.outputId, level);
    for (const send of rowsBy(session, 'send', 'sourceId', id))
      if (send.on) add(send.targetId, (send.tap === 'post' ? level : input) + send.levelDb);
  }
  return levels;
}

/** −60 dB is a hair, 0 dB a broad river. */
export const riverWidth = (db: number): number => (db === -Infinity ? 0.8 : Math.max(1, Math.min(15, 1 + (db + 60) / 4.3)));

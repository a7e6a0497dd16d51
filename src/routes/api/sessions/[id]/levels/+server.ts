// GET ?track=…: a track's level as its clips play it, in windows of 50 ms from the timeline's beginning on: what bleed is found by.
import { json } from '@sveltejs/kit';
import { decode } from '$core/formats/pcm';
import { createLevels, windowAt } from '$core/measure/bleed';
import { copyOf } from '$core/session/create';
import { settingsOf } from '$core/session/entities';
import { clipEnd, sidesOf } from '$core/session/joints';
import { clipsInTime } from '$core/session/timeline';
import { gainOf } from '$core/units';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const PIECE = 1 << 17;

export const GET: RequestHandler = async ({ params, url }) => {
  const { sessions, media } = await app();
  const session = await sessions.read(params.id, (state) => copyOf(state.session));
  if (!session) return noSession();
  const track = session.channel.get(url.searchParams.get('track') ?? '');
  if (track?.kind !== 'track') return refused({ code: 'not-found', message: 'That track is no longer in the session. Choose another.' });
  const { rate } = settingsOf(session);
  const clips = clipsInTime(session, track.id).filter(({ muted }) => !muted);
  const levels = createLevels(rate, Math.max(0, ...clips.map(clipEnd)));
  const samples = new Float32Array(PIECE);
  for (const clip of clips) {
    const { sha256 } = session.media.get(clip.mediaId)!;
    const sides = sidesOf(clip).filter((side) => side < track.width);
    for (let from = 0; from < clip.length; from += PIECE) {
      const frames = Math.min(PIECE, clip.length - from);
      const found = await media.pcm([sha256], clip.offset + from, frames);
      if (!found?.parts.length) break;
      const [part] = found.parts;
      const bytes = Buffer.concat(found.chunks);
      for (const side of sides) {
        const channel = clip.channel + (clip.side === 'both' ? side : 0);
        decode(bytes.subarray(channel * part.bytes, (channel + 1) * part.bytes), part.encoding, samples.subarray(0, frames));
        levels.add(clip.start + from, samples.subarray(0, frames), gainOf(clip.gainDb), side);
      }
    }
  }
  // JSON has no −∞: what is silent is null.
  const rounded = [...levels.levels()].map((level) => (level === -Infinity ? null : Math.round(level * 100) / 100));
  return json({ window: windowAt(rate), levels: rounded });
};

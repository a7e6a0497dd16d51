// GET ?track=…: the timeline frames at which a track's sound begins anew, for a key track that follows it.
import { rowsBy } from '$core/session/lookup';
import { json } from '@sveltejs/kit';
import { decode } from '$core/formats/pcm';
import { createOnsets } from '$core/measure/onsets';
import { copyOf } from '$core/session/create';
import { settingsOf, type Clip } from '$core/session/entities';
import { app } from '$lib/server/app';
import type { MediaStore } from '$lib/server/media';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const PIECE = 1 << 17;
/** As many pulses as a pattern may have. */
const MOST = 100_000;

export const GET: RequestHandler = async ({ params, url }) => {
  const { sessions, media } = await app();
  const session = await sessions.read(params.id, (state) => copyOf(state.session));
  if (!session) return noSession();
  const track = session.channel.get(url.searchParams.get('track') ?? '');
  if (track?.kind !== 'track') return refused({ code: 'not-found', message: 'That track is no longer in the session. Choose another.' });
  const at: number[] = [];
  for (const clip of rowsBy(session, 'clip', 'channelId', track.id)) {
    if (clip.muted) continue;
    const sha256 = session.media.get(clip.mediaId)!.sha256;
    for (const frame of await onsetsOf(media, sha256, clip, settingsOf(session).rate)) at.push(clip.start + frame);
  }
  at.sort((a, b) => a - b);
  if (at.length > MOST)
    return refused({ code: 'too-many', message: `${track.name} has more than ${MOST} onsets: no pattern holds as many.` });
  return json({ at });
};

/** Onsets within a clip, counted from its beginning; read piece by piece, whatever its length. */
async function onsetsOf(media: MediaStore, sha256: string, { offset, length, channel }: Clip, rate: number): Promise<number[]> {
  const onsets = createOnsets(rate);
  const samples = new Float32Array(PIECE);
  for (let from = 0; from < length; from += PIECE) {
    const frames = Math.min(PIECE, length - from);
    const found = await media.pcm([sha256], offset + from, frames);
    if (!found?.parts.length) break;
    const { parts, chunks } = found;
    const bytes = Buffer.concat(chunks).subarray(channel * parts[0].bytes, (channel + 1) * parts[0].bytes);
    decode(bytes, parts[0].encoding, samples.subarray(0, frames));
    onsets.feed(samples.subarray(0, frames));
  }
  return onsets.onsets();
}

// One batch of planar samples as stored: a 32-bit length, JSON, then each part's channels. GET ?media=sha,sha…&from=…&frames=… for a
// few recordings; POST { media, from, frames } for any number, as addresses may only be so long.
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const MOST_FRAMES = 1 << 18;
const MOST_MEDIA = 2000;

async function batch(media: readonly unknown[], from: number, frames: number): Promise<Response> {
  const shas = media.filter((sha): sha is string => typeof sha === 'string' && /^[0-9a-f]{64}$/.test(sha));
  if (
    !Number.isSafeInteger(from) ||
    from < 0 ||
    !Number.isInteger(frames) ||
    frames < 1 ||
    frames > MOST_FRAMES ||
    shas.length > MOST_MEDIA
  )
    return refused({ code: 'bad-request', message: `Ask for 1 to ${MOST_FRAMES} frames from 0 on, of at most ${MOST_MEDIA} recordings.` });
  const found = await (await app()).media.pcm(shas, from, frames);
  if (!found) return refused({ code: 'too-large', message: 'That is more than 256 MB at once. Ask for fewer frames.' });
  const { parts, chunks } = found;
  const head = new TextEncoder().encode(JSON.stringify(parts));
  const length = new Uint8Array(new Uint32Array([head.length]).buffer);
  return new Response(new Blob([length, head, ...(chunks as Uint8Array<ArrayBuffer>[])]), {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' }
  });
}

export const GET: RequestHandler = ({ url: { searchParams } }) =>
  batch((searchParams.get('media') ?? '').split(','), Number(searchParams.get('from')), Number(searchParams.get('frames')));

export const POST: RequestHandler = async ({ request }) => {
  const body = await bodyOf(request);
  if (!body) return notJson();
  return batch(Array.isArray(body.media) ? body.media : [], Number(body.from), Number(body.frames));
};

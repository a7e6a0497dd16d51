// GET ?media=sha,sha…&from=…&frames=…: one batch of planar samples as stored: a 32-bit length, JSON, then each part's channels.
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const MOST_FRAMES = 1 << 18;
const MOST_MEDIA = 2000;

export const GET: RequestHandler = async ({ url }) => {
  const shas = (url.searchParams.get('media') ?? '').split(',').filter((sha) => /^[0-9a-f]{64}$/.test(sha));
  const from = Number(url.searchParams.get('from'));
  const frames = Number(url.searchParams.get('frames'));
  if (
    !Number.isSafeInteger(from) ||
    from < 0 ||
    !Number.isInteger(frames) ||
    frames < 1 ||
    frames > MOST_FRAMES ||
    shas.length > MOST_MEDIA
  )
    return refused({ code: 'bad-request', message: `Ask for 1 to ${MOST_FRAMES} frames from 0 on, of at most ${MOST_MEDIA} recordings.` });
  const { parts, chunks } = await (await app()).media.pcm(shas, from, frames);
  const head = new TextEncoder().encode(JSON.stringify(parts));
  const length = new Uint8Array(new Uint32Array([head.length]).buffer);
  return new Response(new Blob([length, head, ...(chunks as Uint8Array<ArrayBuffer>[])]), {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'no-store' }
  });
};

// GET: a recording's peaks pyramid. Its address is its content, so it may be kept for ever.
import { readFile } from 'node:fs/promises';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { media } = await app();
  const known = /^[0-9a-f]{64}$/.test(params.sha) && (await media.stored(params.sha));
  if (!known) return refused({ code: 'not-found', message: 'There is no recording of this content.' });
  const bytes = await readFile(media.peaksFile(params.sha));
  return new Response(bytes, {
    headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'public, max-age=31536000, immutable' }
  });
};

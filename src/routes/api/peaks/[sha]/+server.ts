// GET: a recording's peaks pyramid. Its address is its content, so it may be kept for ever.
import { readFile } from 'node:fs/promises';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { media } = await app();
  if (!/^[0-9a-f]{64}$/.test(params.sha)) return refused({ code: 'not-found', message: 'There is no recording of this content.' });
  const peaks = await media.peaksOf(params.sha);
  if (!peaks.ok) return refused(peaks.error);
  return new Response(await readFile(peaks.value), {
    headers: {
      ...{ 'Content-Type': 'application/octet-stream', ETag: `"${params.sha}"` },
      'Cache-Control': 'public, max-age=31536000, immutable'
    }
  });
};

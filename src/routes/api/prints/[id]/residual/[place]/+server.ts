// GET: what a proof leaves over, 60 dB louder; `place` is that of the null in the job's list, from 0.
import { app } from '$lib/server/app';
import { serveFile } from '$lib/server/serveFile';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url }) => {
  const place = /^\d{1,4}$/.test(params.place) ? Number(params.place) : -1;
  return serveFile(place < 0 ? null : await (await app()).prints.residual(params.id, place), request, url);
};

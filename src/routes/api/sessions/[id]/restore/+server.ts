// POST: takes the session out of the bin.
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ params }) => {
  const restored = await (await app()).shelf.restore(params.id);
  return restored.ok ? new Response(null, { status: 204 }) : refused(restored.error);
};

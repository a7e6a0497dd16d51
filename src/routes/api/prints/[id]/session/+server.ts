// POST: opens the stems of a finished job as a session of their own, at unity into a copy of the mix chain.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import { openStems } from '$lib/server/taking';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ params }) => {
  const opened = await openStems(await app(), params.id);
  return opened.ok ? json(opened.value, { status: 201 }) : refused(opened.error);
};

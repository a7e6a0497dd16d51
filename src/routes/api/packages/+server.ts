// POST: a session package (ZIP) as the body becomes a new session; answers its id and name, or what is wrong with it.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { takePackage } from '$lib/server/packages';
import { dataDirectory } from '$lib/server/paths';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ request }) => {
  if (!request.body) return refused({ code: 'empty', message: 'The package is empty. Export it again.' });
  const { sessions, media } = await app();
  const taken = await takePackage(request.body, dataDirectory(), sessions, media);
  return taken.ok ? json(taken.value, { status: 201 }) : refused(taken.error);
};

// DELETE: removes the recordings and prints that nothing refers to; how many, and how many bytes that were.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const DELETE: RequestHandler = async () => {
  const cleared = await (await app()).storage.clear();
  return cleared.ok ? json(cleared.value) : refused(cleared.error);
};

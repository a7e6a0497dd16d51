// GET: how a printed file looks: peaks and short-term loudness in equal parts.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const shape = await (await app()).prints.shape(params.id, params.file);
  return shape ? json(shape) : refused({ code: 'not-found', message: 'This file was printed before its shape was kept. Print it again.' });
};

// GET: what is on disk, with sizes in bytes, and what of it nothing refers to.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => json(await (await app()).storage.report());

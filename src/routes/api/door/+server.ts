// GET: whether a passphrase is asked for here, so that a login can be ended.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => json({ guarded: (await app()).door.guarded });

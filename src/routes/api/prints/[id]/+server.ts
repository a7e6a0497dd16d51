// GET: a print job with its files and what they prove. POST: the same order again, of the session as it is now. DELETE ?cancel stops the
// job; without it the job and its files go.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const unknown = () => refused({ code: 'not-found', message: 'There is no print of this id.' });

export const GET: RequestHandler = async ({ params }) => {
  const print = await (await app()).prints.get(params.id);
  return print ? json(print) : unknown();
};

export const POST: RequestHandler = async ({ params }) => {
  const { sessions, prints } = await app();
  const asked = await prints.asked(params.id);
  if (!asked) return unknown();
  const started = await sessions.read(asked.sessionId, (state) => prints.start(state, asked.order));
  if (!started) return noSession();
  return started.ok ? json({ id: started.value }, { status: 201 }) : refused(started.error);
};

export const DELETE: RequestHandler = async ({ params, url }) => {
  const { prints } = await app();
  const done = await (url.searchParams.has('cancel') ? prints.cancel(params.id) : prints.remove(params.id));
  return done.ok ? new Response(null, { status: 204 }) : refused(done.error);
};

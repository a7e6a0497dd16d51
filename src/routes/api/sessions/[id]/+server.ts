// GET: the whole session, its revision and what can be undone. DELETE: into the bin; ?final=1 for good, from there too.
import { json } from '@sveltejs/kit';
import { outlook } from '$core/session/history';
import { encodeSession } from '$core/session/tables';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const state = await (await app()).sessions.open(params.id);
  if (!state) return noSession();
  return json({ revision: state.revision, document: encodeSession(state.session), history: outlook(state.entries) });
};

export const DELETE: RequestHandler = async ({ params, url }) => {
  const removed = await (await app()).shelf.remove(params.id, url.searchParams.get('final') === '1');
  return removed.ok ? new Response(null, { status: 204 }) : refused(removed.error);
};

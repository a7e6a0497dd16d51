// GET: the whole session, its revision and what can be undone. DELETE: into the bin; ?final=1 for good, from there too.
import { json } from '@sveltejs/kit';
import { outlook } from '$core/session/history';
import { encodeSession } from '$core/session/tables';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { sessions } = await app();
  const told = await sessions.read(params.id, ({ revision, session, entries }) =>
    json({ revision, document: encodeSession(session), history: outlook(entries) })
  );
  return told ?? noSession();
};

export const DELETE: RequestHandler = async ({ params, url }) => {
  const removed = await (await app()).shelf.remove(params.id, url.searchParams.get('final') === '1');
  return removed.ok ? new Response(null, { status: 204 }) : refused(removed.error);
};

// GET: the whole session, its revision and what can be undone.
import { json } from '@sveltejs/kit';
import { outlook } from '$core/session/history';
import { encodeSession } from '$core/session/tables';
import { app } from '$lib/server/app';
import { noSession } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const state = await (await app()).sessions.open(params.id);
  if (!state) return noSession();
  return json({ revision: state.revision, document: encodeSession(state.session), history: outlook(state.entries) });
};

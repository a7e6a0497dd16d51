// POST { range }: how loud a range of the mix is, by its name or { from, to } in frames; without one, all of the session.
import { json } from '@sveltejs/kit';
import { copyOf } from '$core/session/create';
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { measured } from '$lib/server/measuring';
import { noSession, notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ params, request }) => {
  const { sessions, media } = await app();
  const body = await bodyOf(request);
  if (!body) return notJson();
  const session = await sessions.read(params.id, (state) => copyOf(state.session));
  if (!session) return noSession();
  const levels = await measured(session, body.range, media);
  return levels.ok ? json(levels.value) : refused(levels.error);
};

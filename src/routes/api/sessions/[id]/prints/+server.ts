// GET: the session's print jobs. POST { files, format, rate, ranges, tail, preRoll, dither, names }: prints the session as it stands.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { noSession, notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { sessions, prints } = await app();
  return (await sessions.read(params.id, () => true)) ? json({ prints: await prints.list(params.id) }) : noSession();
};

export const POST: RequestHandler = async ({ params, request }) => {
  const { sessions, prints } = await app();
  const body = await bodyOf(request);
  if (!body) return notJson();
  // In turn with the session's going for good, which ends what is under way.
  const started = await sessions.read(params.id, (state) => prints.start(state, body));
  if (!started) return noSession();
  return started.ok ? json({ id: started.value }, { status: 201 }) : refused(started.error);
};

// GET: the session's prints. POST { encoding }: prints the mix as it stands.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { noSession, notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { sessions, prints } = await app();
  return (await sessions.open(params.id)) ? json({ prints: await prints.list(params.id) }) : noSession();
};

export const POST: RequestHandler = async ({ params, request }) => {
  const { sessions, prints } = await app();
  const body = await bodyOf(request);
  if (!body) return notJson();
  const state = await sessions.open(params.id);
  if (!state) return noSession();
  const encoding = body.encoding ?? 's24';
  if (encoding !== 's24' && encoding !== 'f32')
    return refused({ code: 'bad-arguments', message: 'A print is “s24” (24-bit) or “f32” (32-bit float).' });
  const started = await prints.start(state, encoding);
  return started.ok ? json({ id: started.value }, { status: 201 }) : refused(started.error);
};

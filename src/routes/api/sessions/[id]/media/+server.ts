// PUT ?name=…[&convert=1][&keep=1]: an audio file as the body, streamed into the store; answers what it holds, or what is wrong with
// it. `convert` agrees to its sample rate being converted to the session's,
// `keep` to taking what is there of a file that was cut off.
import { json } from '@sveltejs/kit';
import { settingsOf } from '$core/session/entities';
import { cleaned } from '$core/text';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const PUT: RequestHandler = async ({ params, request, url }) => {
  const { sessions, media, storage } = await app();
  const rate = await sessions.read(params.id, ({ session }) => settingsOf(session).rate);
  if (rate === null) return noSession();
  const name = cleaned((url.searchParams.get('name') ?? '').split(/[\\/]/).pop()!, 200) || 'unnamed.wav';
  if (!request.body) return refused({ code: 'empty', message: 'The file is empty. Export it again.' });
  const convert = url.searchParams.get('convert') === '1';
  const keep = url.searchParams.get('keep') === '1';
  const added = await media.add(name, request.body, rate, convert, keep);
  if (!added.ok) return refused(added.error);
  const { media: row, timeReference } = added.value;
  storage.arrived(params.id, row.sha256);
  return json({ ...row, timeReference }, { status: 201 });
};

// GET ?since=…: server-sent events, one for each batch after that revision: { revision, id, changes, history }; "reset" where
// what happened since is no longer known and the session has to be loaded anew; "ended" { why } where it went into the bin, or for good.
import { encodeChanges } from '$core/session/changes';
import { app } from '$lib/server/app';
import { cutter, eventStream } from '$lib/server/eventStream';
import { noSession, refused } from '$lib/server/respond';
import type { News } from '$lib/server/sessions';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url, platform }) => {
  const { sessions } = await app();
  if (!(await sessions.read(params.id, () => true))) return noSession();
  const since = Number(request.headers.get('last-event-id') ?? url.searchParams.get('since') ?? NaN);
  if (!Number.isSafeInteger(since) || since < 0) return refused({ code: 'bad-request', message: 'Say since which revision.' });
  return eventStream(async (send) => {
    const tell = ({ revision, id, changes, history }: News) =>
      send(`id: ${revision}\ndata: ${JSON.stringify({ revision, id, changes: encodeChanges(changes), history })}\n\n`);
    const { missed, stop } = await sessions.follow(params.id, since, tell, (why) =>
      send(why === 'replaced' ? 'event: reset\ndata: {}\n\n' : `event: ended\ndata: {"why":"${why}"}\n\n`)
    );
    if (missed === null) send('event: reset\ndata: {}\n\n');
    else missed.forEach(tell);
    return stop;
  }, cutter(platform));
};

// GET ?since=…: server-sent events, one for each batch after that revision: { revision, id, changes, history }; "reset" where
// what happened since is no longer known and the session has to be loaded anew.
import { encodeChanges } from '$core/session/changes';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { News } from '$lib/server/sessions';
import type { RequestHandler } from './$types';

/** A comment now and then keeps the connection from being taken for dead. */
const HEARTBEAT_MS = 15_000;

export const GET: RequestHandler = async ({ params, request, url }) => {
  const { sessions } = await app();
  if (!(await sessions.open(params.id))) return refused({ code: 'no-session', message: 'This session is no longer here. Open another.' });
  const since = Number(request.headers.get('last-event-id') ?? url.searchParams.get('since'));
  if (!Number.isSafeInteger(since) || since < 0) return refused({ code: 'bad-request', message: 'Say since which revision.' });
  let stop = () => {};
  let timer: ReturnType<typeof setInterval>;
  const stream = new ReadableStream<string>({
    start: async (controller) => {
      const tell = ({ revision, id, changes, history }: News) =>
        controller.enqueue(`id: ${revision}\ndata: ${JSON.stringify({ revision, id, changes: encodeChanges(changes), history })}\n\n`);
      controller.enqueue('retry: 1000\n\n');
      timer = setInterval(() => controller.enqueue(': still here\n\n'), HEARTBEAT_MS);
      const followed = await sessions.follow(params.id, since, tell);
      stop = followed.stop;
      if (followed.missed === null) controller.enqueue('event: reset\ndata: {}\n\n');
      else followed.missed.forEach(tell);
    },
    cancel: () => {
      clearInterval(timer);
      stop();
    }
  });
  return new Response(stream.pipeThrough(new TextEncoderStream()), {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' }
  });
};

// GET: server-sent events: the player's view anew after each change that concerns it; "closed" when the engineer closes the page.
import { cueView } from '$core/routing/cueView';
import { app } from '$lib/server/app';
import { seatOf } from '$lib/server/players';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const HEARTBEAT_MS = 15_000;

export const GET: RequestHandler = async ({ params }) => {
  const { database, sessions } = await app();
  const seat = await seatOf(database, sessions, params.token);
  if (!seat.ok) return refused(seat.error);
  const { state, cueId } = seat.value;
  let stop = () => {};
  let timer: ReturnType<typeof setInterval>;
  const stream = new ReadableStream<string>({
    start: async (controller) => {
      let told = '';
      const tell = () => {
        const view = state.session.cueToken.has(params.token) ? cueView(state.session, cueId) : null;
        const text = JSON.stringify(view);
        if (text === told) return;
        told = text;
        controller.enqueue(view ? `data: ${text}\n\n` : 'event: closed\ndata: {}\n\n');
      };
      controller.enqueue('retry: 1000\n\n');
      timer = setInterval(() => controller.enqueue(': still here\n\n'), HEARTBEAT_MS);
      stop = (await sessions.follow(state.id, state.revision, tell)).stop;
      tell();
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

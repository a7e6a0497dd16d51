// GET: server-sent events: the player's view anew after each change that concerns it; "closed" when the engineer closes the page.
import { cueView } from '$core/routing/cueView';
import { app } from '$lib/server/app';
import { cutter, eventStream } from '$lib/server/eventStream';
import { seatOf } from '$lib/server/players';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, platform }) => {
  const { database, sessions } = await app();
  const seat = await seatOf(database, sessions, params.token);
  if (!seat.ok) return refused(seat.error);
  const { state, cueId } = seat.value;
  return eventStream(async (send) => {
    let told = '';
    // Opened anew each time: after a batch that failed the session may have been read again.
    const tell = async () => {
      const { session } = (await sessions.open(state.id)) ?? state;
      const view = session.cueToken.get(params.token)?.channelId === cueId ? cueView(session, cueId) : null;
      const text = JSON.stringify(view);
      if (text === told) return;
      told = text;
      send(view ? `data: ${text}\n\n` : 'event: closed\ndata: {}\n\n');
    };
    const { stop } = await sessions.follow(state.id, state.revision, tell);
    await tell();
    return stop;
  }, cutter(platform));
};

// GET: server-sent events: the player's view anew after each change that concerns it; "closed" when the engineer closes the page.
import { ok } from '$core/result';
import { cueView } from '$core/routing/cueView';
import { app } from '$lib/server/app';
import { cutter, eventStream } from '$lib/server/eventStream';
import { atSeat } from '$lib/server/players';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, platform }) => {
  const { database, sessions } = await app();
  const seat = await atSeat(database, sessions, params.token, ({ state, cueId }) => ok({ id: state.id, base: state.revision, cueId }));
  if (!seat.ok) return refused(seat.error);
  const { id, base, cueId } = seat.value;
  return eventStream(async (send) => {
    let told = '';
    const tell = async () => {
      const view = await sessions.read(id, ({ session }) =>
        session.cueToken.get(params.token)?.channelId === cueId ? cueView(session, cueId) : null
      );
      const text = JSON.stringify(view);
      if (text === told) return;
      told = text;
      send(view ? `data: ${text}\n\n` : 'event: closed\ndata: {}\n\n');
    };
    const { stop } = await sessions.follow(id, base, tell);
    await tell();
    return stop;
  }, cutter(platform));
};

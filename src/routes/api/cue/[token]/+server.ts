// GET: what a player sees of his cue. POST { level?, sends: [{ source, level?, on? }] }: sets levels of this cue alone.
import { json } from '@sveltejs/kit';
import { ok } from '$core/result';
import { cueView } from '$core/routing/cueView';
import { app } from '$lib/server/app';
import { atSeat, playerMove } from '$lib/server/players';
import { bodyOf } from '$lib/server/bodies';
import { notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

async function seen(token: string): Promise<Response> {
  const { database, sessions } = await app();
  const view = await atSeat(database, sessions, token, ({ state, cueId }) => ok(cueView(state.session, cueId)));
  return view.ok ? json(view.value) : refused(view.error);
}

export const GET: RequestHandler = ({ params }) => seen(params.token);

export const POST: RequestHandler = async ({ params, request }) => {
  const { database, sessions } = await app();
  const body = await bodyOf(request);
  if (!body) return notJson();
  const seat = await atSeat(database, sessions, params.token, ({ state, cueId }) => {
    const move = playerMove(state.session, cueId, body);
    return move.ok ? ok({ id: state.id, base: state.revision, commands: move.value }) : move;
  });
  if (!seat.ok) return refused(seat.error);
  const { id, base, commands } = seat.value;
  const done = await sessions.carryOut(id, { base, id: crypto.randomUUID(), commands }, true);
  return done.ok ? seen(params.token) : refused(done.error);
};

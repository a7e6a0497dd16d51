// GET: what a player sees of his cue. POST { level?, sends: [{ source, level?, on? }] }: sets levels of this cue alone.
import { json } from '@sveltejs/kit';
import { cueView } from '$core/routing/cueView';
import { app } from '$lib/server/app';
import { playerMove, seatOf } from '$lib/server/players';
import { bodyOf } from '$lib/server/bodies';
import { notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { database, sessions } = await app();
  const seat = await seatOf(database, sessions, params.token);
  return seat.ok ? json(cueView(seat.value.state.session, seat.value.cueId)) : refused(seat.error);
};

export const POST: RequestHandler = async ({ params, request }) => {
  const { database, sessions } = await app();
  const seat = await seatOf(database, sessions, params.token);
  if (!seat.ok) return refused(seat.error);
  const { state, cueId } = seat.value;
  const body = await bodyOf(request);
  if (!body) return notJson();
  const move = await playerMove(state.session, cueId, body);
  if (!move.ok) return refused(move.error);
  const batch = { base: state.revision, id: crypto.randomUUID(), commands: move.value };
  const done = await sessions.carryOut(state.id, batch, true);
  return done.ok ? json(cueView(state.session, cueId)) : refused(done.error);
};

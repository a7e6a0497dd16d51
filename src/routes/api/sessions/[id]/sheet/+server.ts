// GET: the track sheet as CSV. POST (a CSV): carries out what it changes; with ?preview only says what that is.
import { json } from '@sveltejs/kit';
import { readSheet, writeSheet } from '$core/organise/sheet';
import { settingsOf } from '$core/session/entities';
import { app } from '$lib/server/app';
import { textOf } from '$lib/server/bodies';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const MOST_SHEET = 8_000_000;

export const GET: RequestHandler = async ({ params }) => {
  const { sessions } = await app();
  const written = await sessions.read(params.id, ({ session }) => ({ text: writeSheet(session), title: settingsOf(session).name }));
  if (!written) return noSession();
  const name = written.title.replace(/[^\p{L}\p{N} ._-]+/gu, '_');
  return new Response(written.text, {
    headers: {
      'Content-Type': 'text/csv; charset=utf-8',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${name} tracks.csv`)}`
    }
  });
};

export const POST: RequestHandler = async ({ params, request, url }) => {
  const { sessions } = await app();
  const text = await textOf(request, MOST_SHEET);
  const read = await sessions.read(params.id, ({ session, revision }) => ({ plan: readSheet(session, text), base: revision }));
  if (!read) return noSession();
  const { plan, base } = read;
  if (!plan.ok) return refused(plan.error);
  if (url.searchParams.has('preview') || plan.value.commands.length === 0) return json(plan.value);
  const done = await sessions.carryOut(params.id, { base, id: crypto.randomUUID(), commands: plan.value.commands });
  return done.ok ? json({ ...plan.value, revision: done.value.revision }) : refused(done.error);
};

// POST { rules?, options?, corrections?, ids?, preview? }: sorts tracks by rule as one batch, or says what that would do.
import { json } from '@sveltejs/kit';
import { planBatch } from '$core/commands/plan';
import { readRuleBook } from '$core/organise/ruleBook';
import { readSortOptions } from '$core/organise/sortOptions';
import { sortPlan } from '$core/organise/sort';
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { noSession, notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ params, request }) => {
  const body = await bodyOf(request);
  if (!body) return notJson();
  const { sessions, library } = await app();
  const book = body.rules === undefined ? { ok: true as const, value: (await library.rules()).book } : readRuleBook(body.rules);
  if (!book.ok) return refused(book.error);
  const wanted = readSortOptions(body);
  if (!wanted.ok) return refused(wanted.error);
  const read = await sessions.read(params.id, ({ session, revision }) => {
    const plan = sortPlan(session, { book: book.value, ...wanted.value, newId: () => crypto.randomUUID() });
    return { plan, planned: planBatch(session, plan.commands), base: revision };
  });
  if (!read) return noSession();
  const { plan, planned, base } = read;
  if (!planned.ok) return refused(planned.error);
  const tracks = plan.tracks.map(({ rule, fights, ...track }) => ({
    ...track,
    rule: rule?.id ?? null,
    fights: fights.map(({ id }) => id)
  }));
  if (body.preview === true || plan.commands.length === 0) return json({ tracks, commands: plan.commands });
  const done = await sessions.carryOut(params.id, { base, id: crypto.randomUUID(), commands: plan.commands });
  return done.ok ? json({ tracks, revision: done.value.revision }) : refused(done.error);
};

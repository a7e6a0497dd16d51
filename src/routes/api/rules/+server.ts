// GET: the installation's sorting rules, and names of those put aside. PUT { families, rules }: keeps these. POST { name }: takes back those
// put aside under a name. DELETE: back to those that ship.
import { json } from '@sveltejs/kit';
import { isPlain } from '$core/text';
import { app } from '$lib/server/app';
import { bodyOf } from '$lib/server/bodies';
import { notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => json(await (await app()).library.rules());

export const PUT: RequestHandler = async ({ request }) => {
  const body = await bodyOf(request);
  if (!body) return notJson();
  const kept = await (await app()).library.keepRules(body);
  return kept.ok ? json({ book: kept.value, own: true }) : refused(kept.error);
};

export const POST: RequestHandler = async ({ request }) => {
  const body = await bodyOf(request);
  if (!body) return notJson();
  if (typeof body.name !== 'string' || !isPlain(body.name))
    return refused({ code: 'bad-arguments', message: 'Say by name which rules are taken back.' });
  const taken = await (await app()).library.takeRules(body.name);
  return taken.ok ? json({ book: taken.value, own: true }) : refused(taken.error);
};

export const DELETE: RequestHandler = async () => {
  const kept = await (await app()).library.keepRules(null);
  return kept.ok ? json({ book: kept.value, own: false }) : refused(kept.error);
};

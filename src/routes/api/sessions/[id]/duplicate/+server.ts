// POST { name }: a copy of the session under that name; its id. Undo history, prints and players' addresses stay with the first one.
import { json } from '@sveltejs/kit';
import * as yup from 'yup';
import { trimmed } from '$core/commands/define';
import { app } from '$lib/server/app';
import { bodyFit } from '$lib/server/bodies';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const schema = yup.object({ name: trimmed(120).min(1, 'The copy needs a name.').required('The copy needs a name.') });

export const POST: RequestHandler = async ({ params, request }) => {
  const { name } = await bodyFit(request, schema);
  const made = await (await app()).shelf.duplicate(params.id, name);
  return made.ok ? json({ id: made.value }, { status: 201 }) : refused(made.error);
};

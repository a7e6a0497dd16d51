// GET: all templates. POST { session, name, lanes }: keeps a session's structure, with its lanes if they are asked for. POST { template }: takes a template's document.
import { json } from '@sveltejs/kit';
import * as yup from 'yup';
import { id, trimmed } from '$core/commands/define';
import { readTemplate } from '$core/organise/template';
import { app } from '$lib/server/app';
import { bodyOf, fit } from '$lib/server/bodies';
import { noSession, notJson, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

const schema = yup.object({
  session: id().required(),
  name: trimmed(120).min(1).required('A template needs a name.'),
  rules: yup.boolean().default(true),
  lanes: yup.boolean().default(false)
});

export const GET: RequestHandler = async () => json({ templates: await (await app()).library.templates() });

export const POST: RequestHandler = async ({ request }) => {
  const body = await bodyOf(request);
  if (!body) return notJson();
  const { library, sessions } = await app();
  if (body.template !== undefined) {
    const read = readTemplate(JSON.stringify(body.template));
    if (!read.ok) return refused(read.error);
    const kept = await library.keepTemplate(read.value);
    return kept.ok ? json({ name: read.value.name }, { status: 201 }) : refused(kept.error);
  }
  const { session, name, rules, lanes } = fit(body, schema);
  const book = rules ? (await library.rules()).book : null;
  const kept = await sessions.read(session, (state) => library.keepTemplate({ name, session: state.session, rules: book, lanes }));
  if (!kept) return noSession();
  return kept.ok ? json({ name }, { status: 201 }) : refused(kept.error);
};

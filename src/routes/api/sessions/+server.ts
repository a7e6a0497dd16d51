// GET: all sessions with what there is of each; ?bin=1 those in the bin. POST { name, rate?, bpm?, template? }: a new one, empty or with a template's structure.
import { json } from '@sveltejs/kit';
import { sessionFrom } from '$core/organise/template';
import { app } from '$lib/server/app';
import { bodyFit } from '$lib/server/bodies';
import { refused } from '$lib/server/respond';
import * as yup from 'yup';
import { text, trimmed } from '$core/commands/define';
import type { RequestHandler } from './$types';

const schema = yup.object({
  name: trimmed(120).min(1, 'A session needs a name.').required('A session needs a name.'),
  rate: yup
    .number()
    .oneOf([44100, 48000, 88200, 96000, 176400, 192000], 'The rate is 44100, 48000, 88200, 96000, 176400 or 192000 Hz.')
    .default(48000),
  bpm: yup.number().min(20).max(400).default(120),
  template: text(120)
});

export const GET: RequestHandler = async ({ url }) =>
  json({ sessions: await (await app()).shelf.list(url.searchParams.get('bin') === '1') });

export const POST: RequestHandler = async ({ request }) => {
  const { template: name, ...settings } = await bodyFit(request, schema);
  const id = crypto.randomUUID();
  const { sessions, library } = await app();
  if (name === undefined) await sessions.create(id, settings);
  else {
    const template = await library.template(name);
    if (!template.ok) return refused(template.error);
    await sessions.adopt(id, sessionFrom(template.value, settings));
  }
  return json({ id }, { status: 201 });
};

// POST { base, id, commands, gesture? } or { base, id, undo } or { base, id, redo }: one transaction, acknowledged when it is on disk.
import { json } from '@sveltejs/kit';
import * as yup from 'yup';
import { text } from '$core/commands/define';
import { encodeChanges } from '$core/session/changes';
import { app } from '$lib/server/app';
import { bodyFit } from '$lib/server/bodies';
import { refused } from '$lib/server/respond';
import type { Batch } from '$lib/server/sessions';
import type { RequestHandler } from './$types';

const schema = yup.object({
  base: yup.number().integer().min(0).required('A batch names the revision it is based on, as “base”.'),
  id: text(100).min(1).required('A batch needs an “id” of its own, so that it can be repeated without harm.'),
  commands: yup
    .array()
    .of(yup.mixed().required('A command is an object with “do” and its arguments.'))
    .min(1, 'A batch holds at least one command.')
    .max(10000, 'A batch holds at most 10,000 commands. Send the rest in another.'),
  gesture: text(100).nullable(),
  undo: text(100),
  redo: text(100)
});
const KINDS = ['commands', 'undo', 'redo'] as const;

export const POST: RequestHandler = async ({ params, request }) => {
  const body = await bodyFit(request, schema, 'bad-request');
  if (KINDS.filter((kind) => body[kind] !== undefined).length !== 1)
    return refused({ code: 'bad-request', message: 'A batch holds commands, or names one entry to undo or redo.' });
  const outcome = await (await app()).sessions.carryOut(params.id, body as Batch);
  if (!outcome.ok) return refused(outcome.error);
  const { revision, missed, changes, history } = outcome.value;
  const told = missed && missed.map((done) => ({ ...done, changes: encodeChanges(done.changes) }));
  return json({ revision, missed: told, changes: encodeChanges(changes), history });
};

// GET: a template as a document. DELETE: forgets one; those that ship stay.
import { writeTemplate } from '$core/organise/template';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const template = await (await app()).library.template(params.name);
  if (!template.ok) return refused(template.error);
  return new Response(writeTemplate(template.value), {
    headers: { 'Content-Type': 'application/json', 'Content-Disposition': `attachment; filename="template.json"` }
  });
};

export const DELETE: RequestHandler = async ({ params }) => {
  const gone = await (await app()).library.removeTemplate(params.name);
  return gone.ok ? new Response(null, { status: 204 }) : refused(gone.error);
};

// GET: how a printed file looks, peaks and short-term loudness in equal parts; and where in it the samples are, of a WAV file.
import { json } from '@sveltejs/kit';
import { headerOf } from '$files/intake';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { prints } = await app();
  const [shape, found] = await Promise.all([prints.shape(params.id, params.file), prints.file(params.id, params.file)]);
  if (!shape || !found) return refused({ code: 'not-found', message: 'This file was printed before its shape was kept. Print it again.' });
  const header = found.name.endsWith('.wav') ? await headerOf(found.file) : null;
  const wav = header?.ok ? { dataAt: header.value.dataAt, encoding: header.value.encoding } : null;
  return json({ ...shape, wav });
};

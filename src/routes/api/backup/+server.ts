// GET: everything as one file (ZIP), streamed. POST: restores one; what was here and is not in it, or otherwise, goes into the bin.
import { json } from '@sveltejs/kit';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import { attachment, streamed } from '$lib/server/streamed';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async () => {
  const name = `isotaxis ${new Date().toISOString().slice(0, 10)}.backup.zip`;
  return streamed(await (await app()).backups.write(), {
    ...{ 'Content-Type': 'application/zip', 'Content-Disposition': attachment(name), 'Cache-Control': 'no-store' }
  });
};

export const POST: RequestHandler = async ({ request }) => {
  if (!request.body) return refused({ code: 'empty', message: 'The backup is empty. Choose its file again.' });
  const restored = await (await app()).backups.restore(request.body);
  return restored.ok ? json(restored.value) : refused(restored.error);
};

// GET: a printed file, whole or a byte range, to hear or (?download) to keep.
import { app } from '$lib/server/app';
import { serveFile } from '$lib/server/serveFile';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url }) =>
  serveFile(await (await app()).prints.file(params.id, params.file), request, url);

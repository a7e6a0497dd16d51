// GET: the file, whole or a byte range, to hear or (?download) to keep. DELETE ?cancel stops the job; without it the print goes.
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { app } from '$lib/server/app';
import { refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params, request, url }) => {
  const print = await (await app()).prints.file(params.id);
  if (!print) return refused({ code: 'not-found', message: 'There is no finished print of this id.' });
  const { size } = await stat(print.file);
  const headers: Record<string, string> = { 'Content-Type': 'audio/wav', 'Accept-Ranges': 'bytes', 'Cache-Control': 'no-store' };
  if (url.searchParams.has('download'))
    headers['Content-Disposition'] = `attachment; filename="print.wav"; filename*=UTF-8''${encodeURIComponent(print.name)}`;
  const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.get('range') ?? '');
  const start = range ? Number(range[1]) : 0;
  const end = range?.[2] ? Math.min(Number(range[2]), size - 1) : size - 1;
  if (start > end) return refused({ code: 'bad-range', message: `The print has ${size} bytes. Ask for some of them.` });
  headers['Content-Length'] = String(end - start + 1);
  if (range) headers['Content-Range'] = `bytes ${start}-${end}/${size}`;
  const body = Readable.toWeb(createReadStream(print.file, { start, end })) as ReadableStream;
  return new Response(body, { status: range ? 206 : 200, headers });
};

export const DELETE: RequestHandler = async ({ params, url }) => {
  const { prints } = await app();
  const done = await (url.searchParams.has('cancel') ? prints.cancel(params.id) : prints.remove(params.id));
  return done.ok ? new Response(null, { status: 204 }) : refused(done.error);
};

// An audio file as an answer: whole or a byte range, to hear or to keep.
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { refused } from './respond';

export type Served = { readonly file: string; readonly name: string };

/** 200, 206 with a range, 416 where the range is none of it, 404 where there is no file. `?download` names it for keeping. */
export async function serveFile(served: Served | null, request: Request, url: URL): Promise<Response> {
  const found =
    served && (await stat(served.file).catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error))));
  if (!served || !found) return refused({ code: 'not-found', message: 'There is no finished print of this id.' });
  const { size } = found;
  const type = served.name.endsWith('.flac') ? 'audio/flac' : 'audio/wav';
  const headers: Record<string, string> = { 'Content-Type': type, 'Accept-Ranges': 'bytes', 'Cache-Control': 'no-store' };
  if (url.searchParams.has('download'))
    headers['Content-Disposition'] = `attachment; filename="print.${type.slice(6)}"; filename*=UTF-8''${encodeURIComponent(served.name)}`;
  const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.get('range') ?? '');
  const start = range ? Number(range[1]) : 0;
  const end = range?.[2] ? Math.min(Number(range[2]), size - 1) : size - 1;
  if (start > end) return refused({ code: 'bad-range', message: `The print has ${size} bytes. Ask for some of them.` });
  headers['Content-Length'] = String(end - start + 1);
  if (range) headers['Content-Range'] = `bytes ${start}-${end}/${size}`;
  const body = Readable.toWeb(createReadStream(served.file, { start, end })) as ReadableStream;
  return new Response(body, { status: range ? 206 : 200, headers });
}

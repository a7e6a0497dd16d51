// An audio file as an answer: whole or a byte range (RFC 9110 §14), to hear or to keep.
import { open } from 'node:fs/promises';
import parseRange from 'range-parser';
import { refused } from './respond';
import { attachment, streamed } from './streamed';

export type Served = { readonly file: string; readonly name: string };

/**
 * 200; 206 with one range; 416 where the range is none of it; 304 where who asks has it; 404 where there is no file. Several ranges at
 * once are answered with the whole file, as are ranges of what has become another file since (`If-Range`). `?download` names it for keeping.
 */
export async function serveFile(served: Served | null, request: Request, url: URL): Promise<Response> {
  const handle =
    served && (await open(served.file).catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error))));
  if (!served || !handle) return refused({ code: 'not-found', message: 'There is no finished print of this id.' });
  let kept = false;
  try {
    const { size, mtimeMs } = await handle.stat();
    const etag = `"${size.toString(36)}-${Math.round(mtimeMs).toString(36)}"`;
    const type = served.name.endsWith('.flac') ? 'audio/flac' : 'audio/wav';
    const headers: Record<string, string> = { 'Content-Type': type, 'Accept-Ranges': 'bytes', 'Cache-Control': 'no-cache', ETag: etag };
    if (url.searchParams.has('download')) headers['Content-Disposition'] = attachment(served.name);
    const has = request.headers.get('if-none-match');
    if (has?.split(',').some((tag) => [etag, '*'].includes(tag.trim().replace(/^W\//, ''))))
      return new Response(null, { status: 304, headers });
    const same = (request.headers.get('if-range') ?? etag) === etag;
    const asked = same ? request.headers.get('range') : null;
    const ranges = asked === null ? -2 : parseRange(size, asked);
    if (ranges === -1) {
      const none = refused({ code: 'bad-range', message: `The print has ${size} bytes. Ask for some of them.` });
      none.headers.set('Content-Range', `bytes */${size}`);
      return none;
    }
    const range = typeof ranges === 'object' && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : null;
    const { start, end } = range ?? { start: 0, end: size - 1 };
    headers['Content-Length'] = String(end - start + 1);
    if (range) headers['Content-Range'] = `bytes ${start}-${end}/${size}`;
    // Given the end of nothing, a stream would read all there is: an empty file has none.
    if (size === 0) return new Response(null, { headers });
    kept = true;
    return streamed(handle.createReadStream({ start, end }), headers, range ? 206 : 200);
  } finally {
    if (!kept) await handle.close();
  }
}

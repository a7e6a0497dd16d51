// GET: the session as a package (ZIP of session.json and audio), streamed.
import { Readable } from 'node:stream';
import { settingsOf } from '$core/session/entities';
import { packageStream } from '$files/package';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { sessions, media } = await app();
  const state = await sessions.open(params.id);
  if (!state) return noSession();
  const files = new Map<string, string>();
  for (const { name, sha256 } of state.session.media.values()) {
    const stored = await media.stored(sha256);
    if (!stored) return refused({ code: 'missing', message: `The audio of ${name} is gone from the store. Import it again.` });
    files.set(sha256, stored.file);
  }
  const { name } = settingsOf(state.session);
  const stream = packageStream(state.session, (sha256) => files.get(sha256)!);
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename="${name.replace(/[^\w .-]/g, '-')}.zip"; filename*=UTF-8''${encodeURIComponent(`${name}.zip`)}`
    }
  });
};

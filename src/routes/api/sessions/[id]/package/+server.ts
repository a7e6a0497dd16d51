// GET: the session as a package (ZIP of session.json and audio), streamed.
import { Readable } from 'node:stream';
import { copyOf } from '$core/session/create';
import { settingsOf } from '$core/session/entities';
import { packageStream } from '$files/package';
import { app } from '$lib/server/app';
import { noSession, refused } from '$lib/server/respond';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const { sessions, media } = await app();
  const session = await sessions.read(params.id, (state) => copyOf(state.session));
  if (!session) return noSession();
  const files = new Map<string, string>();
  for (const { name, sha256 } of session.media.values()) {
    const stored = await media.stored(sha256);
    if (!stored) return refused({ code: 'missing', message: `The audio of ${name} is gone from the store. Import it again.` });
    files.set(sha256, stored.file);
  }
  const { name } = settingsOf(session);
  const stream = packageStream(session, (sha256) => files.get(sha256)!);
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename="${name.replace(/[^\w .-]/g, '-')}.zip"; filename*=UTF-8''${encodeURIComponent(`${name}.zip`)}`
    }
  });
};

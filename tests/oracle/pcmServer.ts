// The batch endpoint of recordings, over samples in memory: what a mix worker fetches from.
import type { Session } from '../../core/session/entities.ts';

/** Gives each recording of a session a hash of its own: the rig gives all of them one, as the store never would. */
export function hashed(session: Session): Map<string, string> {
  const hashes = new Map<string, string>();
  for (const [i, [id, row]] of [...session.media].entries()) {
    const sha256 = (i + 1).toString(16).padStart(64, '0');
    hashes.set(id, sha256);
    session.media.set(id, { ...row, sha256 });
  }
  return hashes;
}

/** Answers as POST /api/pcm does; `files` by hash. */
export const pcmServer =
  (files: ReadonlyMap<string, readonly Float32Array[]>) =>
  (_address: string, request: { readonly body: string }): Promise<Response> => {
    const { media, from, frames } = JSON.parse(request.body) as { media: string[]; from: number; frames: number };
    const parts = media.map((sha256) => ({ sha256, sides: files.get(sha256)!.map((side) => side.slice(from, from + frames)) }));
    const there = parts.filter(({ sides }) => sides[0].length > 0);
    const head = new TextEncoder().encode(
      JSON.stringify(there.map(({ sha256, sides }) => ({ sha256, channels: sides.length, encoding: 'f32', bytes: sides[0].byteLength })))
    );
    return Promise.resolve(new Response(new Blob([new Uint32Array([head.length]), head, ...there.flatMap(({ sides }) => sides)])));
  };

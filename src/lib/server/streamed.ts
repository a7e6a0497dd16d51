// Answers that are streams: whoever asked may leave at any moment, before the first byte or in the middle, and nothing stays open.
import type { Readable } from 'node:stream';

/**
 * A stream of Node's as the body of an answer, read as it is asked for. Where the reader leaves, it is destroyed; where it breaks, the
 * answer is cut off, which is how a reader sees that it is not whole.
 */
export function bodyFrom(source: Readable): ReadableStream<Uint8Array> {
  // It may break while nobody reads from it yet.
  source.on('error', () => undefined);
  const chunks = source[Symbol.asyncIterator]() as AsyncIterator<Uint8Array>;
  return new ReadableStream<Uint8Array>(
    {
      pull: async (controller) => {
        const { done, value } = await chunks.next();
        if (done) controller.close();
        else controller.enqueue(value);
      },
      cancel: () => void source.destroy()
    },
    { highWaterMark: 0 }
  );
}

export const streamed = (source: Readable, headers: Record<string, string>, status = 200): Response =>
  new Response(bodyFrom(source), { status, headers });

/** `attachment` under a name of any letters; `plain` where a program takes only the simplest. */
export const attachment = (name: string): string =>
  `attachment; filename="${name.replace(/[^\w .-]/g, '-')}"; filename*=UTF-8''${encodeURIComponent(name)}`;

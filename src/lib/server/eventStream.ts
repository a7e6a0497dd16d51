// Server-sent events that cannot harm what they tell of: a reader who leaves, at whatever moment, leaves nothing behind, and one who
// never reads is dropped.

/** A comment now and then keeps the connection from being taken for dead. */
const HEARTBEAT_MS = 15_000;
/** What may wait for a reader, bytes: tens of thousands of moves of a fader. Who is further behind does better to load anew. */
export const MOST_WAITING = 4_000_000;

export type Send = (text: string) => void;

/**
 * An answer that stays open. `begin` is given `send`, which never throws and after the end does nothing, and resolves to how to stop; it
 * may take its time, and is stopped as well where the reader leaves meanwhile. `drop` cuts the line to a reader who does not read, or
 * after a failure.
 */
export function eventStream(begin: (send: Send) => Promise<() => void>, drop: () => void = () => {}): Response {
  const encoder = new TextEncoder();
  let stop = () => {};
  let timer: ReturnType<typeof setInterval> | undefined;
  let over = false;
  const end = () => {
    over = true;
    clearInterval(timer);
    stop();
    stop = () => {};
  };
  const stream = new ReadableStream<Uint8Array>(
    {
      start: (controller) => {
        const fail = (error: Error) => {
          if (over) return;
          end();
          controller.error(error);
          drop();
        };
        const send: Send = (text) => {
          if (over) return;
          controller.enqueue(encoder.encode(text));
          if ((controller.desiredSize ?? 0) < -MOST_WAITING) fail(new Error('The reader of an event stream does not read.'));
        };
        send('retry: 1000\n\n');
        timer = setInterval(() => send(': still here\n\n'), HEARTBEAT_MS);
        begin(send).then((stopIt) => {
          if (over) stopIt();
          else stop = stopIt;
        }, fail);
      },
      cancel: end
    },
    new ByteLengthQueuingStrategy({ highWaterMark: 65536 })
  );
  return new Response(stream, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' }
  });
}

/** How to cut the line that a request came on. */
export const cutter =
  (platform: App.Platform | undefined): (() => void) =>
  () =>
    platform?.req.destroy();

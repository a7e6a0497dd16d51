// Event streams: readers who leave early, late, or never read, and what tells them fails: nothing stays behind, nothing else is harmed.
import { expect, it, vi } from 'vitest';
import { piecesOf, textOf } from './bodies';
import { eventStream, MOST_WAITING, type Send } from './eventStream';
import { Refused } from './failures';

const text = async (reader: ReadableStreamDefaultReader<Uint8Array>) => new TextDecoder().decode((await reader.read()).value);

it('stops what it follows when the reader leaves, also before it has begun', async () => {
  for (const early of [true, false]) {
    const stop = vi.fn();
    let begun = () => {};
    const waiting = new Promise<void>((resolve) => (begun = resolve));
    let tell: Send = () => {};
    const { body } = eventStream(async (send) => {
      tell = send;
      await waiting;
      return stop;
    });
    const reader = body!.getReader();
    expect(await text(reader)).toBe('retry: 1000\n\n');
    if (early) await reader.cancel();
    begun();
    await Promise.resolve();
    if (!early) {
      tell('data: 1\n\n');
      expect(await text(reader)).toBe('data: 1\n\n');
      await reader.cancel();
    }
    await vi.waitFor(() => expect(stop).toHaveBeenCalledTimes(1), { timeout: 120_000 });
    // Told after the end it says nothing, and throws nothing.
    tell('data: 2\n\n');
  }
});

it('drops a reader who never reads once too much waits, and one whose beginning fails', async () => {
  const stop = vi.fn();
  const drop = vi.fn();
  const piece = 'x'.repeat(1_000_000);
  let tell: Send = () => {};
  const { body } = eventStream((send) => {
    tell = send;
    return Promise.resolve(stop);
  }, drop);
  await Promise.resolve();
  for (let i = 0; i < (2 * MOST_WAITING) / piece.length; i++) tell(piece);
  expect([stop.mock.calls.length, drop.mock.calls.length]).toEqual([1, 1]);
  await expect(body!.getReader().read()).rejects.toThrow('does not read');

  const cut = vi.fn();
  const failing = eventStream(() => Promise.reject(new Error('no database')), cut).body!.getReader();
  await expect((async () => (await failing.read(), failing.read()))()).rejects.toThrow('no database');
  expect(cut).toHaveBeenCalledTimes(1);
});

it('reads bodies within bounds, and does not wait for ever for the rest of one', async () => {
  const body = (...parts: string[]) => new Request('http://x', { method: 'POST', body: parts.join('') });
  expect(await textOf(body('{"a":', '1}'))).toBe('{"a":1}');
  await expect(textOf(body('x'.repeat(30)), 20)).rejects.toMatchObject({ refusal: { code: 'too-large' } });
  const half = new ReadableStream<Uint8Array>({ start: (controller) => controller.enqueue(new Uint8Array(3)) });
  const pieces = piecesOf(half, 20);
  expect((await pieces.next()).value).toHaveLength(3);
  const late = pieces.next();
  await expect(late).rejects.toBeInstanceOf(Refused);
  await expect(late).rejects.toMatchObject({ refusal: { code: 'too-slow' } });
});

// Shared memory and the recordings' cache of the mix worker.
import { afterEach, describe, expect, it, vi } from 'vitest';
import { hashed, pcmServer } from '../../../tests/oracle/pcmServer';
import { carryOut, emptyDesk, noise, trackCommand } from '../../../tests/oracle/rig';
import { createPcmCache } from './pcmCache';
import { CELL, METERED, REDUCED, ringBuffer, ringOver, shownIn, SLOT, slotMeters, SLOTS, slotOf, slotReductions, slotsIn } from './ring';

describe('ring', () => {
  it('lays its parts side by side without overlap, and wraps running numbers, negative ones too', () => {
    const buffer = ringBuffer();
    const ring = ringOver(buffer);
    const parts = [ring.control, ring.positions, ring.orders, ring.audio, ring.meters, ring.reductions];
    parts.slice(1).forEach((part, i) => expect(part.byteOffset).toBe(parts[i].byteOffset + parts[i].byteLength));
    expect(ring.reductions.byteOffset + ring.reductions.byteLength).toBe(buffer.byteLength);
    expect(ring.audio.length).toBe(SLOTS * SLOT * 2);
    expect(slotMeters(ring, SLOTS - 1).length).toBe(METERED * 4);
    expect(Math.max(...Object.values(CELL))).toBeLessThan(ring.control.length);
    expect([slotOf(5), slotOf(SLOTS), slotOf(2 ** 31 - 1), slotOf(-1)]).toEqual([5, 0, SLOTS - 1, SLOTS - 1]);
  });

  it('names no more channels and inserts than a slot has cells for, in a session of any size', () => {
    const [ring, many] = [ringOver(ringBuffer()), Array.from({ length: 9000 }, (_, i) => `c${i}`)];
    const { ids, inserts } = shownIn(many, many);
    expect(slotMeters(ring, 3)[ids.length * 4 - 1]).toBe(0);
    expect(slotReductions(ring, 3)[inserts.length - 1]).toBe(0);
    expect([ids.length, inserts.length]).toEqual([METERED, REDUCED]);
    // 2,000 channels, an output pair and what sends take before the fader all have theirs.
    expect(shownIn(many.slice(0, 2300), []).ids).toHaveLength(2300);
  });
});

it('keeps as much time ready at every rate: slots are counted by it', () => {
  expect([44100, 48000, 96000, 192000].map((rate) => slotsIn(96, rate))).toEqual([34, 36, 72, 144]);
  for (const rate of [44100, 48000, 96000, 192000]) {
    const ms = (slotsIn(96, rate) * SLOT * 1000) / rate;
    expect(ms).toBeGreaterThanOrEqual(96);
    expect(ms).toBeLessThan(100);
    // What is kept ready and the margin leave the slot that is written apart from the one that is played.
    expect(slotsIn(96, rate) + slotsIn(10.6, rate)).toBeLessThan(SLOTS);
  }
});

describe('recordings cache', () => {
  afterEach(() => vi.unstubAllGlobals());
  const FRAMES = 100_000;
  const session = carryOut(
    emptyDesk(),
    trackCommand([
      { id: 'a', frames: FRAMES },
      { id: 'b', width: 2, frames: 40_000 }
    ])
  );
  const hashes = hashed(session);
  const files = new Map([
    [hashes.get('m-a')!, [noise(FRAMES, 1)]],
    [hashes.get('m-b')!, [noise(40_000, 2), noise(40_000, 3)]]
  ]);
  const serve = vi.fn(pcmServer(files));

  const counts = () => serve.mock.calls.map(([, { body }]) => (JSON.parse(body) as { media: string[] }).media.length);

  it('fetches all recordings of a span together, once, and reads across chunks exactly', async () => {
    vi.stubGlobal('fetch', serve);
    const cache = createPcmCache();
    const span = [{ from: 30_000, to: 36_000 }];
    expect(cache.ready(session, span)).toBe(false);
    await Promise.all([cache.load(session, span), cache.load(session, span)]);
    expect(counts()).toEqual([2]);
    expect(cache.ready(session, span)).toBe(true);
    const out = new Float32Array(6000);
    cache.read('m-b', 1, 30_000, out);
    expect(out).toEqual(files.get(hashes.get('m-b')!)![1].subarray(30_000, 36_000));
    cache.read('m-a', 0, 30_000, out);
    expect(out).toEqual(files.get(hashes.get('m-a')!)![0].subarray(30_000, 36_000));
    // On to where the shorter recording has ended: one request more, for the longer alone.
    await cache.load(session, [{ from: 36_000, to: 70_000 }]);
    expect(counts()).toEqual([2, 1]);
    const far = new Float32Array(34_000);
    cache.read('m-a', 0, 36_000, far);
    expect(far).toEqual(files.get(hashes.get('m-a')!)![0].subarray(36_000, 70_000));
  });

  it('lets go what was wanted longest ago, and never what is wanted now, wherever in their recordings clips play', async () => {
    vi.stubGlobal('fetch', serve);
    const scattered = carryOut(
      emptyDesk(),
      trackCommand([{ id: 'a', frames: FRAMES }]),
      { do: 'clips.cut', ids: ['a:1'], at: 20_000, as: 'x' },
      { do: 'clips.cut', ids: ['x:1'], at: 80_000, as: 'y' },
      { do: 'clips.move', ids: ['y:1'], by: -60_000 }
    );
    hashed(scattered);
    // Room for a single chunk: less than any span needs.
    const cache = createPcmCache(8192);
    const span = [{ from: 15_000, to: 25_000 }];
    await cache.load(scattered, span);
    expect(cache.ready(scattered, span)).toBe(true);
    // Long after, something else takes its place.
    for (let i = 0; i < 250; i++) cache.ready(scattered, [{ from: 0, to: 10 }]);
    await cache.load(scattered, [
      { from: 0, to: 10 },
      { from: 32_000, to: 33_000 }
    ]);
    expect([cache.ready(scattered, [{ from: 0, to: 10 }]), cache.ready(scattered, span)]).toEqual([true, false]);
  });

  it('asks for nothing past a recording’s end, and says when reading fails', async () => {
    vi.stubGlobal('fetch', serve);
    const cache = createPcmCache();
    expect(cache.ready(session, [{ from: FRAMES, to: FRAMES + 5000 }])).toBe(true);
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('', { status: 500 })));
    await expect(cache.load(session, [{ from: 0, to: 10 }])).rejects.toThrow('could not be read');
    vi.stubGlobal('fetch', serve);
    await cache.load(session, [{ from: 0, to: 10 }]);
    expect(cache.ready(session, [{ from: 0, to: 10 }])).toBe(true);
  });
});

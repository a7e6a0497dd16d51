// Sound in pieces, on an audio context that only writes down what it is told: without a gap, in step, and no further than wanted.
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { playPieces, type Source } from './pieces';

type Started = { readonly out: unknown; readonly when: number; readonly sides: Float32Array[] };
let started: Started[];
let clock: { currentTime: number };
beforeEach(() => {
  started = [];
  clock = { currentTime: 1 };
  vi.useFakeTimers();
  vi.stubGlobal(
    'AudioBufferSourceNode',
    class {
      private out: unknown;
      constructor(
        _: unknown,
        private readonly options: { buffer: { sides: Float32Array[] } }
      ) {}
      connect(out: unknown) {
        this.out = out;
      }
      start(when: number) {
        started.push({ out: this.out, when, sides: this.options.buffer.sides });
      }
    }
  );
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const RATE = 48_000;
const context = () =>
  Object.assign(clock, {
    createBuffer: (channels: number, length: number) => {
      const sides = Array.from({ length: channels }, () => new Float32Array(length));
      return { sides, copyToChannel: (samples: Float32Array, side: number) => sides[side].set(samples) };
    }
  }) as unknown as AudioContext;
/** A file whose samples count its frames. */
const counting = (frames: number, out: string, sides = 1): Source => ({
  piece: (from, count) =>
    Promise.resolve(
      Array.from({ length: Math.max(0, Math.min(count, frames - from)) ? sides : 0 }, () =>
        Float32Array.from({ length: Math.max(0, Math.min(count, frames - from)) }, (_, i) => from + i)
      )
    ),
  out: out as unknown as AudioNode
});

it('plays two files in step from where it is told, to the end of the longer, without a gap', async () => {
  const [long, short] = [RATE * 7, RATE * 3];
  let first = 0;
  const playing = playPieces({
    ...{ context: context(), sources: [counting(long, 'A', 2), counting(short, 'B')], rate: RATE, from: 1000, to: long },
    wanted: () => true,
    began: (when) => (first = when)
  });
  // No more than two seconds are asked for ahead of what is heard.
  await vi.advanceTimersByTimeAsync(300);
  expect(started.filter(({ out }) => out === 'A')).toHaveLength(1);
  for (let i = 0; i < 100; i++) {
    clock.currentTime += 0.1;
    await vi.advanceTimersByTimeAsync(100);
  }
  await playing;
  for (const [out, frames] of [
    ['A', long],
    ['B', short]
  ] as const) {
    const own = started.filter((each) => each.out === out);
    let next = 1000;
    for (const { when, sides } of own) {
      expect(sides[0][0]).toBe(next);
      expect(when).toBeCloseTo(first + (next - 1000) / RATE, 9);
      next += sides[0].length;
    }
    expect(next).toBe(frames);
    expect(own[0].sides).toHaveLength(out === 'A' ? 2 : 1);
  }
});

it('stops asking once it is not wanted, and fails where a piece cannot be had', async () => {
  let wanted = true;
  const asked: number[] = [];
  const watched: Source = {
    ...counting(RATE * 60, 'A'),
    piece: (from, count) => (asked.push(from), counting(RATE * 60, 'A').piece(from, count))
  };
  const order = { context: context(), rate: RATE, from: 0, to: RATE * 60, wanted: () => wanted, began: () => undefined };
  const playing = playPieces({ ...order, sources: [watched] });
  await vi.advanceTimersByTimeAsync(500);
  wanted = false;
  await vi.advanceTimersByTimeAsync(500);
  await playing;
  expect(asked).toEqual([0]);
  wanted = true;
  const gone: Source = { ...watched, piece: () => Promise.reject(new Error('gone')) };
  await expect(playPieces({ ...order, sources: [watched, gone] })).rejects.toThrow('gone');
});

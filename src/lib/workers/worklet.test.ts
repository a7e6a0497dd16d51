// The audio worklet over a ring of its own: when it begins, what it plays, what it does when nothing is there, how it stops; at several rates.
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { CELL, ringBuffer, ringOver, SLOT, slotOf, slotsIn, type Ring } from './ring';

type Player = {
  process: (inputs: unknown, outputs: Float32Array[][]) => boolean;
  port: { onmessage?: (event: object) => void; postMessage: (data: object) => void };
};
type Class = new (options: { processorOptions: { buffer: SharedArrayBuffer } }) => Player;

let ring: Ring;
let player: Player;
let posted: object[];

/** The worklet's global scope at a rate; the module registers its class there. */
async function scope(rate: number) {
  let made: Class | null = null;
  posted = [];
  vi.stubGlobal('sampleRate', rate);
  vi.stubGlobal(
    'AudioWorkletProcessor',
    class {
      port = { postMessage: (data: object) => void posted.push(data) };
    }
  );
  vi.stubGlobal('registerProcessor', (_: string, processor: Class) => (made = processor));
  vi.resetModules();
  await import('./worklet');
  const buffer = ringBuffer();
  ring = ringOver(buffer);
  player = new made!({ processorOptions: { buffer } });
}

const left = new Float32Array(SLOT);
const right = new Float32Array(SLOT);
const play = () => {
  left.fill(0);
  right.fill(0);
  player.process(null, [[left, right]]);
  return left[0];
};
/** Writes slots whose samples are the slot's running number. */
const write = (count: number) => {
  for (let i = 0; i < count; i++) {
    const at = Atomics.load(ring.control, CELL.write);
    ring.audio.fill(at + 1, slotOf(at) * SLOT * 2, (slotOf(at) + 1) * SLOT * 2);
    Atomics.store(ring.control, CELL.write, at + 1);
  }
};
const start = () => {
  Atomics.store(ring.control, CELL.start, Atomics.load(ring.control, CELL.write));
  Atomics.add(ring.control, CELL.epoch, 1);
  Atomics.store(ring.control, CELL.playing, 1);
};
const cell = (name: keyof typeof CELL) => Atomics.load(ring.control, CELL[name]);

describe.each([44100, 48000, 192000])('at %i Hz', (rate) => {
  beforeEach(() => scope(rate));

  it('begins when as much time is ready as cold code asks for, later with less, and plays slot after slot', () => {
    const cold = slotsIn(75, rate);
    start();
    write(cold - 1);
    expect([play(), cell('read'), cell('underruns')]).toEqual([0, 0, 0]);
    write(1);
    expect([play(), play(), play()]).toEqual([1, 2, 3]);
    expect(cell('read')).toBe(3);
    // A locate: what is left of the old epoch fades out over a slot, then the new one begins on its smaller cushion.
    start();
    const first = cell('start') + 1;
    play();
    expect([left[0], left[SLOT - 1]]).toEqual([4, expect.closeTo(4 / SLOT, 6)]);
    expect(cell('read')).toBe(cell('start'));
    write(slotsIn(16, rate) - 1);
    expect(play()).toBe(0);
    write(1);
    expect(play()).toBe(first);
  });

  it('counts what was not there in time, is silent meanwhile, and goes on without a jump', () => {
    start();
    write(slotsIn(75, rate));
    const heard = Array.from({ length: slotsIn(75, rate) + 3 }, play);
    expect(heard.slice(-4)).toEqual([slotsIn(75, rate), 0, 0, 0]);
    expect(cell('underruns')).toBe(3);
    write(1);
    expect(play()).toBe(slotsIn(75, rate) + 1);
  });

  it('fades out where it is stopped, and gives a capture exactly what it played', () => {
    start();
    write(slotsIn(75, rate));
    player.port.onmessage!({ data: { capture: SLOT + 10 } });
    play();
    play();
    const [{ left: taken }] = posted as { left: Float32Array }[];
    expect([taken.length, taken[0], taken[SLOT - 1], taken[SLOT], taken.at(-1)]).toEqual([SLOT + 10, 1, 1, 2, 2]);
    Atomics.store(ring.control, CELL.playing, 0);
    play();
    expect([left[0], left[SLOT / 2], left[SLOT - 1]]).toEqual([3, 1.5, expect.closeTo(3 / SLOT, 6)]);
    expect([play(), cell('underruns')]).toEqual([0, 0]);
  });
});

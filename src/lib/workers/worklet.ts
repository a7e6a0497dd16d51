// The audio worklet: plays slots of the ring and nothing else. On stop or locate the last slot fades out.
import { CELL, ringOver, SLOT, SLOTS, slotOf, slotsIn, type Ring } from './ring';

/** What must be there before it begins to sound, ms; the first time of all more, as it is rendered by code that is not yet warm. */
const CUSHION_MS = 16;
const COLD_CUSHION_MS = 75;

/** The rate of the context, Hz. */
declare const sampleRate: number;
declare const registerProcessor: (name: string, processor: unknown) => void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

type Capture = { readonly left: Float32Array; readonly right: Float32Array; at: number };

class RingPlayer extends AudioWorkletProcessor {
  private readonly ring: Ring;
  private epoch = 0;
  private sounding = false;
  private warm = false;
  private capture: Capture | null = null;

  constructor(options: { processorOptions: { buffer: SharedArrayBuffer } }) {
    super();
    this.ring = ringOver(options.processorOptions.buffer);
    this.epoch = this.ring.control[CELL.epoch];
    this.port.onmessage = ({ data }: MessageEvent<{ capture: number }>) => {
      this.capture = { left: new Float32Array(data.capture), right: new Float32Array(data.capture), at: 0 };
    };
  }

  process(_inputs: unknown, [[left, right]]: Float32Array[][]): boolean {
    const { control } = this.ring;
    const playing = Atomics.load(control, CELL.playing) === 1;
    const epoch = Atomics.load(control, CELL.epoch);
    const read = Atomics.load(control, CELL.read);
    const left0 = Atomics.load(control, CELL.write) - read;
    if (this.sounding && (!playing || epoch !== this.epoch)) {
      if (left0 > 0 && left0 <= SLOTS) this.copy(read, left, right, true);
      this.sounding = false;
      if (epoch !== this.epoch) this.jump(epoch);
      return true;
    }
    if (epoch !== this.epoch) this.jump(epoch);
    if (!playing) return true;
    const next = Atomics.load(control, CELL.read);
    const there = Atomics.load(control, CELL.write) - next;
    if (there < (this.sounding ? 1 : slotsIn(this.warm ? CUSHION_MS : COLD_CUSHION_MS, sampleRate))) {
      if (this.sounding) Atomics.add(control, CELL.underruns, 1);
      return true;
    }
    this.copy(next, left, right, false);
    this.sounding = this.warm = true;
    Atomics.store(control, CELL.read, next + 1);
    Atomics.notify(control, CELL.read);
    this.record(left, right);
    return true;
  }

  private jump(epoch: number): void {
    const { control } = this.ring;
    this.epoch = epoch;
    Atomics.store(control, CELL.read, Atomics.load(control, CELL.start));
    Atomics.notify(control, CELL.read);
  }

  private copy(count: number, left: Float32Array, right: Float32Array, fading: boolean): void {
    const at = slotOf(count) * SLOT * 2;
    for (let i = 0; i < SLOT; i++) {
      const gain = fading ? 1 - i / SLOT : 1;
      left[i] = this.ring.audio[at + i] * gain;
      right[i] = this.ring.audio[at + SLOT + i] * gain;
    }
  }

  private record(left: Float32Array, right: Float32Array): void {
    const { capture } = this;
    if (!capture) return;
    const count = Math.min(SLOT, capture.left.length - capture.at);
    capture.left.set(left.subarray(0, count), capture.at);
    capture.right.set(right.subarray(0, count), capture.at);
    capture.at += count;
    if (capture.at < capture.left.length) return;
    this.port.postMessage({ left: capture.left, right: capture.right });
    this.capture = null;
  }
}

registerProcessor('ring-player', RingPlayer);

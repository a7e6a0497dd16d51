// One printed file while it is rendered: blocks of two sides in, a WAV file out. As long as both sides are the same it has one channel;
// when they first differ, what was written is written again with two.
import { closeSync, fdatasyncSync, openSync, readSync, renameSync, rmSync, truncateSync, writeSync } from 'node:fs';
import { BYTES, decodeAll, ditherNoise, encode, type Written } from '$core/formats/pcm';
import { wavHeader, type Bext, type WavOrder } from '$core/formats/wav';

const SEED = 1;
const COPY = 65536;

export type Ended = { readonly channels: 1 | 2; readonly frames: number };
export type FileWriter = {
  /** Takes the next frames; the frame at which an integer file would first clip, or null. */
  readonly push: (left: Float32Array, right: Float32Array) => number | null;
  /** Ends the file: its header is written, and it is on disk. */
  readonly finish: () => Ended;
  readonly close: () => void;
};

type Target = {
  readonly file: string;
  readonly rate: number;
  readonly encoding: Written;
  readonly dither: boolean;
  /** What stands in the header; of the same length when it is written again. */
  readonly bext: (channels: 1 | 2) => Bext | null;
};

export function openWriter({ file, rate, encoding, dither, bext }: Target): FileWriter {
  let handle = openSync(file, 'w+');
  let channels: 1 | 2 = 1;
  let frames = 0;
  const noise = dither ? ditherNoise(SEED) : undefined;
  const header = () => wavHeader({ rate, channels, encoding, frames, bext: bext(channels) });
  let at = writeSync(handle, header());

  const put = (sides: readonly Float32Array[]): number => {
    const block = encode(sides, encoding, noise);
    writeSync(handle, block.bytes, 0, block.bytes.length, at);
    at += block.bytes.length;
    return block.clipped;
  };

  /** One channel becomes two: what is there is decoded exactly and written once more. */
  const widen = () => {
    const from = header().length;
    const old = handle;
    const [oldFrames, size] = [frames, BYTES[encoding]];
    const wide = `${file}.wide`;
    channels = 2;
    handle = openSync(wide, 'w+');
    at = writeSync(handle, header());
    const bytes = new Uint8Array(COPY * size);
    for (let done = 0; done < oldFrames; done += COPY) {
      const got = readSync(old, bytes, 0, Math.min(COPY, oldFrames - done) * size, from + done * size);
      const [samples] = decodeAll(bytes.subarray(0, got), encoding, 1);
      const both = encode([samples, samples], encoding).bytes;
      writeSync(handle, both, 0, both.length, at);
      at += both.length;
    }
    closeSync(old);
    renameSync(wide, file);
  };

  const same = (left: Float32Array, right: Float32Array) => {
    for (let i = 0; i < left.length; i++) if (left[i] !== right[i]) return false;
    return true;
  };

  const push: FileWriter['push'] = (left, right) => {
    if (channels === 1 && !same(left, right)) widen();
    const clipped = put(channels === 1 ? [left] : [left, right]);
    const over = clipped > 0 ? Math.max(0, firstOver(channels === 1 ? [left] : [left, right])) : null;
    frames += left.length;
    return over === null ? null : frames - left.length + over;
  };
  return {
    push,
    finish: () => {
      const odd = (frames * BYTES[encoding] * channels) % 2;
      if (odd) writeSync(handle, new Uint8Array(1), 0, 1, at);
      writeSync(handle, header(), 0, undefined, 0);
      fdatasyncSync(handle);
      return { channels, frames };
    },
    close: () => {
      closeSync(handle);
      rmSync(`${file}.wide`, { force: true });
    }
  };
}

const firstOver = (sides: readonly Float32Array[]): number => sides[0].findIndex((_, i) => sides.some((side) => !(Math.abs(side[i]) < 1)));

/** Writes a file's header again, with what was measured since. */
export function describeFile(file: string, order: WavOrder): void {
  const handle = openSync(file, 'r+');
  writeSync(handle, wavHeader(order), 0, undefined, 0);
  fdatasyncSync(handle);
  closeSync(handle);
}

/** Makes a file of `order.frames` with silence at its end. */
export function lengthen(file: string, order: WavOrder): void {
  const size = wavHeader(order).length + order.frames * BYTES[order.encoding] * order.channels;
  truncateSync(file, size + (size % 2));
  describeFile(file, order);
}

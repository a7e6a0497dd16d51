// Printed files read back: their samples as float, as many frames at a time as are asked for, from WAV or FLAC.
import { closeSync, openSync, readSync } from 'node:fs';
import { BYTES, decodeAll } from '$core/formats/pcm';
import { flac } from '../decoders';
import { headerOf } from '../intake';

export type Reader = {
  /** The next frames of each channel: so many, or fewer at the end. */
  readonly take: (frames: number) => Promise<Float32Array[]>;
  readonly close: () => void;
};

const READ = 65536;

/** `const reader = await openReader('mix.flac'); const [left, right] = await reader.take(4096);` */
export async function openReader(file: string): Promise<Reader> {
  return file.endsWith('.flac') ? flacReader(file) : wavReader(file);
}

async function wavReader(file: string): Promise<Reader> {
  const header = await headerOf(file);
  if (!header?.ok) throw new Error(header ? header.error.message : `${file} is gone.`);
  const { encoding, channels, frames, dataAt } = header.value;
  const frameBytes = BYTES[encoding] * channels;
  const handle = openSync(file, 'r');
  let at = 0;
  return {
    take: (wanted) => {
      const count = Math.min(wanted, frames - at);
      const bytes = new Uint8Array(count * frameBytes);
      const got = readSync(handle, bytes, 0, bytes.length, dataAt + at * frameBytes);
      at += count;
      return Promise.resolve(decodeAll(bytes.subarray(0, got), encoding, channels));
    },
    close: () => closeSync(handle)
  };
}

async function flacReader(file: string): Promise<Reader> {
  const handle = openSync(file, 'r');
  const decoder = await flac();
  const bytes = new Uint8Array(READ);
  let waiting: Float32Array[][] = [];
  let [there, ended] = [0, false];
  const keep = ({ channels, frames }: { readonly channels: Float32Array[]; readonly frames: number }) => {
    if (frames === 0) return;
    waiting.push(channels.map((side) => side.slice(0, frames)));
    there += frames;
  };
  return {
    take: async (wanted) => {
      while (there < wanted && !ended) {
        const got = readSync(handle, bytes, 0, READ, null);
        ended = got === 0;
        keep(ended ? await decoder.end() : await decoder.push(bytes.slice(0, got)));
      }
      const count = Math.min(wanted, there);
      const out = Array.from({ length: waiting[0]?.length ?? 1 }, () => new Float32Array(count));
      for (let filled = 0; filled < count;) {
        const [block] = waiting;
        const some = Math.min(block[0].length, count - filled);
        out.forEach((side, i) => side.set(block[i].subarray(0, some), filled));
        filled += some;
        waiting = some === block[0].length ? waiting.slice(1) : [block.map((side) => side.subarray(some)), ...waiting.slice(1)];
      }
      there -= count;
      return out;
    },
    close: () => {
      decoder.free();
      closeSync(handle);
    }
  };
}

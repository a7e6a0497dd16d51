// FLAC by libFLAC (libflacjs): a WAV file of 16 or 24 bits in, block by block, and the stream's description with its MD5 in the end.
import { closeSync, fdatasyncSync, openSync, readSync, writeSync } from 'node:fs';
import { createRequire } from 'node:module';
import { BYTES } from '$core/formats/pcm';
import type { WavInfo } from '$core/formats/wav';

type StreamInfo = {
  readonly min_blocksize: number;
  readonly max_blocksize: number;
  readonly min_framesize: number;
  readonly max_framesize: number;
  readonly md5sum: string;
};
/** What of the package is used. Encoders are numbers, 0 is none. */
type Library = {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    frames: number,
    verify: boolean,
    block: number
  ): number;
  init_encoder_stream(encoder: number, write: (bytes: Uint8Array) => void, describe: (info: StreamInfo) => void): number;
  FLAC__stream_encoder_process_interleaved(encoder: number, samples: Int32Array, frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
  FLAC__stream_encoder_delete(encoder: number): void;
};

/** libFLAC's own choice between time and size. */
const LEVEL = 5;
const BLOCK = 16384;
/** Where in the file the stream's description lies: after the four letters and the block's head. */
const INFO_AT = 8;

let library: Promise<Library> | undefined;
async function libFlac(): Promise<Library> {
  // The build without WebAssembly: the other one asks `fetch` for a file beside it, which Node does not do.
  const flac = createRequire(import.meta.url)('libflacjs/dist/libflac.min.js') as Library;
  if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', resolve));
  return flac;
}

/** Writes a WAV file of 16 or 24 bits as FLAC; libFLAC decodes what it encodes and compares. Throws where that fails. */
export async function flacOf(wav: string, info: WavInfo, target: string): Promise<void> {
  const flac = await (library ??= libFlac());
  const bits = BYTES[info.encoding] * 8;
  const input = openSync(wav, 'r');
  const output = openSync(target, 'w');
  const encoder = flac.create_libflac_encoder(info.rate, info.channels, bits, LEVEL, info.frames, true, 0);
  let stream: StreamInfo | null = null;
  try {
    const begun =
      encoder === 0
        ? -1
        : flac.init_encoder_stream(
            encoder,
            (bytes) => void writeSync(output, bytes),
            (told) => (stream = told)
          );
    if (begun !== 0) throw new Error(`The FLAC encoder does not take ${info.rate} Hz, ${bits} bit (${begun}).`);
    const frameBytes = BYTES[info.encoding] * info.channels;
    const bytes = new Uint8Array(BLOCK * frameBytes);
    for (let at = 0; at < info.frames; at += BLOCK) {
      const frames = Math.min(BLOCK, info.frames - at);
      readSync(input, bytes, 0, frames * frameBytes, info.dataAt + at * frameBytes);
      if (!flac.FLAC__stream_encoder_process_interleaved(encoder, whole(bytes, bits, frames * info.channels), frames))
        throw new Error('The FLAC encoder stopped.');
    }
    if (!flac.FLAC__stream_encoder_finish(encoder) || !stream) throw new Error('The FLAC encoder could not check what it wrote.');
    writeSync(output, described(stream, info, bits), 0, 34, INFO_AT);
    fdatasyncSync(output);
  } finally {
    if (encoder !== 0) flac.FLAC__stream_encoder_delete(encoder);
    closeSync(input);
    closeSync(output);
  }
}

/** Little-endian bytes as whole numbers. */
function whole(bytes: Uint8Array, bits: number, count: number): Int32Array {
  const out = new Int32Array(count);
  if (bits === 16) for (let i = 0; i < count; i++) out[i] = ((bytes[i * 2] << 16) | (bytes[i * 2 + 1] << 24)) >> 16;
  else for (let i = 0, at = 0; i < count; i++, at += 3) out[i] = ((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) >> 8;
  return out;
}

/** STREAMINFO of a whole file (FLAC format, "METADATA_BLOCK_STREAMINFO"): sizes of blocks and frames, rate, width, length, MD5. */
function described(stream: StreamInfo, { rate, channels, frames }: WavInfo, bits: number): Uint8Array {
  const bytes = new Uint8Array(34);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, stream.min_blocksize);
  view.setUint16(2, stream.max_blocksize);
  view.setUint32(4, stream.min_framesize << 8);
  view.setUint32(7, stream.max_framesize << 8);
  // 20 bits rate, 3 bits channels − 1, 5 bits width − 1, 36 bits frames.
  view.setBigUint64(10, (BigInt(rate) << 44n) | (BigInt(channels - 1) << 41n) | (BigInt(bits - 1) << 36n) | BigInt(frames));
  bytes.set(
    Uint8Array.from(stream.md5sum.match(/../g) ?? [], (pair) => parseInt(pair, 16)),
    18
  );
  return bytes;
}

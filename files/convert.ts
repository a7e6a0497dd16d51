// Conversion on import: any file that is read here, decoded and if asked resampled, becomes a WAV in the store's form.
// Everything goes through in blocks; nothing is held whole.
import { closeSync, fdatasyncSync, openSync, readSync, writeSync } from 'node:fs';
import { readAiffHeader, swapBytes } from '$core/formats/aiff';
import { BYTES, decodeAll, encode, type Encoding } from '$core/formats/pcm';
import type { AudioKind } from '$core/formats/sniff';
import { BYTE_CODING_NAMES, expanded } from '$core/formats/companded';
import { MAX_CHANNELS, readAnyWav, shortfall, wavHeader, type ReadBytes } from '$core/formats/wav';
import { ok, refuse, type Result } from '$core/result';
import { flac, mp3, ogg, type Decoded, type Decoder } from './decoders';
import { promisedBy } from './promised';
import { createResampler } from './resample';

export type ConvertOrder = {
  readonly file: string;
  readonly size: number;
  readonly kind: AudioKind;
  readonly out: string;
  readonly toRate: number | null;
  /** Whether what is there of a file that was cut off is taken. */
  readonly keep?: boolean;
};
export type Converted = { readonly format: string; readonly rate: number };

const BLOCK = 1 << 18;
/** Frames by which decoders of compressed files may fall short of what is promised. */
const SLACK = 1152;

/** A stretch of decoded audio: the samples and, where they can be kept as they were, the bytes. */
type Block = { readonly channels: Float32Array[]; readonly bytes: Uint8Array | null };
type Source = {
  readonly format: string;
  readonly rate: number;
  readonly encoding: Encoding;
  readonly blocks: AsyncIterable<Block>;
  /** What is said where fewer frames came than were promised, or the end is missing. */
  readonly missing: (frames: number) => Result<never> | null;
};

export async function convert({ file, size, kind, out, toRate, keep = false }: ConvertOrder): Promise<Result<Converted>> {
  const handle = openSync(file, 'r');
  const target = openSync(out, 'w');
  try {
    const read: ReadBytes = (at, length) => {
      const bytes = new Uint8Array(length);
      return bytes.subarray(0, readSync(handle, bytes, 0, length, at));
    };
    const opened = kind === 'wav' || kind === 'aiff' ? plain(read, size, kind, keep) : await coded(read, size, kind);
    if (!opened.ok) return opened;
    const source = opened.value;
    const resampling = toRate !== null && toRate !== source.rate;
    const encoding = resampling ? 'f32' : source.encoding;
    let frames = 0;
    let given = 0;
    let channels = 0;
    let resampler: Awaited<ReturnType<typeof createResampler>> | null = null;
    const write = (bytes: Uint8Array) => {
      if (frames === 0) writeSync(target, wavHeader({ rate: toRate ?? source.rate, channels, encoding, frames: 0 }));
      writeSync(target, bytes);
      frames += bytes.length / (BYTES[encoding] * channels);
    };
    for await (const block of source.blocks) {
      if (block.channels[0].length === 0) continue;
      if (channels === 0) channels = block.channels.length;
      given += block.channels[0].length;
      if (block.channels.length !== channels || channels > MAX_CHANNELS)
        return refuse('channels', 'The number of channels changes within the file. Export it again.');
      if (resampling) {
        resampler ??= await createResampler(channels, source.rate, toRate);
        const bytes = encode(resampler.push(block.channels), 'f32').bytes;
        if (bytes.length) write(bytes);
      } else write(block.bytes ?? encode(block.channels, encoding as 's16' | 's24' | 'f32').bytes);
    }
    if (resampler) write(encode(resampler.finish(), 'f32').bytes);
    const short = source.missing(given);
    if (short && !keep) return short;
    if (frames === 0) return refuse('no-frames', 'The file holds no audio that could be decoded. Export it again.');
    writeSync(target, wavHeader({ rate: toRate ?? source.rate, channels, encoding, frames }), 0, undefined, 0);
    fdatasyncSync(target);
    return ok({ format: source.format, rate: source.rate });
  } finally {
    closeSync(handle);
    closeSync(target);
  }
}

/** WAV and AIFF: the samples as they stand. */
function plain(read: ReadBytes, size: number, kind: 'wav' | 'aiff', keep: boolean): Result<Source> {
  const header = kind === 'wav' ? readAnyWav(read, size, { keep }) : readAiffHeader(read, size, { keep });
  if (!header.ok) return header;
  const { rate, channels, encoding, frames, dataAt } = header.value;
  const swap = 'bigEndian' in header.value && header.value.bigEndian;
  const coding = 'coding' in header.value ? header.value.coding : null;
  const frameBytes = (coding ? 1 : BYTES[encoding]) * channels;
  async function* blocks(): AsyncGenerator<Block> {
    const count = Math.floor(BLOCK / channels);
    for (let at = 0; at < frames; at += count) {
      const stored = read(dataAt + at * frameBytes, Math.min(count, frames - at) * frameBytes);
      const bytes = coding ? expanded(stored, coding) : stored;
      if (swap) swapBytes(bytes, BYTES[encoding]);
      yield { channels: decodeAll(bytes, encoding, channels), bytes };
    }
  }
  return ok({ format: coding ? BYTE_CODING_NAMES[coding] : kind.toUpperCase(), rate, encoding, blocks: blocks(), missing: () => null });
}

/** FLAC, Ogg and MP3 through their decoders. */
async function coded(read: ReadBytes, size: number, kind: 'flac' | 'ogg' | 'mp3'): Promise<Result<Source>> {
  const damaged = () =>
    refuse(
      'damaged',
      `The file looks like ${kind.toUpperCase()} but cannot be decoded: it was cut off or is damaged. Copy or export it again.`
    );
  const head = read(0, 4096);
  const promised = promisedBy(kind, read, size);
  const decoder: Decoder = await { flac: () => flac(), ogg, mp3 }[kind](head);
  let given = 0;
  /** What a decoder gives, as far as the file promises it, and of a mono file once. */
  const wanted = (decoded: Decoded): Decoded => {
    const sides = promised.mono ? decoded.channels.slice(0, 1) : decoded.channels;
    const left = Math.max(0, promised.most - given);
    given += decoded.frames;
    return decoded.frames <= left ? { ...decoded, channels: sides } : { ...decoded, channels: sides.map((side) => side.subarray(0, left)) };
  };
  let at = 0;
  const next = async () => {
    while (at < size) {
      const bytes = read(at, BLOCK);
      at += bytes.length;
      const decoded = await decoder.push(bytes);
      if (decoded.frames > 0 || decoded.broken) return wanted(decoded);
    }
    return wanted(await decoder.end());
  };
  // What decoders throw at damaged bytes are words of their engines.
  const first = await next().catch(() => null);
  if (!first) {
    decoder.free();
    return damaged();
  }
  if (first.broken || first.frames === 0) {
    decoder.free();
    return damaged();
  }
  async function* blocks(): AsyncGenerator<Block> {
    try {
      let decoded: Decoded = first!;
      for (;;) {
        if (decoded.broken) throw new DamagedError();
        yield { channels: decoded.channels, bytes: null };
        if (at >= size && decoded.last) return;
        decoded = await next().catch(() => {
          throw new DamagedError();
        });
      }
    } finally {
      decoder.free();
    }
  }
  const missing = (frames: number): Result<never> | null => {
    const there = `${(frames / first.rate).toFixed(1)} s`;
    if (promised.frames !== null && frames < promised.frames - SLACK)
      return refuse('truncated', shortfall(promised.frames, frames, first.rate), { promised: promised.frames, there: frames });
    if (!promised.cut) return null;
    return refuse(
      'truncated',
      `The end of the file is missing: it was cut off after ${there}. Copy or export it again, or keep what is there.`,
      { there: frames }
    );
  };
  return ok({ format: decoder.format, rate: first.rate, encoding: first.encoding, blocks: blocks(), missing });
}

/** Thrown where a file turns out to be damaged after its beginning was fine. */
export class DamagedError extends Error {
  override readonly message = 'The file is damaged: part of it cannot be decoded. Copy or export it again.';
}

// The decoders of compressed files behind one face: bytes in as they come, float samples out.
import { FLACDecoder } from '@wasm-audio-decoders/flac';
import { OggVorbisDecoder } from '@wasm-audio-decoders/ogg-vorbis';
import { MPEGDecoder } from 'mpg123-decoder';
import { OggOpusDecoder } from 'ogg-opus-decoder';
import type { Encoding } from '$core/formats/pcm';

export type Decoded = {
  readonly channels: Float32Array[];
  readonly frames: number;
  readonly rate: number;
  readonly encoding: Encoding;
  /** Some of the bytes could not be decoded. */
  readonly broken: boolean;
  /** Nothing comes after this. */
  readonly last: boolean;
};

export type Decoder = {
  readonly format: string;
  readonly push: (bytes: Uint8Array) => Promise<Decoded>;
  readonly end: () => Promise<Decoded>;
  readonly free: () => void;
};

type Raw = {
  readonly channelData: Float32Array[];
  readonly samplesDecoded: number;
  readonly sampleRate: number;
  readonly bitDepth?: number;
  readonly errors: readonly unknown[];
};

const result = (raw: Raw, encoding: Encoding, last: boolean): Decoded => ({
  channels: raw.channelData,
  frames: raw.samplesDecoded,
  rate: raw.sampleRate,
  encoding,
  broken: raw.errors.length > 0,
  last
});

const nothing: Raw = { channelData: [new Float32Array(0)], samplesDecoded: 0, sampleRate: 0, errors: [] };

/** FLAC is exact: the decoder's floats are n / (2^(bits−1) − 1), and n comes back as a sample of 16 or 24 bits. */
function exact(raw: Raw): Raw & { encoding: Encoding } {
  const bits = raw.bitDepth ?? 24;
  const encoding = bits <= 16 ? 's16' : 's24';
  const full = 2 ** (bits - 1);
  for (const side of raw.channelData) for (let i = 0; i < side.length; i++) side[i] = Math.round(side[i] * (full - 1)) / full;
  return { ...raw, encoding };
}

/**
 * The head of a frame that never comes: sync, 4096 frames at 44.1 kHz, stereo, 16 bit, number 0, CRC-8; then room to look into. The parser
 * takes a frame for whole where another begins, and a last one of a few bytes, silence, for none at all.
 */
const FOLLOWING = Uint8Array.from([0xff, 0xf8, 0xc9, 0x18, 0x00, 0xc2, ...new Array<number>(64).fill(0)]);

const joined = (one: Raw, other: Raw): Raw =>
  other.samplesDecoded === 0
    ? one
    : {
        ...other,
        samplesDecoded: one.samplesDecoded + other.samplesDecoded,
        errors: [...one.errors, ...other.errors],
        channelData: other.channelData.map((side, i) => {
          const both = new Float32Array(one.samplesDecoded + side.length);
          if (one.samplesDecoded) both.set(one.channelData[i]);
          both.set(side, one.samplesDecoded);
          return both;
        })
      };

export async function flac(inOgg = false): Promise<Decoder> {
  const decoder = new FLACDecoder();
  await decoder.ready;
  const shaped = (raw: Raw, last: boolean) => {
    const whole = exact(raw);
    return result(whole, whole.encoding, last);
  };
  return {
    format: inOgg ? 'Ogg FLAC' : 'FLAC',
    push: async (bytes) => shaped((await decoder.decode(bytes)) as Raw, false),
    end: async () => {
      // In Ogg, pages say where a frame ends.
      if (inOgg) return shaped((await decoder.flush()) as Raw, true);
      const before = (await decoder.decode(FOLLOWING.slice())) as Raw;
      return shaped(joined(before, (await decoder.flush()) as Raw), true);
    },
    free: () => decoder.free()
  };
}

/** Ogg holds Vorbis, Opus or FLAC: the first page says which. */
export async function ogg(head: Uint8Array): Promise<Decoder> {
  const text = Buffer.from(head.subarray(0, 128)).toString('latin1');
  if (text.includes('FLAC')) return flac(true);
  if (text.includes('OpusHead')) return opus();
  const decoder = new OggVorbisDecoder();
  await decoder.ready;
  return {
    format: 'Ogg Vorbis',
    push: async (bytes) => result((await decoder.decode(bytes)) as Raw, 'f32', false),
    end: async () => result((await decoder.flush()) as Raw, 'f32', true),
    free: () => decoder.free()
  };
}

/** The decoder leaves out the frames before the recording (RFC 7845, 4.2); where it ends, the pages say (`promised.ts`). */
async function opus(): Promise<Decoder> {
  const decoder = new OggOpusDecoder();
  await decoder.ready;
  return {
    format: 'Ogg Opus',
    push: async (bytes) => result((await decoder.decode(bytes)) as Raw, 'f32', false),
    end: async () => result((await decoder.flush()) as Raw, 'f32', true),
    free: () => decoder.free()
  };
}

export async function mp3(): Promise<Decoder> {
  const decoder = new MPEGDecoder({ enableGapless: true });
  await decoder.ready;
  return {
    format: 'MP3',
    push: async (bytes) => result(decoder.decode(bytes) as Raw, 'f32', false),
    end: async () => result(nothing, 'f32', true),
    free: () => decoder.free()
  };
}

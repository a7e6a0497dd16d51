// Sample encodings: between bytes in a file and float samples. 24-bit values are exact in float32 both ways.
import type { Media } from '../session/entities.ts';

export type Encoding = Media['encoding'];
export const BYTES: Record<Encoding, number> = { s16: 2, s24: 3, s32: 4, f32: 4, f64: 8 };
/** Encodings that are written. */
export type Written = 's16' | 's24' | 'f32';

/** Interleaved bytes as one byte array per channel, samples as stored. `bytes` holds whole frames. */
export function planar(bytes: Uint8Array, encoding: Encoding, channels: number): Uint8Array[] {
  if (channels === 1) return [bytes];
  const size = BYTES[encoding];
  const frames = Math.floor(bytes.length / (size * channels));
  const stride = size * channels;
  return Array.from({ length: channels }, (_, channel) => {
    const out = new Uint8Array(frames * size);
    let from = channel * size;
    // Written out by size: a loop over the bytes of a sample takes three times as long.
    if (size === 3)
      for (let to = 0; to < out.length; to += 3, from += stride) {
        out[to] = bytes[from];
        out[to + 1] = bytes[from + 1];
        out[to + 2] = bytes[from + 2];
      }
    else
      for (let to = 0; to < out.length; to += size, from += stride) {
        out[to] = bytes[from];
        out[to + 1] = bytes[from + 1];
        for (let i = 2; i < size; i++) out[to + i] = bytes[from + i];
      }
    return out;
  });
}

/** Samples of one channel's bytes, −1 … 1 for integers. */
export function decode(bytes: Uint8Array, encoding: Encoding, into: Float32Array): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const count = Math.min(into.length, Math.floor(bytes.length / BYTES[encoding]));
  if (encoding === 's16') for (let i = 0; i < count; i++) into[i] = view.getInt16(i * 2, true) / 32768;
  else if (encoding === 's24')
    for (let i = 0, at = 0; i < count; i++, at += 3)
      into[i] = ((bytes[at] << 8) | (bytes[at + 1] << 16) | (bytes[at + 2] << 24)) / 2147483648;
  else if (encoding === 's32') for (let i = 0; i < count; i++) into[i] = view.getInt32(i * 4, true) / 2147483648;
  else if (encoding === 'f32') for (let i = 0; i < count; i++) into[i] = view.getFloat32(i * 4, true);
  else for (let i = 0; i < count; i++) into[i] = view.getFloat64(i * 8, true);
}

/** Interleaved bytes straight to one float array per channel. */
export function decodeAll(bytes: Uint8Array, encoding: Encoding, channels: number): Float32Array[] {
  return planar(bytes, encoding, channels).map((own) => {
    const samples = new Float32Array(own.length / BYTES[encoding]);
    decode(own, encoding, samples);
    return samples;
  });
}

/** Triangular noise of ±1 step, the same for the same seed (Mulberry32, two draws a sample). */
export function ditherNoise(seed: number): () => number {
  let state = seed;
  const draw = () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return () => draw() - draw();
}

export type Encoded = { readonly bytes: Uint8Array<ArrayBuffer>; readonly clipped: number };

/**
 * Interleaves float channels into bytes. Integers are rounded to nearest, ties upward, with the noise of `dither` added
 * where one is given; values past full scale are clipped and counted.
 */
export function encode(channels: readonly Float32Array[], encoding: Written, dither?: () => number): Encoded {
  const frames = channels[0].length;
  const size = BYTES[encoding];
  const stride = size * channels.length;
  const bytes = new Uint8Array(frames * stride);
  let clipped = 0;
  if (encoding === 'f32') {
    const out = new Float32Array(bytes.buffer);
    channels.forEach((samples, channel) => {
      for (let i = 0, at = channel; i < frames; i++, at += channels.length) out[at] = samples[i];
    });
    return { bytes, clipped };
  }
  const scale = encoding === 's24' ? 8388608 : 32768;
  channels.forEach((samples, channel) => {
    for (let i = 0, at = channel * size; i < frames; i++, at += stride) {
      let value = Math.floor(samples[i] * scale + (dither ? dither() : 0) + 0.5);
      if (value >= scale || value < -scale) {
        clipped += value === scale ? 0 : 1;
        value = value > 0 ? scale - 1 : -scale;
      }
      bytes[at] = value;
      bytes[at + 1] = value >> 8;
      if (size === 3) bytes[at + 2] = value >> 16;
    }
  });
  return { bytes, clipped };
}

// Sample encodings: between bytes in a file and float samples. 24-bit values are exact in float32 both ways.
import type { Media } from '../session/entities.ts';

export type Encoding = Media['encoding'];
export const BYTES: Record<Encoding, number> = { s16: 2, s24: 3, s32: 4, f32: 4, f64: 8 };

/** Interleaved bytes as one byte array per channel, samples as stored. `bytes` holds whole frames. */
export function planar(bytes: Uint8Array, encoding: Encoding, channels: number): Uint8Array[] {
  if (channels === 1) return [bytes];
  const size = BYTES[encoding];
  const frames = Math.floor(bytes.length / (size * channels));
  return Array.from({ length: channels }, (_, channel) => {
    const out = new Uint8Array(frames * size);
    const stride = size * channels;
    for (let frame = 0, from = channel * size, to = 0; frame < frames; frame++, from += stride)
      for (let i = 0; i < size; i++) out[to++] = bytes[from + i];
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

/**
 * Interleaves float channels into bytes. Integers are rounded to nearest, ties upward, without dither;
 * values past full scale are clipped and counted.
 */
export function encode(channels: readonly Float32Array[], encoding: 's24' | 'f32'): { bytes: Uint8Array<ArrayBuffer>; clipped: number } {
  const frames = channels[0].length;
  const size = BYTES[encoding];
  const bytes = new Uint8Array(frames * size * channels.length);
  let clipped = 0;
  if (encoding === 'f32') {
    const out = new Float32Array(bytes.buffer);
    channels.forEach((samples, channel) => {
      for (let i = 0; i < frames; i++) out[i * channels.length + channel] = samples[i];
    });
    return { bytes, clipped };
  }
  channels.forEach((samples, channel) => {
    for (let i = 0, at = channel * 3; i < frames; i++, at += channels.length * 3) {
      let value = Math.round(samples[i] * 8388608);
      if (value > 8388607 || value < -8388608) {
        clipped += value === 8388608 ? 0 : 1;
        value = value > 0 ? 8388607 : -8388608;
      }
      bytes[at] = value;
      bytes[at + 1] = value >> 8;
      bytes[at + 2] = value >> 16;
    }
  });
  return { bytes, clipped };
}

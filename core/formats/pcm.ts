// Sample encodings: between bytes in a file and float samples. 24-bit values are exact in float32 both ways.
import type { Media } from '../session/entities.ts';

export type Encoding = Media['encoding'];
export const BYTES: Record<Encoding, number> = { s16: 2, s24: 3, s32: 4, f32: 4, f64: 8 };
/** Encodings that are written. */
export type Written = 's16' | 's24' | 's32' | 'f32';

/** Interleaved bytes as one byte array per channel, samples as stored. `bytes` holds whole frames. */
export function planar(bytes: Uint8Array, encoding: Encoding, channels: number): Uint8Array[] {
  if (channels === 1) return [bytes];
  if (channels === 2 && encoding === 's24' && bytes.byteOffset % 4 === 0) return planarStereo24(bytes);
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

/** The commonest case, four frames at a time in 32-bit words: several times as fast as byte by byte. Little-endian machines. */
function planarStereo24(bytes: Uint8Array): Uint8Array[] {
  const frames = Math.floor(bytes.length / 6);
  const sides = [new Uint8Array(Math.ceil((frames * 3) / 4) * 4), new Uint8Array(Math.ceil((frames * 3) / 4) * 4)];
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset, Math.floor(bytes.length / 4));
  const [left, right] = sides.map((side) => new Uint32Array(side.buffer));
  const whole = frames >> 2;
  for (let i = 0, from = 0, to = 0; i < whole; i++, from += 6, to += 3) {
    const a = words[from];
    const b = words[from + 1];
    const c = words[from + 2];
    const d = words[from + 3];
    const e = words[from + 4];
    const f = words[from + 5];
    // Left 0 a·· right 0 a,b left 1 b,c right 1 c, and so once more.
    const l1 = (b >>> 16) | ((c & 0xff) << 16);
    const l2 = d & 0xffffff;
    left[to] = (a & 0xffffff) | (l1 << 24);
    left[to + 1] = (l1 >>> 8) | (l2 << 16);
    left[to + 2] = (l2 >>> 16) | (((e >>> 16) | ((f & 0xff) << 16)) << 8);
    const r1 = c >>> 8;
    const r2 = (d >>> 24) | ((e & 0xffff) << 8);
    right[to] = (a >>> 24) | ((b & 0xffff) << 8) | (r1 << 24);
    right[to + 1] = (r1 >>> 8) | (r2 << 16);
    right[to + 2] = (r2 >>> 16) | (f & 0xffffff00);
  }
  for (let frame = whole * 4; frame < frames; frame++)
    for (let side = 0; side < 2; side++) for (let i = 0; i < 3; i++) sides[side][frame * 3 + i] = bytes[frame * 6 + side * 3 + i];
  return sides.map((side) => side.subarray(0, frames * 3));
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
 * Interleaves float channels into bytes. Integers are rounded to nearest, ties to even as IEEE 754 has it, with the noise of `dither` added
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
  if (encoding === 's24' && channels.length === 2 && !dither && frames % 2 === 0 && packedStereo24(channels[0], channels[1], bytes))
    return { bytes, clipped };
  // First whole numbers side by side, then bytes: two plain loops are faster than one that does both.
  const scale = 2 ** (8 * size - 1);
  const whole = new Int32Array(frames * channels.length);
  channels.forEach((samples, channel) => {
    clipped += dither
      ? rounded(
          Float64Array.from(samples, (x) => x * scale + dither()),
          1,
          scale,
          whole,
          channel,
          channels.length
        )
      : rounded(samples, scale, scale, whole, channel, channels.length);
  });
  if (size === 2) new Int16Array(bytes.buffer).set(whole);
  else if (size === 4) new Int32Array(bytes.buffer).set(whole);
  else pack24(whole, bytes);
  return { bytes, clipped };
}

/** Added and taken away, it leaves a double no room for a fraction: the nearest whole number, ties to even. */
const EVEN = 1.5 * 2 ** 52;

/**
 * The commonest case in one loop: two frames of stereo are three 32-bit words. False where some sample is at full scale, over
 * it or no number: then the slower way decides. Little-endian machines.
 */
function packedStereo24(left: Float32Array, right: Float32Array, bytes: Uint8Array<ArrayBuffer>): boolean {
  const words = new Int32Array(bytes.buffer);
  // As bits, magnitudes of floats compare like whole numbers: 0x3f800000 is 1.
  const leftBits = new Int32Array(left.buffer, left.byteOffset, left.length);
  const rightBits = new Int32Array(right.buffer, right.byteOffset, right.length);
  const under = 0x3f7fffff;
  let over = 0;
  for (let i = 0, to = 0; i < left.length; i += 2, to += 3) {
    over |= (under - (leftBits[i] & 0x7fffffff)) | (under - (leftBits[i + 1] & 0x7fffffff));
    over |= (under - (rightBits[i] & 0x7fffffff)) | (under - (rightBits[i + 1] & 0x7fffffff));
    const a = left[i] * 8388608 + EVEN - EVEN;
    const b = right[i] * 8388608 + EVEN - EVEN;
    const c = left[i + 1] * 8388608 + EVEN - EVEN;
    const d = right[i + 1] * 8388608 + EVEN - EVEN;
    words[to] = (a & 0xffffff) | (b << 24);
    words[to + 1] = ((b >> 8) & 0xffff) | (c << 16);
    words[to + 2] = ((c >> 16) & 0xff) | (d << 8);
  }
  return over >= 0;
}

/** Writes samples · factor, rounded and held within ±`full`, every `stride`-th place from `first` on; how many were past it. */
function rounded(
  samples: Float32Array | Float64Array,
  factor: number,
  full: number,
  whole: Int32Array,
  first: number,
  stride: number
): number {
  let clipped = 0;
  const most = full - 0.5;
  const least = -full - 0.5;
  for (let i = 0, at = first; i < samples.length; i++, at += stride) {
    const exact = samples[i] * factor;
    if (exact >= most) {
      if (exact >= full + 0.5) clipped++;
      whole[at] = full - 1;
    } else if (exact < least) {
      clipped++;
      whole[at] = -full;
    } else whole[at] = exact + EVEN - EVEN;
  }
  return clipped;
}

/** Whole numbers to three bytes each, four at a time in 32-bit words. Little-endian machines. */
function pack24(whole: Int32Array, bytes: Uint8Array<ArrayBuffer>): void {
  const quads = whole.length >> 2;
  const words = new Int32Array(bytes.buffer, 0, quads * 3);
  for (let i = 0, from = 0, to = 0; i < quads; i++, from += 4, to += 3) {
    const b = whole[from + 1];
    const c = whole[from + 2];
    words[to] = (whole[from] & 0xffffff) | (b << 24);
    words[to + 1] = ((b >> 8) & 0xffff) | (c << 16);
    words[to + 2] = ((c >> 16) & 0xff) | (whole[from + 3] << 8);
  }
  for (let i = quads * 4; i < whole.length; i++) {
    bytes[i * 3] = whole[i];
    bytes[i * 3 + 1] = whole[i] >> 8;
    bytes[i * 3 + 2] = whole[i] >> 16;
  }
}

// What a compressed file says of itself before it is decoded: how long it is, whether its end is there, whether it is mono. Decoders take
// what they are given and say nothing of what is missing.
import type { ReadBytes } from '$core/formats/wav';

export type Promised = {
  /** Frames that it says it has; null where it does not say. */
  readonly frames: number | null;
  /** Frames that may be given out at most: what a decoder gives beyond is padding. */
  readonly most: number;
  /** Its end is missing, whatever it says of its length. */
  readonly cut: boolean;
  /** One channel, though the decoder gives two. */
  readonly mono: boolean;
};

const NOTHING: Promised = { frames: null, most: Infinity, cut: false, mono: false };
const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const letters = (bytes: Uint8Array, at: number, length: number) => String.fromCharCode(...bytes.subarray(at, at + length));

export const promisedBy = (kind: 'flac' | 'ogg' | 'mp3', read: ReadBytes, size: number): Promised =>
  ({ flac: flacPromise, ogg: oggPromise, mp3: mp3Promise })[kind](read, size);

/** STREAMINFO, the first block (RFC 9639, 8.2): 36 bits of samples a channel, 0 where unknown. */
function flacPromise(read: ReadBytes): Promised {
  const head = read(0, 26);
  if (head.length < 26 || (head[4] & 0x7f) !== 0) return NOTHING;
  const frames = (head[21] & 0x0f) * 2 ** 32 + view(head).getUint32(22);
  return frames ? { ...NOTHING, frames, most: frames } : NOTHING;
}

/** Pages from the first to the last (RFC 3533, 6): the last one's position is the length, and it says that it is the last. */
function oggPromise(read: ReadBytes, size: number): Promised {
  const first = read(0, 128);
  const opus = letters(first, 0, first.length).indexOf('OpusHead');
  const preSkip = opus < 0 ? 0 : first[opus + 10] + 256 * first[opus + 11];
  const serial = view(first).getUint32(14, true);
  let position = 0;
  let ended = false;
  for (let at = 0; at < size;) {
    const head = read(at, 27 + 255);
    if (head.length < 27 || letters(head, 0, 4) !== 'OggS') break;
    const table = head.subarray(27, 27 + head[26]);
    const length = 27 + head[26] + table.reduce((sum, part) => sum + part, 0);
    if (head.length < 27 + head[26] || at + length > size) break;
    if (view(head).getUint32(14, true) === serial) {
      const here = view(head).getBigInt64(6, true);
      if (here >= 0n) position = Number(here);
      if (head[5] & 4) ended = true;
    }
    at += length;
  }
  const frames = Math.max(0, position - preSkip);
  return { frames: ended ? frames : null, most: frames, cut: !ended, mono: false };
}

const RATES = [44100, 48000, 32000];
const KILOBITS = [
  [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160]
];
type Frame = { readonly bytes: number; readonly frames: number; readonly mono: boolean; readonly side: number };

/** A layer III frame's header (ISO/IEC 11172-3, 2.4.1.3, and 13818-3 for the lower rates); null where there is none. */
function mp3Frame(head: Uint8Array): Frame | null {
  if (head.length < 4 || head[0] !== 0xff || (head[1] & 0xe6) !== 0xe2) return null;
  const version = (head[1] >> 3) & 3;
  const [bits, rate] = [head[2] >> 4, (head[2] >> 2) & 3];
  if (version === 1 || bits === 0 || bits === 15 || rate === 3) return null;
  const full = version === 3;
  const hertz = RATES[rate] / (full ? 1 : version === 2 ? 2 : 4);
  const frames = full ? 1152 : 576;
  const bytes = Math.floor(((frames / 8) * KILOBITS[full ? 0 : 1][bits] * 1000) / hertz) + ((head[2] >> 1) & 1);
  const mono = head[3] >> 6 === 3;
  return { bytes, frames, mono, side: full ? (mono ? 17 : 32) : mono ? 9 : 17 };
}

/** The encoder's own count where there is one (Xing or Info, with the delay and padding of its extension); else the frames, one by one. */
function mp3Promise(read: ReadBytes, size: number): Promised {
  const tag = read(0, 10);
  // ID3v2.4, 3.1: the size in seven bits a byte.
  let at = letters(tag, 0, 3) === 'ID3' ? 10 + ((tag[6] << 21) | (tag[7] << 14) | (tag[8] << 7) | tag[9]) + (tag[5] & 0x10 ? 10 : 0) : 0;
  while (at < size && !mp3Frame(read(at, 4))) at++;
  const first = mp3Frame(read(at, 4));
  if (!first) return NOTHING;
  const { mono, side } = first;
  const info = read(at + 4 + side, 160);
  if (['Xing', 'Info'].includes(letters(info, 0, 4)) && info[7] & 1) {
    const flags = info[7];
    const count = view(info).getUint32(8);
    const encoder = 12 + (flags & 2 ? 4 : 0) + (flags & 4 ? 100 : 0) + (flags & 8 ? 4 : 0);
    // Delay and padding, twelve bits each.
    const bits = (info[encoder + 21] << 16) | (info[encoder + 22] << 8) | info[encoder + 23];
    const gapless = /^L/.test(letters(info, encoder, 4)) ? (bits >> 12) + (bits & 0xfff) : 0;
    const frames = count * first.frames - gapless;
    return { frames, most: Infinity, cut: false, mono };
  }
  for (;;) {
    const frame = mp3Frame(read(at, 4));
    if (!frame) return { ...NOTHING, mono };
    if (at + frame.bytes > size) return { ...NOTHING, cut: true, mono };
    at += frame.bytes;
  }
}

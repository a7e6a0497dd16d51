// WAV headers in and out (RIFF WAVE, Microsoft/IBM 1991, with WAVE_FORMAT_EXTENSIBLE). Audio is never held whole:
// the reader says where the data lies, the writer makes the 44 bytes that stand before it.
import { ok, refuse, type Result } from '../result.ts';
import { BYTES, type Encoding } from './pcm.ts';

export type WavInfo = {
  readonly rate: number;
  readonly channels: number;
  readonly encoding: Encoding;
  readonly frames: number;
  /** Byte offset of the first frame. */
  readonly dataAt: number;
};

/** Bytes from a file: at most `length` from `at`, fewer at its end. */
export type ReadBytes = (at: number, length: number) => Uint8Array;

const MAX_CHUNKS = 1000;
const FORMAT_PCM = 1;
const FORMAT_FLOAT = 3;
const FORMAT_EXTENSIBLE = 0xfffe;

const text = (bytes: Uint8Array, at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
const seconds = (frames: number, rate: number) => `${(frames / rate).toFixed(1)} s`;

/** What a WAV file holds, or what is wrong with it in words for the person who dropped it. */
export function readWavHeader(read: ReadBytes, size: number): Result<WavInfo> {
  const head = read(0, 12);
  if (size === 0) return refuse('empty', 'The file is empty. Export it again.');
  if (head.length < 12 || text(head, 0) !== 'RIFF' || text(head, 8) !== 'WAVE')
    return refuse('not-wav', 'This is not a WAV file, whatever its name says. Export it as WAV.');
  let format: { rate: number; channels: number; encoding: Encoding } | null = null;
  for (let at = 12, count = 0; at + 8 <= size && count < MAX_CHUNKS; count++) {
    const chunk = read(at, 8);
    const id = text(chunk, 0);
    const length = new DataView(chunk.buffer, chunk.byteOffset).getUint32(4, true);
    if (id === 'fmt ') {
      const parsed = readFormat(read(at + 8, Math.min(length, 40)));
      if (!parsed.ok) return parsed;
      format = parsed.value;
    } else if (id === 'data') {
      if (!format) return refuse('no-format', 'The audio comes before its format description. Export the file again.');
      return dataInfo(format, at + 8, length, size);
    }
    at += 8 + length + (length % 2);
  }
  return refuse('truncated', 'The file ends before its audio begins: it was cut off. Copy or export it again.');
}

function dataInfo(
  format: { rate: number; channels: number; encoding: Encoding },
  dataAt: number,
  length: number,
  size: number
): Result<WavInfo> {
  const frameBytes = BYTES[format.encoding] * format.channels;
  const frames = Math.floor(length / frameBytes);
  const there = Math.floor((size - dataAt) / frameBytes);
  if (frames === 0) return refuse('no-frames', 'The file holds no audio: its length is 0 frames.');
  if (there < frames)
    return refuse(
      'truncated',
      `The header promises ${seconds(frames, format.rate)} of audio, the file holds ${seconds(there, format.rate)}: it was cut off or its header is wrong. Copy or export it again.`,
      { promised: frames, there }
    );
  return ok({ ...format, frames, dataAt });
}

function readFormat(bytes: Uint8Array): Result<{ rate: number; channels: number; encoding: Encoding }> {
  if (bytes.length < 16) return refuse('bad-format', 'The format description is cut short. Export the file again.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const tag = view.getUint16(0, true);
  const channels = view.getUint16(2, true);
  const rate = view.getUint32(4, true);
  const align = view.getUint16(12, true);
  const bits = view.getUint16(14, true);
  const kind = tag === FORMAT_EXTENSIBLE && bytes.length >= 26 ? view.getUint16(24, true) : tag;
  const encoding =
    kind === FORMAT_PCM
      ? ({ 16: 's16', 24: 's24', 32: 's32' } as const)[bits]
      : kind === FORMAT_FLOAT && bits === 32
        ? ('f32' as const)
        : undefined;
  if (!encoding)
    return refuse(
      'encoding',
      `The samples are of a kind that is not read here (format ${kind}, ${bits} bit). Export as 16, 24 or 32 bit, or 32-bit float.`
    );
  if (rate < 1000 || rate > 768000) return refuse('rate', `The file says its sample rate is ${rate} Hz, which cannot be. Export it again.`);
  if (channels < 1 || channels > 2)
    return refuse(
      'channels',
      `The file has ${channels} channels. Only mono and stereo files are taken: export the channels as separate files.`
    );
  if (align !== channels * BYTES[encoding])
    return refuse('bad-format', 'The format description contradicts itself. Export the file again.');
  return ok({ rate, channels, encoding });
}

/** The most bytes of audio a plain WAV can hold. */
export const WAV_LIMIT = 0xffffffff - 100;

/**
 * The header that stands before the audio. Float files get the longer format chunk and the `fact` chunk that the
 * format asks of everything but plain integers. Throws RangeError past 4 GB.
 */
export function wavHeader({ rate, channels, encoding, frames }: Omit<WavInfo, 'dataAt'>): Uint8Array<ArrayBuffer> {
  const frameBytes = BYTES[encoding] * channels;
  const length = frames * frameBytes;
  if (length > WAV_LIMIT) throw new RangeError('A plain WAV file ends at 4 GB.');
  const float = encoding === 'f32';
  const bytes = new Uint8Array(float ? 58 : 44);
  const view = new DataView(bytes.buffer);
  const put = (at: number, word: string) => [...word].forEach((letter, i) => (bytes[at + i] = letter.charCodeAt(0)));
  put(0, 'RIFF');
  view.setUint32(4, bytes.length - 8 + length + (length % 2), true);
  put(8, 'WAVEfmt ');
  view.setUint32(16, float ? 18 : 16, true);
  view.setUint16(20, float ? FORMAT_FLOAT : FORMAT_PCM, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * frameBytes, true);
  view.setUint16(32, frameBytes, true);
  view.setUint16(34, BYTES[encoding] * 8, true);
  if (float) {
    put(38, 'fact');
    view.setUint32(42, 4, true);
    view.setUint32(46, frames, true);
  }
  put(bytes.length - 8, 'data');
  view.setUint32(bytes.length - 4, length, true);
  return bytes;
}

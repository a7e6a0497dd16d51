// WAV headers in and out: RIFF WAVE (Microsoft/IBM 1991, with WAVE_FORMAT_EXTENSIBLE), RF64/BW64 past 4 GB (EBU Tech 3306,
// ITU-R BS.2088) and the broadcast extension (EBU Tech 3285). Audio is never held whole: the reader says where the data
// lies, the writer makes the bytes that stand before it.
import { ok, refuse, type Result } from '../result.ts';
import type { Frames } from '../units.ts';
import { BYTE_CODING_NAMES, type ByteCoding } from './companded.ts';
import { BYTES, type Encoding } from './pcm.ts';

/** What the broadcast extension says of a file. */
export type Bext = {
  readonly description: string;
  readonly originator: string;
  /** yyyy-mm-dd and hh:mm:ss. */
  readonly date: string;
  readonly time: string;
  /** Frames since midnight, or since the session's beginning: whatever the writer's timeline counts from. */
  readonly timeReference: Frames;
  readonly codingHistory: string;
  /** Version 2: what was measured, in LUFS, LU and dBTP; null is not measured. */
  readonly loudness?: BextLoudness;
};
export type BextLoudness = Readonly<Record<'integrated' | 'range' | 'truePeak' | 'momentary' | 'shortTerm', number | null>>;

export type WavInfo = {
  readonly rate: number;
  readonly channels: number;
  readonly encoding: Encoding;
  readonly frames: number;
  /** Byte offset of the first frame. */
  readonly dataAt: number;
  readonly bext: Bext | null;
};

/** How much of a file that is not as it should be is taken all the same. */
export type Leniency = {
  /** What is there of a file that was cut off. */
  readonly keep?: boolean;
};

/** Bytes from a file: at most `length` from `at`, fewer at its end. */
export type ReadBytes = (at: number, length: number) => Uint8Array;

const MAX_CHUNKS = 1000;
export const MAX_CHANNELS = 64;
const FORMAT_PCM = 1;
const FORMAT_FLOAT = 3;
const FORMAT_EXTENSIBLE = 0xfffe;
/** Formats whose samples are a byte each. */
const BYTE_FORMATS: Readonly<Record<number, ByteCoding>> = { 1: 'u8', 6: 'alaw', 7: 'ulaw' };
/** In a 32-bit size: "see ds64". */
const SIZE_ELSEWHERE = 0xffffffff;
const BEXT_FIXED = 602;
const MAX_HISTORY = 4096;

type Format = {
  readonly rate: number;
  readonly channels: number;
  readonly encoding: Encoding;
  /** Samples of a byte each, which become 16 bit. */
  readonly coding: ByteCoding | null;
};
export type WavFormat = Omit<Format, 'coding'>;

const letters = (bytes: Uint8Array, at: number, length = 4) => String.fromCharCode(...bytes.subarray(at, at + length));
const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** What is said of a file that holds less than it promises, with as many digits as tell the two apart. */
export function shortfall(promised: number, there: number, rate: number): string {
  const digits = [1, 3].find((places) => (promised / rate).toFixed(places) !== (there / rate).toFixed(places));
  const both = digits
    ? `${(promised / rate).toFixed(digits)} s of audio, and holds ${(there / rate).toFixed(digits)} s`
    : `${promised} frames of audio, and holds ${there}`;
  return `The file promises ${both}: it was cut off or its header is wrong. Copy or export it again, or keep what is there.`;
}

/** What a WAV file holds, or what is wrong with it in words for the person who dropped it. */
export function readWavHeader(read: ReadBytes, size: number, { keep = false }: Leniency = {}): Result<WavInfo> {
  const any = readAnyWav(read, size, { keep });
  if (!any.ok) return any;
  const { coding, ...info } = any.value;
  return coding ? refuse('encoding', `The samples are ${BYTE_CODING_NAMES[coding]}: they are converted on import.`) : ok(info);
}

/** The same of files whose samples are a byte each as well. */
export function readAnyWav(
  read: ReadBytes,
  size: number,
  { keep = false }: Leniency = {}
): Result<WavInfo & { readonly coding: ByteCoding | null }> {
  const head = read(0, 12);
  if (size === 0) return refuse('empty', 'The file is empty. Export it again.');
  if (head.length < 12 || !['RIFF', 'RF64', 'BW64'].includes(letters(head, 0)) || letters(head, 8) !== 'WAVE')
    return refuse('not-wav', 'This is not a WAV file, whatever its name says. Export it as WAV.');
  let format: Format | null = null;
  let bext: Bext | null = null;
  let longData: number | null = null;
  for (let at = 12, count = 0; at + 8 <= size && count < MAX_CHUNKS; count++) {
    const chunk = read(at, 8);
    if (chunk.length < 8) break;
    const id = letters(chunk, 0);
    const stated = viewOf(chunk).getUint32(4, true);
    const length = id === 'data' && stated === SIZE_ELSEWHERE && longData !== null ? longData : stated;
    if (id === 'ds64') {
      const sizes = read(at + 8, 16);
      if (sizes.length === 16) longData = Number(viewOf(sizes).getBigUint64(8, true));
    } else if (id === 'fmt ') {
      const parsed = readFormat(read(at + 8, Math.min(length, 40)));
      if (!parsed.ok) return parsed;
      format = parsed.value;
    } else if (id === 'bext') bext = readBext(read(at + 8, Math.min(length, 65536)));
    else if (id === 'data') {
      if (!format) return refuse('no-format', 'The audio comes before its format description. Export the file again.');
      const info = dataInfo(format, at + 8, length, size, keep);
      if (!info.ok || bext) return info.ok ? ok({ ...info.value, bext }) : info;
      return ok({ ...info.value, bext: bextAfter(read, at + 8 + length + (length % 2), size) });
    }
    at += 8 + length + (length % 2);
  }
  return refuse('truncated', 'The file ends before its audio begins: it was cut off. Copy or export it again.');
}

/** Some writers put the broadcast extension behind the audio. */
function bextAfter(read: ReadBytes, from: number, size: number): Bext | null {
  for (let at = from, count = 0; at + 8 <= size && count < MAX_CHUNKS; count++) {
    const chunk = read(at, 8);
    if (chunk.length < 8) return null;
    const length = viewOf(chunk).getUint32(4, true);
    if (letters(chunk, 0) === 'bext') return readBext(read(at + 8, Math.min(length, 65536)));
    at += 8 + length + (length % 2);
  }
  return null;
}

function readBext(bytes: Uint8Array): Bext | null {
  if (bytes.length < 346) return null;
  const field = (at: number, length: number) => letters(bytes, at, length).split('\0')[0].trim();
  const reference = Number(viewOf(bytes).getBigUint64(338, true));
  return {
    description: field(0, 256),
    originator: field(256, 32),
    date: field(320, 10),
    time: field(330, 8),
    timeReference: Number.isSafeInteger(reference) ? reference : 0,
    codingHistory: bytes.length > BEXT_FIXED ? letters(bytes, BEXT_FIXED, MAX_HISTORY).split('\0')[0].trim() : ''
  };
}

/** Sizes that writers into a pipe put where they cannot know: the audio goes on to the end. */
const PIPED = [0xffffffff, 0x7ffff000];

function dataInfo(format: Format, dataAt: number, length: number, size: number, keep: boolean) {
  const frameBytes = (format.coding ? 1 : BYTES[format.encoding]) * format.channels;
  const there = Math.floor((size - dataAt) / frameBytes);
  const frames = PIPED.includes(length) && there > 0 ? Math.min(there, Math.floor(length / frameBytes)) : Math.floor(length / frameBytes);
  if (frames === 0) return refuse('no-frames', 'The file holds no audio: its length is 0 frames.');
  if (there >= frames) return ok({ ...format, frames, dataAt });
  if (keep && there > 0) return ok({ ...format, frames: there, dataAt });
  return refuse('truncated', shortfall(frames, there, format.rate), { promised: frames, there });
}

/** Whether rate and number of channels can be, or the refusal. */
export function checkedFormat(rate: number, channels: number): Result<null> {
  if (!(rate >= 1000 && rate <= 768000))
    return refuse('no-rate', `The file says its sample rate is ${rate} Hz, which cannot be. Export it again.`);
  if (channels < 1 || channels > MAX_CHANNELS)
    return refuse(
      'channels',
      `The file has ${channels} channels; at most ${MAX_CHANNELS} are taken. Export the channels as separate files.`
    );
  return ok(null);
}

function readFormat(bytes: Uint8Array): Result<Format> {
  if (bytes.length < 16) return refuse('bad-format', 'The format description is cut short. Export the file again.');
  const view = viewOf(bytes);
  const tag = view.getUint16(0, true);
  const channels = view.getUint16(2, true);
  const rate = view.getUint32(4, true);
  const align = view.getUint16(12, true);
  const bits = view.getUint16(14, true);
  const kind = tag === FORMAT_EXTENSIBLE && bytes.length >= 26 ? view.getUint16(24, true) : tag;
  const encoding = ({ [FORMAT_PCM]: { 16: 's16', 24: 's24', 32: 's32' }, [FORMAT_FLOAT]: { 32: 'f32', 64: 'f64' } } as const)[
    kind as 1 | 3
  ]?.[bits as never] as Encoding | undefined;
  const coding = bits === 8 ? (BYTE_FORMATS[kind] ?? null) : null;
  if (!encoding && !coding)
    return refuse(
      'encoding',
      `The samples are of a kind that is not read here (format ${kind}, ${bits} bit). Export as 16, 24 or 32 bit, or as float.`
    );
  const possible = checkedFormat(rate, channels);
  if (!possible.ok) return possible;
  if (align !== channels * (encoding ? BYTES[encoding] : 1))
    return refuse('bad-format', 'The format description contradicts itself. Export the file again.');
  return ok({ rate, channels, encoding: encoding ?? 's16', coding });
}

/** The most bytes of audio whose file a 32-bit size can still tell. */
export const WAV_LIMIT = 0xffffffff - 70_000;

export type WavOrder = WavFormat & { readonly frames: Frames; readonly bext?: Bext | null };

/**
 * The header that stands before the audio; its length does not depend on how long that is. Past 4 GB it is an RF64, whose
 * 64-bit sizes take the place of a chunk of padding. Float files get the longer format chunk and the `fact` chunk that
 * the format asks of everything but plain integers, more than two channels the extensible one.
 */
export function wavHeader({ rate, channels, encoding, frames, bext }: WavOrder): Uint8Array<ArrayBuffer> {
  const frameBytes = BYTES[encoding] * channels;
  const length = frames * frameBytes;
  const long = length > WAV_LIMIT;
  const float = encoding === 'f32' || encoding === 'f64';
  const parts: Uint8Array[] = [
    long ? sizes64(length, frames) : chunk('JUNK', new Uint8Array(28)),
    ...(bext ? [chunk('bext', bextBytes(bext))] : []),
    chunk('fmt ', formatBytes({ rate, channels, encoding })),
    ...(float ? [chunk('fact', words(long ? SIZE_ELSEWHERE : frames))] : [])
  ];
  const before = 12 + parts.reduce((sum, part) => sum + part.length, 0) + 8;
  const bytes = new Uint8Array(before);
  const total = before - 8 + length + (length % 2);
  bytes.set(ascii(long ? 'RF64' : 'RIFF'));
  bytes.set(words(long ? SIZE_ELSEWHERE : total), 4);
  bytes.set(ascii('WAVE'), 8);
  let at = 12;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  if (long) viewOf(bytes).setBigUint64(20, BigInt(total), true);
  bytes.set(ascii('data'), at);
  bytes.set(words(long ? SIZE_ELSEWHERE : length), at + 4);
  return bytes;
}

const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0) & 0xff);
const words = (...values: number[]) => new Uint8Array(new Uint32Array(values).buffer);

function chunk(id: string, body: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + body.length + (body.length % 2));
  bytes.set(ascii(id));
  bytes.set(words(body.length), 4);
  bytes.set(body, 8);
  return bytes;
}

/** RIFF size (set when the whole is known), data size, frames, and an empty table. */
function sizes64(length: number, frames: number): Uint8Array {
  const body = new Uint8Array(28);
  viewOf(body).setBigUint64(8, BigInt(length), true);
  viewOf(body).setBigUint64(16, BigInt(frames), true);
  return chunk('ds64', body);
}

function formatBytes({ rate, channels, encoding }: WavFormat): Uint8Array {
  const float = encoding === 'f32' || encoding === 'f64';
  const extensible = channels > 2;
  const bytes = new Uint8Array(extensible ? 40 : float ? 18 : 16);
  const view = viewOf(bytes);
  const kind = float ? FORMAT_FLOAT : FORMAT_PCM;
  view.setUint16(0, extensible ? FORMAT_EXTENSIBLE : kind, true);
  view.setUint16(2, channels, true);
  view.setUint32(4, rate, true);
  view.setUint32(8, rate * channels * BYTES[encoding], true);
  view.setUint16(12, channels * BYTES[encoding], true);
  view.setUint16(14, BYTES[encoding] * 8, true);
  if (extensible) {
    view.setUint16(16, 22, true);
    view.setUint16(18, BYTES[encoding] * 8, true);
    // KSDATAFORMAT_SUBTYPE: the kind, then the fixed tail of the GUID; no speaker positions are claimed.
    bytes.set([kind, 0, 0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71], 24);
  }
  return bytes;
}

function bextBytes(bext: Bext): Uint8Array {
  const history = ascii(`${bext.codingHistory}\r\n`);
  const bytes = new Uint8Array(BEXT_FIXED + history.length);
  const put = (at: number, length: number, text: string) => bytes.set(ascii(text).subarray(0, length), at);
  put(0, 256, bext.description);
  put(256, 32, bext.originator);
  put(320, 10, bext.date);
  put(330, 8, bext.time);
  const view = viewOf(bytes);
  view.setBigUint64(338, BigInt(bext.timeReference), true);
  view.setUint16(346, bext.loudness ? 2 : 1, true);
  if (bext.loudness) {
    const { integrated, range, truePeak, momentary, shortTerm } = bext.loudness;
    // Hundredths; 0x7fff says that there is none (EBU Tech 3285 §2.3).
    [integrated, range, truePeak, momentary, shortTerm].forEach((value, i) =>
      view.setInt16(412 + i * 2, value === null || !Number.isFinite(value) ? 0x7fff : Math.round(value * 100), true)
    );
  }
  bytes.set(history, BEXT_FIXED);
  return bytes;
}

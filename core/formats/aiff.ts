// AIFF and AIFF-C headers (Apple 1989, 1991): where the samples lie, of what kind they are and in which byte order.
import { ok, refuse, type Result } from '../result.ts';
import { BYTES, type Encoding } from './pcm.ts';
import { checkedFormat, type ReadBytes, shortfall, type Leniency } from './wav.ts';

export type AiffInfo = {
  readonly rate: number;
  readonly channels: number;
  readonly encoding: Encoding;
  readonly frames: number;
  readonly dataAt: number;
  readonly bigEndian: boolean;
};

const MAX_CHUNKS = 1000;
const letters = (bytes: Uint8Array, at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));

/** An 80-bit extended float, big-endian: sign and exponent, then 64 bits of mantissa with its integer bit. */
function extended(view: DataView, at: number): number {
  const exponent = (view.getUint16(at) & 0x7fff) - 16383 - 63;
  return Number(view.getBigUint64(at + 2)) * 2 ** exponent;
}

/** What an AIFF file holds, or what is wrong with it. */
export function readAiffHeader(read: ReadBytes, size: number, { keep = false }: Leniency = {}): Result<AiffInfo> {
  const head = read(0, 12);
  const compressed = head.length === 12 && letters(head, 8) === 'AIFC';
  if (head.length < 12 || letters(head, 0) !== 'FORM' || (!compressed && letters(head, 8) !== 'AIFF'))
    return refuse('not-aiff', 'This is not an AIFF file, whatever its name says. Export it as WAV.');
  let format: Omit<AiffInfo, 'dataAt'> | null = null;
  let dataAt = 0;
  for (let at = 12, count = 0; at + 8 <= size && count < MAX_CHUNKS && !(format && dataAt); count++) {
    const chunk = read(at, 8);
    if (chunk.length < 8) break;
    const length = new DataView(chunk.buffer, chunk.byteOffset).getUint32(4);
    if (letters(chunk, 0) === 'COMM') {
      const parsed = common(read(at + 8, Math.min(length, 22)), compressed);
      if (!parsed.ok) return parsed;
      format = parsed.value;
    } else if (letters(chunk, 0) === 'SSND') {
      const offset = read(at + 8, 4);
      if (offset.length === 4) dataAt = at + 16 + new DataView(offset.buffer, offset.byteOffset).getUint32(0);
    }
    at += 8 + length + (length % 2);
  }
  if (!format || !dataAt) return refuse('truncated', 'The file ends before its audio begins: it was cut off. Copy or export it again.');
  if (format.frames === 0) return refuse('no-frames', 'The file holds no audio: its length is 0 frames.');
  const there = Math.floor((size - dataAt) / (BYTES[format.encoding] * format.channels));
  if (there < format.frames && !(keep && there > 0))
    return refuse('truncated', shortfall(format.frames, Math.max(0, there), format.rate), { promised: format.frames, there });
  return ok({ ...format, frames: Math.min(there, format.frames), dataAt });
}

function common(bytes: Uint8Array, compressed: boolean): Result<Omit<AiffInfo, 'dataAt'>> {
  if (bytes.length < (compressed ? 22 : 18)) return refuse('bad-format', 'The format description is cut short. Export the file again.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const channels = view.getUint16(0);
  const frames = view.getUint32(2);
  const bits = view.getUint16(6);
  const rate = extended(view, 8);
  const kind = compressed ? letters(bytes, 18) : 'NONE';
  const whole = ({ 16: 's16', 24: 's24', 32: 's32' } as Record<number, Encoding>)[bits];
  const encoding = { NONE: whole, twos: whole, sowt: whole, fl32: 'f32', FL32: 'f32', fl64: 'f64', FL64: 'f64' }[kind] as
    Encoding | undefined;
  if (!encoding)
    return refuse(
      'encoding',
      `The samples are of a kind that is not read here (${kind.trim()}, ${bits} bit). Export as WAV, 16 or 24 bit.`
    );
  const possible = checkedFormat(rate, channels);
  if (!possible.ok) return possible;
  if (!Number.isInteger(rate)) return refuse('no-rate', `The file says its sample rate is ${rate} Hz, which cannot be. Export it again.`);
  return ok({ rate, channels, encoding, frames, bigEndian: kind !== 'sowt' });
}

/** Turns samples of `size` bytes from big-endian to little-endian, in place. */
export function swapBytes(bytes: Uint8Array, size: number): void {
  for (let at = 0; at + size <= bytes.length; at += size)
    for (let low = at, high = at + size - 1; low < high; low++, high--) [bytes[low], bytes[high]] = [bytes[high], bytes[low]];
}

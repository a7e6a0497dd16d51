// Samples of one byte: unsigned 8 bit, and the two companding laws of ITU-T G.711, as whole numbers of 16 bit, which hold them exactly.

export type ByteCoding = 'u8' | 'alaw' | 'ulaw';
export const BYTE_CODING_NAMES: Record<ByteCoding, string> = { u8: 'WAV 8 bit', alaw: 'WAV A-law', ulaw: 'WAV µ-law' };

/** A-law (G.711, table 1): 13 bits, here as 16. */
function fromALaw(code: number): number {
  const bits = code ^ 0x55;
  const segment = (bits & 0x70) >> 4;
  const step = ((bits & 0x0f) << 4) + (segment === 0 ? 8 : 0x108);
  const size = segment > 1 ? step << (segment - 1) : step;
  return bits & 0x80 ? size : -size;
}

/** µ-law (G.711, table 2): 14 bits, here as 16. */
function fromMuLaw(code: number): number {
  const bits = ~code & 0xff;
  const size = ((((bits & 0x0f) << 3) + 0x84) << ((bits & 0x70) >> 4)) - 0x84;
  return bits & 0x80 ? -size : size;
}

const each = (value: (code: number) => number) => Int16Array.from({ length: 256 }, (_, code) => value(code));
const TABLES: Record<ByteCoding, Int16Array> = { u8: each((code) => (code - 128) << 8), alaw: each(fromALaw), ulaw: each(fromMuLaw) };

/** Samples of a byte each as little-endian 16-bit ones. Example: `expanded(Uint8Array.of(128), 'u8')` is two zero bytes. */
export function expanded(bytes: Uint8Array, coding: ByteCoding): Uint8Array<ArrayBuffer> {
  const table = TABLES[coding];
  return new Uint8Array(Int16Array.from(bytes, (code) => table[code]).buffer);
}

// What kind of audio file something is, by its first bytes; names lie.

export type AudioKind = 'wav' | 'aiff' | 'flac' | 'ogg' | 'mp3';

/** The kind, from the first 64 bytes or more; null where it is none of those that are read. */
export function sniff(head: Uint8Array): AudioKind | null {
  const text = (at: number, length: number) => String.fromCharCode(...head.subarray(at, at + length));
  const first = text(0, 4);
  if (['RIFF', 'RF64', 'BW64'].includes(first)) return text(8, 4) === 'WAVE' ? 'wav' : null;
  if (first === 'FORM') return ['AIFF', 'AIFC'].includes(text(8, 4)) ? 'aiff' : null;
  if (first === 'fLaC') return 'flac';
  if (first === 'OggS') return 'ogg';
  if (text(0, 3) === 'ID3') return 'mp3';
  // An MPEG audio frame: eleven set bits, layer III, a bit rate and a sample rate that exist.
  if (head[0] === 0xff && (head[1] & 0xe6) === 0xe2 && (head[2] & 0xf0) !== 0xf0 && (head[2] & 0x0c) !== 0x0c) return 'mp3';
  return null;
}

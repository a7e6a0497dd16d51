// Taking a file in: what kind it is, what must be done before it can be kept, and the recording it becomes.
import { createHash } from 'node:crypto';
import { closeSync, createReadStream, openSync, readSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { sniff } from '$core/formats/sniff';
import { readWavHeader, type WavInfo } from '$core/formats/wav';
import { ok, refuse, type Result } from '$core/result';
import type { Media, Origin } from '$core/session/entities';
import { dbOf, type Frames } from '$core/units';
import type { Analysis } from './analyse';
import type { ConvertOrder, Converted } from './convert';

/** A recording taken in, and where its broadcast extension says that it stands; null where it has none. */
export type Intake = { readonly media: Media; readonly timeReference: Frames | null };

export type Prepared = { readonly file: string; readonly sha256: string; readonly info: WavInfo; readonly origin: Origin | null };

type Arrived = {
  readonly file: string;
  readonly sha256: string;
  /** Where a decoded or converted version may be written. */
  readonly decoded: string;
  readonly sessionRate: number;
  /** Whether another sample rate may be converted. */
  readonly convert: boolean;
  /** Whether what is there of a file that was cut off is taken. */
  readonly keep?: boolean;
  /** Carries out a conversion: in this thread or in another. */
  readonly run: (order: ConvertOrder) => Promise<Result<Converted>>;
};

const wrongRate = (rate: number, sessionRate: number) =>
  refuse('rate', `The file has ${rate} Hz, this session ${sessionRate} Hz. Convert it on import, or choose another file.`, {
    rate,
    sessionRate
  });

/** The file as it is kept: a WAV in the session's rate; what is none is decoded, and converted where that was asked for. */
export async function prepareFile({ file, sha256, decoded, sessionRate, convert, keep = false, run }: Arrived): Promise<Result<Prepared>> {
  const { size } = await stat(file);
  if (size === 0) return refuse('empty', 'The file is empty. Export it again.');
  const kind = sniff(firstBytes(file));
  if (!kind)
    return refuse(
      'not-audio',
      'This is not an audio file that is read here, whatever its name says. Export it as WAV, AIFF, FLAC, Ogg or MP3.'
    );
  const header = kind === 'wav' ? await headerOf(file) : null;
  if (header?.ok) {
    if (header.value.rate === sessionRate) return ok({ file, sha256, info: header.value, origin: null });
    if (!convert) return wrongRate(header.value.rate, sessionRate);
  } else if (header) {
    // Samples of a byte each are converted; what is there of a file that was cut off is written anew where that is wanted.
    const possible = header.error.code === 'encoding' || (keep && header.error.code === 'truncated');
    if (!possible) return header;
  }
  const converted = await run({ file, size, kind, out: decoded, toRate: convert ? sessionRate : null, keep });
  if (!converted.ok) return converted;
  const { rate, format } = converted.value;
  if (!convert && rate !== sessionRate) return wrongRate(rate, sessionRate);
  const result = await headerOf(decoded);
  if (!result?.ok) return result ?? refuse('gone', 'The file could not be converted. Try again.');
  // The broadcast extension is the arriving file's.
  const info = { ...result.value, bext: header?.ok ? header.value.bext : null };
  return ok({ file: decoded, sha256: await hashOf(decoded), info, origin: { format, sha256, rate } });
}

/** The recording of a prepared file, as it was analysed. */
export function intakeOf(
  name: string,
  { sha256, info, origin }: Prepared,
  { peak, loudness }: Pick<Analysis, 'peak' | 'loudness'>
): Intake {
  const { rate, channels, frames, encoding, bext } = info;
  const media = { id: sha256, name, sha256, rate, channels, frames, encoding, peakDb: dbOf(peak), origin, loudness };
  return { media, timeReference: bext ? Math.round((bext.timeReference * rate) / (origin?.rate ?? rate)) : null };
}

function firstBytes(file: string): Uint8Array {
  const handle = openSync(file, 'r');
  try {
    const bytes = new Uint8Array(64);
    return bytes.subarray(0, readSync(handle, bytes, 0, 64, 0));
  } finally {
    closeSync(handle);
  }
}

/** SHA-256 of a file, lower-case hex. */
export async function hashOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(file)) hash.update(chunk as Uint8Array);
  return hash.digest('hex');
}

/** A WAV file's header, or null where there is no such file. */
export async function headerOf(file: string): Promise<Result<WavInfo> | null> {
  const size = await stat(file).then(
    (found) => found.size,
    (error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null;
      throw error;
    }
  );
  if (size === null) return null;
  const handle = openSync(file, 'r');
  try {
    return readWavHeader((at, length) => {
      const bytes = new Uint8Array(length);
      return bytes.subarray(0, readSync(handle, bytes, 0, length, at));
    }, size);
  } finally {
    closeSync(handle);
  }
}

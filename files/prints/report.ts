// What is measured of a printed file, on the file as it lies there.
import { programmeMeter } from '$core/measure/programme';
import { peakMeter } from '$core/measure/truePeak';
import { dbOf, type Db } from '$core/units';
import { openReader } from './read';

export type FileReport = {
  /** dBFS and dBTP; −∞ of silence. */
  readonly peakDb: Db;
  readonly truePeakDb: Db;
  /** LUFS, LU; null where nothing is loud enough to count. */
  readonly lufs: number | null;
  readonly rangeLu: number | null;
  readonly momentary: number | null;
  readonly shortTerm: number | null;
};

const BLOCK = 65536;

/** `(await measured('mix.wav', 48000)).lufs` */
export async function measured(file: string, rate: number): Promise<FileReport> {
  const reader = await openReader(file);
  const programme = programmeMeter(rate);
  const peaks = peakMeter();
  try {
    for (;;) {
      const sides = await reader.take(BLOCK);
      if (sides[0].length === 0) break;
      programme.push(sides);
      peaks.push(sides);
    }
  } finally {
    reader.close();
  }
  const { peak, truePeak } = peaks.finish();
  const { integrated, range, momentary, shortTerm } = programme.finish();
  return { peakDb: dbOf(peak), truePeakDb: dbOf(truePeak), lufs: integrated, rangeLu: range, momentary, shortTerm };
}

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
  readonly shape: Shape;
};
/** How a file looks, in so many equal parts. */
export type Shape = {
  /** The highest sample of each, 0 … 1 and above. */
  readonly peaks: readonly number[];
  /** The highest short-term loudness in each, LUFS; null where it is silent or there are no 3 s yet. */
  readonly shortTerm: readonly (number | null)[];
};

const BLOCK = 65536;
/** Parts of a shape: as many as are seen. */
const PARTS = 480;
/** Short-term loudness looks back 3 s, and is told every 100 ms. */
const [WINDOW, HOP] = [3, 0.1];

/** `(await measured('mix.wav', 48000, 96000)).lufs` */
export async function measured(file: string, rate: number, frames: number): Promise<FileReport> {
  const reader = await openReader(file);
  const programme = programmeMeter(rate);
  const peaks = peakMeter();
  const shape = new Float64Array(PARTS);
  const partOf = (frame: number) => Math.min(PARTS - 1, Math.floor((frame / frames) * PARTS));
  let at = 0;
  try {
    for (;;) {
      const sides = await reader.take(BLOCK);
      if (sides[0].length === 0) break;
      programme.push(sides);
      peaks.push(sides);
      for (const side of sides)
        for (let i = 0; i < side.length; i++) {
          const part = partOf(at + i);
          shape[part] = Math.max(shape[part], Math.abs(side[i]));
        }
      at += sides[0].length;
    }
  } finally {
    reader.close();
  }
  const { peak, truePeak } = peaks.finish();
  const { integrated, range, momentary, shortTerm, curve } = programme.finish();
  const loud: (number | null)[] = Array.from({ length: PARTS }, () => null);
  for (const [i, each] of curve.entries()) {
    const part = partOf((WINDOW + i * HOP) * rate);
    if (each !== null) loud[part] = Math.max(loud[part] ?? -Infinity, each);
  }
  const tidy = (x: number) => Math.round(x * 1e4) / 1e4;
  return {
    ...{ peakDb: dbOf(peak), truePeakDb: dbOf(truePeak), lufs: integrated, rangeLu: range, momentary, shortTerm },
    shape: { peaks: [...shape].map(tidy), shortTerm: loud.map((each) => each && tidy(each)) }
  };
}

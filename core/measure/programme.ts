// What is said of a whole programme: integrated loudness (ITU-R BS.1770-5), loudness range (EBU Tech 3342) and the loudest moments
// (EBU Tech 3341), of all its channels together.
import { loudnessMeter, lufs, mean, type Loudness } from './loudness.ts';

export type Programme = {
  /** LUFS; null where all of it is under the absolute gate. */
  readonly integrated: Loudness;
  /** LU between the 10th and the 95th percentile of short-term loudness; null where nothing counts. */
  readonly range: number | null;
  /** The loudest 400 ms and 3 s, LUFS; null where it is shorter, or silent. */
  readonly momentary: Loudness;
  readonly shortTerm: Loudness;
  /** Short-term loudness every 100 ms, LUFS, the first after 3 s; null where it is silent. */
  readonly curve: readonly Loudness[];
};

/** Hops of 100 ms in the windows of EBU Tech 3341. */
const MOMENTARY = 4;
const SHORT = 30;
/** Tech 3342: gates of −70 LUFS and −20 LU, percentiles 10 and 95. */
const ABSOLUTE = -70;
const RELATIVE = -20;

export type ProgrammeMeter = {
  readonly push: (channels: readonly Float32Array[]) => void;
  readonly finish: () => Programme;
};

/** `const meter = programmeMeter(48000); meter.push([left, right]); meter.finish().integrated` */
export function programmeMeter(rate: number): ProgrammeMeter {
  const meter = loudnessMeter(rate);
  return {
    push: meter.push,
    finish: () => {
      const hops = meter.energies().map((list) => [...list]);
      const all = meter.finish();
      const short = windows(hops, SHORT);
      return {
        integrated: all.at(-1) ?? null,
        range: rangeOf(short),
        momentary: loudest(windows(hops, MOMENTARY)),
        shortTerm: loudest(short),
        curve: short.map((energy) => (energy > 0 ? lufs(energy) : null))
      };
    }
  };
}

/** Energies of all channels together in sliding windows of so many hops. */
function windows(hops: readonly (readonly number[])[], count: number): number[] {
  const energies: number[] = [];
  const total = hops[0]?.length ?? 0;
  for (let i = 0; i + count <= total; i++) energies.push(hops.reduce((sum, list) => sum + mean(list.slice(i, i + count)), 0));
  return energies;
}

const loudest = (energies: readonly number[]): Loudness => {
  const most = energies.reduce((max, energy) => Math.max(max, energy), 0);
  return most > 0 ? lufs(most) : null;
};

function rangeOf(energies: readonly number[]): number | null {
  const loud = energies.filter((energy) => lufs(energy) > ABSOLUTE);
  if (loud.length === 0) return null;
  const gate = lufs(mean(loud)) + RELATIVE;
  const kept = loud.filter((energy) => lufs(energy) >= gate).sort((a, b) => a - b);
  const at = (share: number) => lufs(kept[Math.round((kept.length - 1) * share)]);
  return at(0.95) - at(0.1);
}

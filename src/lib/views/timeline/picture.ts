// The picture of a recording's stretch: lowest and highest sample from the peaks pyramid, or from samples where one is close up.
import { PEAK_BIN, PEAK_FACTOR, PEAK_FIELDS, type Peaks } from '$core/measure/peaks';

/** The coarsest level of a pyramid whose bins are no wider than so many frames; the finest where all are wider. */
export const levelFor = ({ levels }: Peaks, frames: number): number =>
  Math.max(0, Math.min(levels.length - 1, Math.floor(Math.log(Math.max(1, frames / PEAK_BIN)) / Math.log(PEAK_FACTOR) + 1e-9)));

/** Lowest and highest of the recording's frames `from` … `to` at a level of its pyramid, −32767 … 32767, written into `into`. */
export function extremes({ levels }: Peaks, level: number, from: number, to: number, into: [number, number]): void {
  const bins = levels[level];
  const width = PEAK_BIN * PEAK_FACTOR ** level;
  const last = Math.min(bins.length, Math.max(Math.ceil(to / width), Math.floor(from / width) + 1) * PEAK_FIELDS);
  let [low, high] = [0, 0];
  for (let at = Math.max(0, Math.floor(from / width)) * PEAK_FIELDS; at < last; at += PEAK_FIELDS) {
    if (bins[at] < low) low = bins[at];
    if (bins[at + 1] > high) high = bins[at + 1];
  }
  into[0] = low;
  into[1] = high;
}

/** How far from the middle of a row something of this amplitude reaches, 0 … 1: what is soft is lifted, so that bleed can be seen. */
export const reach = (amplitude: number): number => (amplitude <= 0 ? 0 : Math.min(1, amplitude ** 0.5));

/** Steps of the ruler: a bar, some bars, a beat or parts of it, such that lines are at least `least` pixels apart, in quarter notes. */
export function rulerStep(beatsPerBar: number, pixelsPerBeat: number, least: number): number {
  const steps = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, ...[1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024].map((bars) => bars * beatsPerBar)];
  return steps.find((step) => step * pixelsPerBeat >= least) ?? steps.at(-1)!;
}

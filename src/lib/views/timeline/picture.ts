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

type Music = { readonly rate: number; readonly bpm: number; readonly beatsPerBar: number };
export type RulerLine = { readonly frame: number; readonly text: string };

/** Quarter notes between lines such that they are at least `least` pixels apart: bars, beats or parts of them; null where one is closer. */
function musicStep({ beatsPerBar }: Music, pixelsPerBeat: number, least: number): number | null {
  const steps = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, ...[1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024].map((bars) => bars * beatsPerBar)];
  if (steps[0] * pixelsPerBeat > 8 * least) return null;
  return steps.find((step) => step * pixelsPerBeat >= least) ?? steps.at(-1)!;
}

/** The ruler's lines from a frame on, so many pixels wide: “9”, “9·3” in bars and beats; close up in seconds. */
export function rulerLines(music: Music, from: number, perPixel: number, width: number, least = 62): RulerLine[] {
  const { rate, bpm, beatsPerBar } = music;
  const beat = (rate * 60) / bpm;
  const step = musicStep(music, beat / perPixel, least);
  const close = step === null;
  const wanted = least * perPixel * 1.4;
  const decade = 10 ** Math.floor(Math.log10(Math.max(1, wanted)));
  const frames = close
    ? Math.max(
        1,
        [1, 2, 5, 10].map((each) => each * decade).find((each) => each >= wanted)!
      )
    : step * beat;
  const first = Math.max(0, Math.floor(from / frames));
  return Array.from({ length: Math.ceil((width * perPixel) / frames) + 1 }, (_, i) => {
    const frame = Math.round((first + i) * frames);
    if (close) return { frame, text: `${(frame / rate).toFixed(frames >= rate / 1000 ? 3 : 5)} s` };
    const place = (first + i) * step;
    const within = place % beatsPerBar;
    const bar = Math.floor(place / beatsPerBar) + 1;
    return { frame, text: within === 0 ? String(bar) : `${bar}·${Math.floor(within) + 1}${within % 1 ? '+' : ''}` };
  });
}

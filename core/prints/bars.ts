// How close printed files have to come when they are added up: what rounding can make of them, and nothing more.
import type { Format } from './order.ts';

const BITS: Readonly<Record<Format, number | null>> = { wav16: 16, wav24: 24, wav32: 32, wav32f: null, flac16: 16, flac24: 24 };

/** The step of a format's whole numbers in amplitude; null for float. */
export const stepOf = (format: Format): number | null => {
  const bits = BITS[format];
  return bits === null ? null : 2 ** (1 - bits);
};

/** Whether noise is added before rounding: on request, and for 16 bit unless told not to. */
export const dithered = (format: Format, dither: boolean | null): boolean =>
  (dither ?? BITS[format] === 16) && BITS[format] !== null && BITS[format] < 32;

/** Relative to the peak of the sum, of float files that do not add up to the bit. */
const FLOAT = 10 ** (-130 / 20);
/** What float32 of the engine leaves of 32 bits: a sample's own rounding. */
const SINGLE = 2 ** -24;

/**
 * The bar for Σ stems − mix-bus input in amplitude: half a step for each stem and for the sum, rounded up to n/2 + 1 steps; with TPDF
 * dither one and a half each. `peak` is that of the sum. `nullBar('wav24', 8, false, 1)` is −124.5 dBFS.
 */
export function nullBar(format: Format, stems: number, dither: boolean, peak: number): number {
  const step = stepOf(format);
  if (step === null) return FLOAT * peak;
  const rounding = dither ? 1.5 * (stems + 1) : stems / 2 + 1;
  return Math.max(rounding * step, rounding * SINGLE * peak);
}

/** The bar for Σ stems through the chain − mix: the same, as much louder as the chain can make it, and the mix's own rounding. */
export const chainBar = (format: Format, stems: number, dither: boolean, peak: number, gain: number): number =>
  nullBar(format, stems, dither, peak) * Math.max(1, gain) + (stepOf(format) ?? 0) * (dither ? 1.5 : 0.5);

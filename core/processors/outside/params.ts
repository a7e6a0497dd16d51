// Outside device: a stand-in for hardware behind the interface's converters. Here: parameters, units and their figures.
// The audio is in kernel.ts. None of it models a particular device.
import { PERIOD } from '../../kernel/period.ts';
import type { Frames } from '../../units.ts';
import type { ParamSpec } from '../spec.ts';

export const OUTSIDE_UNITS = ['A wire', 'Spring', 'Tape'] as const;
/** The longest way out and back, frames. */
export const OUTSIDE_LATENCY = 8192;
/** At this level or under there is no noise. */
const NOISE_FLOOR = -140;

export const outsideSpecs: ParamSpec[] = [
  { id: 'unit', label: 'Unit', unit: '', min: 0, max: 2, default: 0, choices: OUTSIDE_UNITS },
  { id: 'latency', label: 'Out and back', unit: 'frames', min: 0, max: OUTSIDE_LATENCY, default: 192, latency: true },
  { id: 'noise', label: 'Noise floor', unit: 'dB', min: NOISE_FLOOR, max: -40, default: -110, silent: true },
  { id: 'drive', label: 'Drive', unit: 'dB', min: 0, max: 24, default: 0 },
  { id: 'mix', label: 'Wet', unit: '%', min: 0, max: 100, default: 100 }
];

/** Frames from the insert's input to its output; a bypassed one keeps them. */
export const outsideLatency = (values: Readonly<Record<string, number>>): Frames => Math.round(values.latency ?? 192);

/** Peak of the noise, dB; −∞ where there is none. White, evenly spread: its RMS is 4.8 dB lower. */
export const outsideNoise = (values: Readonly<Record<string, number>>): number => (values.noise <= NOISE_FLOOR ? -Infinity : values.noise);

/** All-passes that spread a spring's echo, their coefficient, and what comes back of it each time round. */
export const SPRING = { passes: 32, coefficient: 0.62, back: -0.6, level: 0.8, low: 4500 } as const;
/** Frames once along the spring, left and right: no fewer than two periods. */
export const springFrames = (rate: number): readonly [Frames, Frames] => [
  Math.max(2 * PERIOD, Math.round(rate * 0.0353)),
  Math.max(2 * PERIOD, Math.round(rate * 0.0417))
];
/** Above this the tape-like unit falls off, Hz. */
export const TAPE_LOW = 12_000;

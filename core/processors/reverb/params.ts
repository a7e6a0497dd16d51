// Reverb: a feedback delay network of eight lines (Jot & Chaigne 1991; Hadamard mixing), with Schroeder all-pass
// diffusion before it. Here: parameters and geometry. The audio is in kernel.ts.
import type { ParamSpec } from '../spec.ts';

export const REVERB_LINES = 8;
export const REVERB_DIFFUSERS = 4;
export const REVERB_TYPES = ['Room', 'Plate', 'Hall'] as const;

export const reverbSpecs: ParamSpec[] = [
  { id: 'type', label: 'Space', unit: '', min: 0, max: 2, default: 0, choices: REVERB_TYPES },
  { id: 'preDelay', label: 'Pre-delay', unit: 'ms', min: 0, max: 250, default: 12 },
  { id: 'decay', label: 'Decay', unit: 's', min: 0.1, max: 20, default: 1.4 },
  { id: 'damp', label: 'Damping', unit: 'Hz', min: 500, max: 20000, default: 6500 },
  { id: 'lowCut', label: 'Low cut', unit: 'Hz', min: 20, max: 1000, default: 120 },
  { id: 'size', label: 'Size', unit: '%', min: 40, max: 160, default: 100 },
  { id: 'width', label: 'Width', unit: '%', min: 0, max: 100, default: 100 },
  { id: 'mix', label: 'Wet', unit: '%', min: 0, max: 100, default: 100 }
];

/** Line lengths in seconds at size 100 %: mutually incommensurate, spread over about an octave. */
const LINES = [
  [0.01327, 0.01537, 0.01741, 0.01913, 0.02131, 0.02311, 0.02557, 0.02777],
  [0.00893, 0.01049, 0.01213, 0.01361, 0.01493, 0.01627, 0.01789, 0.01931],
  [0.03121, 0.03593, 0.04091, 0.04523, 0.04973, 0.05501, 0.06047, 0.06607]
];
/** All-pass lengths in seconds, left; the right side is 7 % longer. */
const DIFFUSERS = [
  [0.00151, 0.00233, 0.00347, 0.00487],
  [0.00113, 0.00179, 0.00257, 0.00379],
  [0.00229, 0.00373, 0.00557, 0.00797]
];

export type ReverbShape = { readonly preDelay: number; readonly lines: number[]; readonly left: number[]; readonly right: number[] };

/** Delay lengths in whole frames. */
export function reverbShape(values: Readonly<Record<string, number>>, rate: number): ReverbShape {
  const type = Math.round(values.type);
  const frames = (seconds: number, factor: number) => Math.max(1, Math.floor(seconds * factor * rate));
  return {
    preDelay: Math.floor((values.preDelay / 1000) * rate),
    lines: LINES[type].map((seconds) => frames(seconds, values.size / 100)),
    left: DIFFUSERS[type].map((seconds) => frames(seconds, 1)),
    right: DIFFUSERS[type].map((seconds) => frames(seconds, 1.07))
  };
}

/** The longest each ring may have to be, in frames, so that no setting needs new memory. */
export const reverbRings = (rate: number) => ({
  preDelay: Math.ceil(0.25 * rate) + 1,
  line: Math.ceil(Math.max(...LINES.flat()) * 1.6 * rate) + 1,
  diffuser: Math.ceil(Math.max(...DIFFUSERS.flat()) * 1.07 * rate) + 1
});

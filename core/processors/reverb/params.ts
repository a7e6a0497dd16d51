// Reverb: a feedback delay network of sixteen lines (Jot & Chaigne 1991; Hadamard mixing), with Schroeder all-pass
// diffusion before it. Here: parameters and geometry. The audio is in kernel.ts.
import { PERIOD } from '../../kernel/period.ts';
import type { ParamSpec } from '../spec.ts';

export const REVERB_LINES = 16;
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

/**
 * Line lengths in seconds at size 100 %: spread evenly in octaves, then moved a little by chance, so that no two have much in common.
 * Together they are as long as it takes for the modes to lie close: 0.45 s, where at a decay of 1.4 s a mode is 1.6 Hz wide.
 */
const LINES = [
  [
    ...[0.01229, 0.02966, 0.0205, 0.03879, 0.01689, 0.04729, 0.02219, 0.03589],
    ...[0.01378, 0.02574, 0.01808, 0.04318, 0.01547, 0.05272, 0.02398, 0.03133]
  ],
  [
    ...[0.01499, 0.03014, 0.02216, 0.03709, 0.01931, 0.04394, 0.02321, 0.03436],
    ...[0.01649, 0.02759, 0.01998, 0.04031, 0.01769, 0.04601, 0.0253, 0.03213]
  ],
  [
    ...[0.02669, 0.05805, 0.04056, 0.07273, 0.0354, 0.08403, 0.0444, 0.0657],
    ...[0.02982, 0.051, 0.03813, 0.07963, 0.03148, 0.09497, 0.04744, 0.06018]
  ]
];
/** All-pass lengths in seconds, left; the right side is 7 % longer. */
const DIFFUSERS = [
  [0.00167, 0.00253, 0.00367, 0.00511],
  [0.00151, 0.00211, 0.00293, 0.00413],
  [0.00229, 0.00373, 0.00557, 0.00797]
];
/** What makes pink noise as loud behind it as before it, at the decay, damping and low cut it begins with. */
const LEVELS = [0.104, 0.1045, 0.134];

export type ReverbShape = {
  readonly preDelay: number;
  readonly lines: number[];
  readonly left: number[];
  readonly right: number[];
  readonly level: number;
};

/** Delay lengths in whole frames: none shorter than a period, and none of these alike. */
export function reverbShape(values: Readonly<Record<string, number>>, rate: number): ReverbShape {
  const type = Math.round(values.type);
  const frames = (seconds: number, factor: number, i: number) => Math.max(PERIOD + i, Math.floor(seconds * factor * rate));
  return {
    preDelay: Math.floor((values.preDelay / 1000) * rate),
    lines: LINES[type].map((seconds, i) => frames(seconds, values.size / 100, i)),
    left: DIFFUSERS[type].map((seconds, i) => frames(seconds, 1, 2 * i)),
    right: DIFFUSERS[type].map((seconds, i) => frames(seconds, 1.07, 2 * i + 1)),
    level: LEVELS[type]
  };
}

/** The longest each ring may have to be, in frames, so that no setting needs new memory. */
export const reverbRings = (rate: number) => ({
  preDelay: Math.ceil(0.25 * rate) + 1,
  line: Math.max(PERIOD + REVERB_LINES, Math.ceil(Math.max(...LINES.flat()) * 1.6 * rate)) + 1,
  diffuser: Math.max(PERIOD + 2 * REVERB_DIFFUSERS, Math.ceil(Math.max(...DIFFUSERS.flat()) * 1.07 * rate)) + 1
});

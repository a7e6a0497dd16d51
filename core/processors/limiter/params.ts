// Limiter: parameters and its latency. The audio is in kernel.ts.
import type { Frames } from '../../units.ts';
import type { ParamSpec } from '../spec.ts';

export const limiterSpecs: ParamSpec[] = [
  { id: 'drive', label: 'Drive', unit: 'dB', min: -12, max: 24, default: 0 },
  { id: 'ceiling', label: 'Ceiling', unit: 'dB', min: -24, max: 0, default: -1 },
  { id: 'release', label: 'Release', unit: 'ms', min: 5, max: 1000, default: 80 }
];

/** Look-ahead, seconds. */
const LOOK_AHEAD = 0.0015;
/** Frames by which the true-peak interpolator comes late. */
const CENTRE = 24;

/** The window over which a gain is brought down before its peak; at low rates no less than the interpolator looks back. */
export const limiterWindow = (rate: number): Frames => Math.max(CENTRE, Math.round(LOOK_AHEAD * rate));
export const limiterLatency = (rate: number): Frames => limiterWindow(rate) + CENTRE - 1;

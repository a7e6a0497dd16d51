// Trim: level, polarity, mono, swapped sides, and a delay in whole frames that is meant to be heard.
import type { Db } from '../../units.ts';
import type { ParamSpec, Params } from '../spec.ts';

const SWITCH = ['Off', 'On'];

export const trimSpecs: ParamSpec[] = [
  { id: 'gain', label: 'Level', unit: 'dB', min: -60, max: 24, default: 0, silent: true },
  { id: 'turnL', label: 'Polarity left', unit: '', min: 0, max: 1, default: 0, choices: ['As is', 'Inverted'] },
  { id: 'turnR', label: 'Polarity right', unit: '', min: 0, max: 1, default: 0, choices: ['As is', 'Inverted'], twoSides: true },
  { id: 'mono', label: 'Mono', unit: '', min: 0, max: 1, default: 0, choices: SWITCH, twoSides: true },
  { id: 'swap', label: 'Swap sides', unit: '', min: 0, max: 1, default: 0, choices: SWITCH, twoSides: true },
  { id: 'delay', label: 'Delay', unit: 'frames', min: 0, max: 4800, default: 0 }
];

/** The longest delay, frames. */
export const TRIM_DELAY = 4800;

/** Factors { LL, RL, LR, RR } before the level: "RL" is what of the right goes to the left. */
export function trimMatrix(values: Readonly<Record<string, number>>): readonly [number, number, number, number] {
  const on = (id: string) => values[id] >= 0.5;
  const l = on('turnL') ? -1 : 1;
  const r = on('turnR') ? -1 : 1;
  if (on('mono')) return [l / 2, r / 2, l / 2, r / 2];
  return on('swap') ? [0, r, l, 0] : [l, 0, 0, r];
}

/** Its level in dB; −∞ at its least value. */
export const trimLevel = ({ gain }: Params): Db => (gain <= -60 ? -Infinity : gain);

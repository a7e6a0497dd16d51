// Compressor: its parameters and its static curve for drawing. The audio is in kernel.ts; both follow
// D. Giannoulis, M. Massberg, J. Reiss, "Digital Dynamic Range Compressor Design" (JAES 60, 2012).
import type { Db } from '../../units.ts';
import type { ParamSpec } from '../spec.ts';

export const COMP_CHARACTERS = ['Clean', 'Quick', 'Patient'] as const;
/** A ratio of this and more is ∞. */
export const RATIO_INFINITE = 100;

export const compSpecs: ParamSpec[] = [
  { id: 'threshold', label: 'Threshold', unit: 'dB', min: -60, max: 0, default: -18 },
  { id: 'ratio', label: 'Ratio', unit: ':1', min: 1, max: RATIO_INFINITE, default: 3 },
  { id: 'knee', label: 'Knee', unit: 'dB', min: 0, max: 24, default: 6 },
  { id: 'attack', label: 'Attack', unit: 'ms', min: 0.05, max: 200, default: 10, note: (values) => timeNote(values, 'attack') },
  { id: 'release', label: 'Release', unit: 'ms', min: 5, max: 3000, default: 150, note: (values) => timeNote(values, 'release') },
  { id: 'makeUp', label: 'Make-up', unit: 'dB', min: -24, max: 24, default: 0 },
  { id: 'auto', label: 'Auto make-up', unit: '', min: 0, max: 1, default: 0, choices: ['Off', 'On'] },
  { id: 'character', label: 'Character', unit: '', min: 0, max: 2, default: 0, choices: COMP_CHARACTERS },
  {
    ...{ id: 'detector', label: 'Detector', unit: '', min: 0, max: 1, default: 0, choices: ['Peak', 'RMS'] },
    note: (values) => `A sine reads ${Math.max(0, -sineReading(values)).toFixed(1)} dB under its peak.`
  },
  { id: 'mix', label: 'Wet', unit: '%', min: 0, max: 100, default: 100 },
  { id: 'keyHigh', label: 'High-pass', unit: 'Hz', min: 20, max: 2000, default: 20, group: 'Key' },
  { id: 'keyLow', label: 'Low-pass', unit: 'Hz', min: 500, max: 20000, default: 20000, group: 'Key' },
  { id: 'listen', label: 'Listen', unit: '', min: 0, max: 1, default: 0, choices: ['Off', 'On'], group: 'Key' }
];

/** The key filters at these ends are out of the way. */
export const KEY_OPEN = { high: 20, low: 20000 } as const;

/** Averaging of the RMS detector, ms. */
export const RMS_MS = 10;

/**
 * What a character makes of the times and the sound: Quick is quicker than the times say and bends the wave a little, to x/√(1 + colour·x²);
 * Patient lets go slowly of what lasted.
 */
export const characterOf = (values: Readonly<Record<string, number>>) => {
  const character = Math.round(values.character);
  const factor = character === 1 ? 0.3 : 1;
  return {
    attack: values.attack * factor,
    release: values.release * factor,
    slow: character === 2,
    colour: character === 1 ? 0.24 : 0
  };
};

const inMs = (ms: number) => `${ms < 20 ? Number(ms.toFixed(2)) : Math.round(ms)} ms`;

/** A time that is another than what is set: the quick character's are shorter, the patient one lets go of what lasted in a second time. */
function timeNote(values: Readonly<Record<string, number>>, which: 'attack' | 'release'): string | null {
  const character = characterOf(values);
  if (character[which] !== values[which]) return `Quick makes ${inMs(character[which])} of it.`;
  return which === 'release' && character.slow ? `What lasted is let go in ${inMs(lastingOf(values).release)}.` : null;
}

/** Times of the second reduction of the patient character: ms. */
export const lastingOf = ({ attack, release }: Readonly<Record<string, number>>) => ({
  attack: release + attack * 4,
  release: release * 5
});

/**
 * What the detector takes a steady sine far over the threshold for, dB beside its peak (≤ 0). RMS: 10·log10 ½. Peak: attack and release
 * pull the reduction to and fro within each wave, and it stays where both pull alike: ∫ max(0, u − d) / attack = ∫ max(0, d − u) / release,
 * u = 20·log10 |sin|. Both times the same: the mean of u, −6.02 dB.
 * @example sineReading({ ...defaults, attack: 10, release: 150 }) // −1.4
 */
export function sineReading(values: Readonly<Record<string, number>>): Db {
  if (values.detector >= 0.5) return -10 * Math.log10(2);
  const { attack, release } = characterOf(values);
  const points = Array.from({ length: 720 }, (_, i) => 20 * Math.log10(Math.sin((Math.PI * (i + 0.5)) / 720)));
  let [low, high] = [-60, 0];
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    const pull = points.reduce((sum, u) => sum + (u > middle ? (u - middle) / attack : (u - middle) / release), 0);
    if (pull > 0) low = middle;
    else high = middle;
  }
  return low;
}

/** 1/R − 1: how much of what is over the threshold goes away, as a negative share. */
export const slopeOf = (ratio: number): number => (ratio >= RATIO_INFINITE ? -1 : 1 / ratio - 1);

/** Reduction in dB (≤ 0) of a steady level in dBFS. */
export function compReduction(values: Readonly<Record<string, number>>, level: Db): Db {
  const { threshold, ratio, knee } = values;
  const over = level - threshold;
  const bent = Math.max(0, Math.min(knee, over + knee / 2));
  return slopeOf(ratio) * ((knee > 0 ? (bent * bent) / (2 * knee) : 0) + Math.max(0, over - knee / 2)) + 0;
}

/** Make-up in dB: what is set, and with automatic make-up half of what a full-scale signal loses. */
export const makeUpOf = (values: Readonly<Record<string, number>>): Db =>
  values.makeUp + (values.auto >= 0.5 ? -compReduction(values, 0) / 2 : 0);

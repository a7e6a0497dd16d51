// Delay: up to eight taps by time or note value. Here: parameters and what they come to in frames.
// The audio is in kernel.ts.
import type { Db, Frames } from '../../units.ts';
import type { ParamSpec, Params } from '../spec.ts';

export const DELAY_TAPS = 8;
export const DELAY_MODES = ['Straight', 'Crossing', 'Ping-pong'] as const;
/** The longest time and the longest note, seconds: a whole one at the slowest tempo takes 12. */
export const DELAY_LONGEST = 4;
export const DELAY_LONGEST_NOTE = 16;

/** Note values in quarter notes; the first is "by time". */
const NOTES: readonly (readonly [string, number])[] = [
  ['ms', 0],
  ['1/32', 1 / 8],
  ['1/16 triplet', 1 / 6],
  ['1/16', 1 / 4],
  ['1/16 dotted', 3 / 8],
  ['1/8 triplet', 1 / 3],
  ['1/8', 1 / 2],
  ['1/8 dotted', 3 / 4],
  ['1/4 triplet', 2 / 3],
  ['1/4', 1],
  ['1/4 dotted', 3 / 2],
  ['1/2 triplet', 4 / 3],
  ['1/2', 2],
  ['1/2 dotted', 3],
  ['1/1', 4]
];
export const NOTE_NAMES = NOTES.map(([name]) => name);

/** A tap at this level or under is silent. */
const TAP_FLOOR = -60;

export const delaySpecs: ParamSpec[] = [
  { id: 'taps', label: 'Taps', unit: '', min: 1, max: DELAY_TAPS, default: 1 },
  { id: 'mode', label: 'Mode', unit: '', min: 0, max: 2, default: 0, choices: DELAY_MODES },
  { id: 'feedback', label: 'Feedback', unit: '%', min: 0, max: 95, default: 30 },
  { id: 'high', label: 'High-pass', unit: 'Hz', min: 20, max: 2000, default: 150 },
  { id: 'low', label: 'Low-pass', unit: 'Hz', min: 500, max: 20000, default: 5000 },
  { id: 'apart', label: 'Right later', unit: 'ms', min: -100, max: 100, default: 0 },
  { id: 'mix', label: 'Wet', unit: '%', min: 0, max: 100, default: 100 },
  ...Array.from({ length: DELAY_TAPS }, (_, i): ParamSpec[] => {
    const group = `Tap ${i + 1}`;
    const used = (values: Params) => i < values.taps;
    const timed = (values: Params) => used(values) && values[`t${i + 1}.note`] === 0;
    return [
      { id: `t${i + 1}.note`, label: 'Note', unit: '', min: 0, max: NOTES.length - 1, default: 0, choices: NOTE_NAMES, group, when: used },
      { id: `t${i + 1}.time`, label: 'Time', unit: 'ms', min: 1, max: DELAY_LONGEST * 1000, default: 250 * (i + 1), group, when: timed },
      { id: `t${i + 1}.level`, label: 'Level', unit: 'dB', min: TAP_FLOOR, max: 6, default: -3 * i, silent: true, group, when: used },
      { id: `t${i + 1}.pan`, label: 'Pan', unit: '', min: -100, max: 100, default: 0, group, when: used }
    ];
  }).flat()
];

export type DelayTap = { readonly left: Frames; readonly right: Frames; readonly level: Db; readonly pan: number };
export type DelayShape = { readonly mode: number; readonly taps: readonly DelayTap[] };

/** Taps in whole frames at a rate and a tempo in quarter notes a minute; feedback goes round by the first one's time, never more than 16.1 s. */
export function delayShape(values: Readonly<Record<string, number>>, rate: number, bpm: number): DelayShape {
  const longest = ringOf(DELAY_LONGEST_NOTE, rate) - 1;
  const frames = (seconds: number) => Math.max(1, Math.min(longest, Math.round(seconds * rate)));
  const taps = Array.from({ length: Math.round(values.taps) }, (_, i): DelayTap => {
    const value = (id: string) => values[`t${i + 1}.${id}`];
    const note = NOTES[Math.round(value('note'))][1];
    const seconds = note > 0 ? (note * 60) / bpm : value('time') / 1000;
    const level = value('level');
    return {
      left: frames(seconds),
      right: frames(seconds + values.apart / 1000),
      level: level <= TAP_FLOOR ? -Infinity : level,
      pan: value('pan')
    };
  });
  return { mode: Math.round(values.mode), taps };
}

/** `apart` reaches 0.1 s further. */
const ringOf = (seconds: number, rate: number): Frames => Math.ceil((seconds + 0.1) * rate) + 1;

/** Frames that the rings must hold: those of any time, so that times move freely, or those of any note where one is longer. */
export function delayRoom(values: Params, rate: number, bpm: number): Frames {
  const [usual, most] = [DELAY_LONGEST, DELAY_LONGEST_NOTE].map((seconds) => ringOf(seconds, rate));
  return delayShape(values, rate, bpm).taps.every(({ left, right }) => Math.max(left, right) < usual) ? usual : most;
}

// The finished demo's lanes: the lead's echo thrown at the ends of two phrases, a hall that opens for the choir in “Lanterns”, a fade at the
// end.
import type { Command } from '../core/commands/index.ts';
import { BAR, BEAT, SECONDS, tune } from './score.ts';
import { RATE } from './voices.ts';

const frames = (seconds: number): number => Math.round(seconds * RATE);
const bar = (number: number): number => frames((number - 1) * BAR);

/** Where the last note of the phrase before a bar begins, and where it has ended, seconds. */
function lastBefore(number: number): { readonly from: number; readonly to: number } {
  const { at, length } = tune()
    .filter((note) => note.at < (number - 1) * BAR)
    .reduce((last, note) => (note.at > last.at ? note : last));
  return { from: at, to: at + length };
}

/** Commands upon all the rest; `t` gives the tracks' ids by their numbers. */
export function moving(t: (number: number) => string): Command[] {
  const end = frames(SECONDS);
  return [
    ...[11, 19].flatMap((number, i): Command[] => {
      const { from, to } = lastBefore(number);
      return [
        {
          do: 'lanes.throw',
          ...{ ids: [t(22)], target: 'echo', from: frames(from), to: frames(Math.max(to, from + BEAT)), level: i ? -4 : -5 },
          ...{ rise: frames(0.01), fall: frames(0.3), as: 'throw' }
        }
      ];
    }),
    { do: 'lanes.add', id: 'hall', channelId: 'glow', of: 'fader' },
    {
      do: 'points.set',
      lane: 'hall',
      points: [
        { at: 0, value: -15, shape: 'linear' },
        { at: bar(10), value: -15, shape: 'eased' },
        { at: bar(12), value: -3, shape: 'linear' },
        { at: bar(18), value: -2, shape: 'eased' },
        { at: bar(20), value: -9, shape: 'linear' }
      ]
    },
    { do: 'lanes.add', id: 'ending', channelId: 'mix', of: 'fader' },
    {
      do: 'points.set',
      lane: 'ending',
      points: [
        { at: 0, value: 0, shape: 'linear' },
        { at: end - frames(6), value: 0, shape: 'eased' },
        { at: end - frames(1.5), value: -18, shape: 'linear' },
        { at: end, value: -Infinity, shape: 'linear' }
      ]
    }
  ];
}

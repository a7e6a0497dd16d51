// The finished demo in time: voices without the band's bleed between their phrases, drums whose edits go together, marked parts.
import type { Command } from '../core/commands/index.ts';
import { BAR, choir, SECONDS, tune } from './score.ts';
import { RATE, type Note } from './voices.ts';

const frames = (seconds: number): number => Math.round(seconds * RATE);

/** Seconds left before a phrase and after it, in which a voice may still ring, and the shortest gap. */
const [BEFORE, AFTER, SHORTEST] = [0.12, 0.4, 0.8];

/** Ranges between the phrases of a part: what a voice's own recording holds there is bleed. */
export function gapsOf(notes: readonly Note[]): { readonly from: number; readonly to: number }[] {
  const gaps: { from: number; to: number }[] = [];
  let from = 0;
  const upTo = (to: number) => {
    if (to - from >= SHORTEST) gaps.push({ from: frames(from), to: frames(to) });
  };
  for (const { at, length } of [...notes].sort((a, b) => a.at - b.at)) {
    upTo(at - BEFORE);
    from = Math.max(from, at + length + AFTER);
  }
  upTo(SECONDS);
  return gaps;
}

/** Commands upon the finished routing; `t` gives the tracks' ids by their numbers. */
export function inTime(t: (number: number) => string): Command[] {
  const clean = (id: string, notes: readonly Note[]): Command[] =>
    gapsOf(notes).map(({ from, to }) => ({ do: 'clips.remove', channels: [id], from, to }));
  const bar = (number: number) => frames((number - 1) * BAR);
  return [
    ...clean(t(22), tune()),
    ...clean(
      t(23),
      tune().filter(({ at }) => at >= 10 * BAR)
    ),
    ...([0, 1, 2, 3] as const).flatMap((part) => clean(t(18 + part), choir(part))),
    {
      do: 'links.add',
      id: 'drum-edits',
      name: 'Drum edits',
      badge: 'edit',
      members: [t(2), t(4)],
      attributes: ['cuts', 'moves', 'fades']
    },
    // Cut where “Lanterns” begins, and crossed there: both drums, at the same frame.
    { do: 'clips.cut', ids: [`${t(2)}:1`], at: bar(11), as: 'lanterns' },
    { do: 'clips.join', ids: [`${t(2)}:1`], frames: frames(0.02) },
    { do: 'ranges.set', id: 'verse', name: 'Verse', from: bar(3), to: bar(11), colour: 5 },
    { do: 'ranges.set', id: 'lanterns', name: 'Lanterns', from: bar(11), to: bar(19), colour: 2 },
    { do: 'markers.set', id: 'turn', name: 'Turn', at: bar(19), colour: 8 }
  ];
}

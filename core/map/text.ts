// How wide words are in the Map, without a screen to measure them on: a little too wide rather than too narrow.

/** Widths at 1 px of type size, by the kind of letter; measured of Atkinson Hyperlegible Next, rounded up. */
const NARROW = /[iljtfrI.,:;'’|!()[\] ]/;
const WIDE = /[mwMW@%—]/;
const UPPER = /[A-Z0-9ÄÖÜ&]/;
const widthOf = (letter: string): number => (NARROW.test(letter) ? 0.34 : WIDE.test(letter) ? 0.9 : UPPER.test(letter) ? 0.67 : 0.57);
/** Bold, and spaced by 0.02 em. */
const STRONG = 1.1;

/** Pixels that `text` takes at `size` pixels. @example textWidth('MIX', 12, true) // about 22 */
export const textWidth = (text: string, size: number, strong = false): number =>
  [...text].reduce((sum, letter) => sum + widthOf(letter), 0) * size * (strong ? STRONG : 1);

/** The text as far as it fits into so many pixels, with an ellipsis where some is left out. */
export function fitting(text: string, size: number, room: number, strong = false): string {
  if (textWidth(text, size, strong) <= room) return text;
  const letters = [...text];
  while (letters.length > 1 && textWidth(`${letters.join('')}…`, size, strong) > room) letters.pop();
  return `${letters.join('').trimEnd()}…`;
}

// The twelve family hues in OKLCH, all of one lightness and chroma, and gradients between them in equal steps of hue.

/** Degrees, rising; the last lies past a whole turn. */
export const HUES = [25, 75, 100, 125, 150, 165, 195, 230, 255, 300, 330, 365] as const;
const turn = (i: number) => HUES[((i % 12) + 12) % 12] + 360 * Math.floor(i / 12);

/** Degrees in OKLCH of a colour 0 … < 12, whole ones the families', others between two. */
export function hueOf(colour: number): number {
  const low = Math.floor(colour);
  return (turn(low) + (turn(low + 1) - turn(low)) * (colour - low)) % 360;
}

/** The colour of a hue: the inverse of `hueOf`. */
export function colourOf(degrees: number): number {
  const angle = HUES[0] + ((((degrees - HUES[0]) % 360) + 360) % 360);
  let low = 0;
  while (low < 11 && turn(low + 1) <= angle) low++;
  return (low + (angle - turn(low)) / (turn(low + 1) - turn(low))) % 12;
}

/** `count` colours from one to another the shorter way round, each step the same angle; 0 … < 12, rounded to a thousandth. */
export function gradient(from: number, to: number, count: number): number[] {
  const start = hueOf(from);
  const way = ((hueOf(to) - start + 540) % 360) - 180;
  return Array.from({ length: count }, (_, i) => {
    const colour = colourOf(start + (count === 1 ? 0 : (way * i) / (count - 1)));
    return (Math.round(colour * 1000) / 1000) % 12;
  });
}

// The twelve family hues: equal lightness and chroma in OKLCH, set by the theme.
const HUES = [25, 75, 100, 125, 150, 165, 195, 230, 255, 300, 330, 5] as const;
export const COLOUR_NAMES = [
  'brick',
  'amber',
  'straw',
  'moss',
  'fern',
  'reef',
  'lagoon',
  'harbour',
  'dusk',
  'heather',
  'orchid',
  'rose'
] as const;

/** A CSS colour for a family hue, 0 … 11. */
export const family = (index: number): string => `oklch(var(--family-l) var(--family-c) ${HUES[index % 12]})`;

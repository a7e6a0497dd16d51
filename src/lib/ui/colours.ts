// The twelve family hues as CSS colours and by name; lightness and chroma are the theme's.
import { hueOf } from '$core/session/hues';

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

/** A CSS colour for a family hue, 0 … < 12; a number between two is a hue between them. */
export const family = (colour: number): string => `oklch(var(--family-l) var(--family-c) ${hueOf(colour).toFixed(1)})`;
/** The colour of a crosspoint's hair: as bright as the signal that passes makes `--bright`, 0 … 1. */
export const hair = (colour: number): string => `oklch(var(--family-l) var(--family-c) ${hueOf(colour).toFixed(1)} / var(--bright, 0.6))`;
export const colourName = (colour: number): string =>
  Number.isInteger(colour) ? COLOUR_NAMES[colour] : `${COLOUR_NAMES[Math.floor(colour)]} to ${COLOUR_NAMES[Math.ceil(colour) % 12]}`;

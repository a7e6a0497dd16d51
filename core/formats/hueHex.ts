// A family hue as sRGB hex, for pictures that other programs show.
import { formatHex } from 'culori';
import { hueOf } from '../session/hues.ts';

/** "#rrggbb" of a colour 0 … < 12, with the lightness and chroma of the day's family colours; what lies outside sRGB is brought to its edge. */
export const hexOf = (colour: number): string => formatHex({ mode: 'oklch', l: 0.66, c: 0.125, h: hueOf(colour) });

// A family hue as sRGB hex, for pictures that other programs show: OKLCH to sRGB after B. Ottosson, "A perceptual color space" (2020).
import { hueOf } from '../session/hues.ts';

/** Lightness and chroma of the day's family colours. */
const [L, C] = [0.66, 0.125];

const toSrgb = (x: number) => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);

/** "#rrggbb" of a colour 0 … < 12; what lies outside sRGB is brought to its edge. */
export function hexOf(colour: number): string {
  const angle = (hueOf(colour) * Math.PI) / 180;
  const [a, b] = [C * Math.cos(angle), C * Math.sin(angle)];
  const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const linear = [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s
  ];
  const byte = (x: number) =>
    Math.round(Math.max(0, Math.min(1, toSrgb(x))) * 255)
      .toString(16)
      .padStart(2, '0');
  return `#${linear.map(byte).join('')}`;
}

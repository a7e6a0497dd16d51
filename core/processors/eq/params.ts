// Equaliser: six bands of trapezoidal state-variable filters. Here: its parameters and its response for drawing.
// The audio is in kernel.ts; both follow A. Simper, "Solving the continuous SVF equations using
// trapezoidal integration" (2013), with the pass filters as Butterworth cascades.
import type { ParamSpec } from '../spec.ts';

export const EQ_BANDS = 6;
/** Filter stages a band may need: 48 dB/oct are four of second order. */
export const EQ_STAGES = 4;
export const EQ_TYPES = ['High-pass', 'Low shelf', 'Bell', 'Notch', 'High shelf', 'Low-pass'] as const;
export const EQ_SLOPES = [6, 12, 18, 24, 36, 48] as const;

const AT_FIRST = [
  { type: 0, freq: 40 },
  { type: 1, freq: 120 },
  { type: 2, freq: 400 },
  { type: 2, freq: 2500 },
  { type: 4, freq: 8000 },
  { type: 5, freq: 18000 }
];

/** Parameters `b1.on` … `b6.slope`. */
export const eqSpecs: ParamSpec[] = AT_FIRST.flatMap(({ type, freq }, i) => {
  const spec = (id: string, rest: Omit<ParamSpec, 'id'>): ParamSpec => ({ id: `b${i + 1}.${id}`, ...rest });
  return [
    spec('on', { label: 'On', unit: '', min: 0, max: 1, default: 0 }),
    spec('type', { label: 'Type', unit: '', min: 0, max: 5, default: type, choices: EQ_TYPES }),
    spec('freq', { label: 'Frequency', unit: 'Hz', min: 10, max: 22000, default: freq }),
    spec('gain', { label: 'Gain', unit: 'dB', min: -24, max: 24, default: 0 }),
    spec('q', { label: 'Q', unit: '', min: 0.1, max: 20, default: 0.71 }),
    spec('slope', { label: 'Slope', unit: 'dB/oct', min: 0, max: 5, default: 1, choices: EQ_SLOPES.map(String) })
  ];
});

export type Band = { on: boolean; type: number; freq: number; gain: number; q: number; slope: number };

export const bandOf = (values: Readonly<Record<string, number>>, band: number): Band => {
  const value = (id: string) => values[`b${band + 1}.${id}`];
  return {
    on: value('on') >= 0.5,
    type: Math.round(value('type')),
    freq: value('freq'),
    gain: value('gain'),
    q: value('q'),
    slope: Math.round(value('slope'))
  };
};

/** A stage of the cascade: order 1 or 2 and its quality. */
export type Stage = { readonly order: 1 | 2; readonly q: number };

/**
 * Stages of a band. Bells, shelves and notches have one. Passes are Butterworth cascades; the band's Q scales
 * the stage of highest quality so that 0.71 (1/√2) is Butterworth.
 */
export function stagesOf(band: Pick<Band, 'type' | 'q' | 'slope'>): Stage[] {
  if (band.type !== 0 && band.type !== 5) return [{ order: 2, q: band.q }];
  const order = EQ_SLOPES[band.slope] / 6;
  const pairs = Math.floor(order / 2);
  const stages: Stage[] = Array.from({ length: pairs }, (_, i) => {
    const q = BUTTERWORTH[order][i];
    return { order: 2, q: i === 0 ? (q * band.q) / 0.71 : q };
  });
  if (order % 2) stages.push({ order: 1, q: 0.5 });
  return stages;
}

/** Qualities of Butterworth pole pairs by order, highest first: 1 / (2 sin((2k+1)π/2n)). Written out so that no engine's sine matters. */
const BUTTERWORTH: Record<number, readonly number[]> = {
  1: [],
  2: [0.7071067811865476],
  3: [1],
  4: [1.3065629648763766, 0.541196100146197],
  6: [1.9318516525781366, 0.7071067811865476, 0.5176380902050415],
  8: [2.5629154477415055, 0.8999762231364156, 0.6013448869350453, 0.5097955791041592]
};

/** Highest frequency a filter is run at, as a share of the sample rate. */
export const TOP_SHARE = 0.49;

/** Level in dB of the whole equaliser at a frequency, from the same filters as the audio. */
export function eqResponse(values: Readonly<Record<string, number>>, frequency: number, rate: number): number {
  let db = 0;
  for (let i = 0; i < EQ_BANDS; i++) {
    const band = bandOf(values, i);
    if (band.on) for (const stage of stagesOf(band)) db += stageResponse(band, stage, frequency, rate);
  }
  return db;
}

/**
 * A bell that is the analogue one where no bilinear one can be, which at 44.1 kHz is up to 8 dB off near the top. With
 * t = tan²(πf/fs), |H|² is (1 − high·t/g²)² + band²·t/g² over (1 − t/g²)² + k²·t/g². It is the analogue
 * (1 − w²)² + w²·G/Q² over (1 − w²)² + w²/(GQ²), w = f/f0, in four places: at 0 Hz, in the middle (value, and level there), at the lower
 * edge (half the gain in dB, w = √(1 + 1/4Q²) − 1/2Q) and at half the rate. These determine it, cut and boost are each other's inverse,
 * and up to 16 kHz it is never more than 1.01 dB off (±24 dB; 0.4 dB at ±6). `freq` below rate/2; `gain` in dB.
 * `kernel/assembly/filters.ts` has the same.
 */
export function matchedBell(freq: number, gain: number, q: number, rate: number) {
  const gained = 10 ** (gain / 20);
  const w = rate / freq / 2;
  const [x, y] = [(1 - w * w) ** 2, (w / q) ** 2];
  const [t0, t1] = [freq, freq * (Math.sqrt(1 + 0.25 / (q * q)) - 0.5 / q)].map((f) => Math.tan((Math.PI * f) / rate) ** 2);
  const share = Math.sqrt(x / (x + y / gained));
  const spread = share * ((t0 - t1) ** 2 / (t0 * t1) - ((t1 / t0) * y) / x);
  const high = Math.sqrt((x + y * gained) / (x + y / gained));
  return {
    g: Math.sqrt(t0 * share),
    k: Math.sqrt(spread / gained + 2 * (1 - share)),
    high,
    band: Math.sqrt(spread * gained + 2 * (high - share))
  };
}

/** |H| in dB: with trapezoidal integration s becomes j·tan(πf/fs)/g exactly. */
function stageResponse({ type, freq, gain }: Band, { order, q }: Stage, frequency: number, rate: number): number {
  const a = 10 ** (gain / 40);
  const warp = (f: number) => Math.tan(Math.PI * Math.min(f / rate, 0.4999));
  const top = Math.min(freq, rate * TOP_SHARE);
  const bell = matchedBell(top, gain, q, rate);
  const g = type === 1 ? warp(top) / Math.sqrt(a) : type === 2 ? bell.g : type === 4 ? warp(top) * Math.sqrt(a) : warp(top);
  const w = warp(frequency) / g;
  const square = (re: number, im: number) => re * re + im * im;
  if (order === 1) return 10 * Math.log10((type === 0 ? w * w : 1) / (1 + w * w) + 1e-30);
  const k = type === 2 ? bell.k : 1 / q;
  const below = square(1 - w * w, k * w);
  const [re, im] = [
    [-w * w, 0],
    [a * a - w * w, k * a * w],
    [1 - bell.high * w * w, bell.band * w],
    [1 - w * w, 0],
    [1 - a * a * w * w, k * a * w],
    [1, 0]
  ][type];
  return 10 * Math.log10(square(re, im) / below + 1e-30);
}

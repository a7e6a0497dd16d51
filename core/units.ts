// Branded units. A number that crosses a boundary says what it is.

declare const unit: unique symbol;
type Unit<Name extends string> = number & { readonly [unit]?: Name };

/** Level in decibels, −∞ … +12 for faders and sends. */
export type Db = Unit<'dB'>;
/** Linear amplitude factor, 1 is unity. */
export type Gain = Unit<'gain'>;
/** Whole sample frames. */
export type Frames = Unit<'frames'>;
/** Pan position, −100 (left) … 0 … +100 (right). */
export type Pan = Unit<'pan'>;
/** Frequency in hertz. */
export type Hz = Unit<'Hz'>;

/** The highest level of faders and sends. */
export const TOP_DB = 12;
/** Levels below this become −∞ when they are set, so that no number on screen stands for "nearly nothing". */
export const FLOOR_DB = -120;

/** The longest that anything can be: a day at the highest rate. */
export const MOST_FRAMES: Frames = 86_400 * 768_000;

/** Amplitude for a level in decibels; −∞ gives 0. For display and decisions; audio uses the kernel's own. */
export const gainOf = (level: Db): Gain => (level === -Infinity ? 0 : 10 ** (level / 20));

/** Level in decibels of an amplitude ≥ 0; 0 gives −∞. */
export const dbOf = (gain: Gain): Db => (gain <= 0 ? -Infinity : 20 * Math.log10(gain));

/** A level brought into −∞ … +12 dB, rounded to 0.01 dB so that sums of nudges stay exact on screen. */
export const clampDb = (level: Db): Db => (level <= FLOOR_DB ? -Infinity : Math.min(TOP_DB, Math.round(level * 100) / 100) + 0);

/** A pan position brought into −100 … 100, whole tenths. */
export const clampPan = (pan: Pan): Pan => Math.max(-100, Math.min(100, Math.round(pan * 10) / 10)) + 0;

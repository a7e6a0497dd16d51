// The engine's measures of time and memory that both sides know.

/** Frames in a control period: targets, coefficients and flushes change only at its start. The kernel says the same, or does not start. */
export const PERIOD = 64;
/** Periods in a source chunk: recordings are fetched this much at a time. */
export const CHUNK_PERIODS = 4;
export const CHUNK = PERIOD * CHUNK_PERIODS;
/** Floats of a meter cell: peak L, peak R, Σ L², Σ R². */
export const METER_FLOATS = 4;

/** Where the kernel's own static data ends: its one initial page. */
export const HEAP = 65536;

/** Frames by which rings are longer than any delay, so that audio ahead, 0.17 s of it, can be rendered again. */
export const slackAt = (rate: number): number => 8192 * Math.max(1, Math.ceil(rate / 48000));
export const powerOfTwo = (frames: number): number => 2 ** Math.ceil(Math.log2(frames));

// Sizes and op codes of the kernel, as the host sees them; the same numbers as kernel/assembly/layout.ts.

/** Frames in a control period: targets, coefficients and flushes change only at its start. */
export const PERIOD = 64;
/** Periods in a source chunk: recordings are fetched this much at a time. */
export const CHUNK_PERIODS = 4;
export const CHUNK = PERIOD * CHUNK_PERIODS;
export const OP_WORDS = 12;
export const OP = {
  zero: 1,
  source: 2,
  set: 3,
  mix: 4,
  fader: 5,
  eq: 6,
  reverb: 7,
  comp: 8,
  delay: 9,
  limiter: 10,
  matrix: 11,
  hold: 12,
  mono: 13,
  outside: 14,
  blend: 15
} as const;

/** Where the kernel's own static data ends: its one initial page. */
export const HEAP = 65536;

/** Bytes of a stage, of the active list before the stages, and of the whole instance. */
export const EQ = { list: 128, glides: 25, stage: 176, fields: 11, slots: 24, bytes: 128 + 24 * 176 } as const;

/** Byte offsets in a reverb's header. */
export const REVERB = {
  preDelay: 0,
  lines: 4,
  diffusers: 36,
  masks: 68,
  gains: 80,
  damp: 112,
  lowCut: 116,
  wet: 120,
  side: 136,
  rings: 184,
  hush: 196,
  bytes: 208
} as const;

/** Floats of a meter cell: peak L, peak R, Σ L², Σ R². */
export const METER_FLOATS = 4;

/** Byte offsets of a compressor's instance; see kernel/assembly/comp.ts. */
export const COMP = {
  vectors: 25,
  wet: 208,
  dry: 240,
  deepest: 336,
  keys: 400,
  flags: 416,
  high: 432,
  low: 560,
  sources: 688,
  results: 704,
  bytes: 720
} as const;
export const COMP_FLAGS = { keyed: 1, filtered: 2, coloured: 4, averaging: 8, slow: 16, listened: 32 } as const;

/** Byte offsets of a limiter's header. */
export const LIMITER = {
  window: 0,
  left: 4,
  right: 8,
  needed: 12,
  gains: 16,
  table: 20,
  release: 24,
  ceiling: 32,
  drive: 40,
  deepest: 48,
  state: 56,
  bytes: 64,
  tableFloats: 256
} as const;

/** Byte offsets of one side of an outside device. */
export const OUTSIDE = {
  ring: 0,
  unit: 16,
  drive: 32,
  wet: 40,
  dry: 48,
  noise: 56,
  low: 64,
  state: 68,
  spring: 72,
  fade: 84,
  states: 96,
  bytes: 96 + 32 * 8
} as const;

/** Byte offsets of a delay's header. */
export const DELAY = {
  ring: 0,
  mask: 4,
  taps: 8,
  mode: 12,
  feedback: 16,
  high: 24,
  low: 28,
  wet: 32,
  dry: 40,
  states: 48,
  back: 64,
  door: 72,
  tap: 80,
  bytes: 208
} as const;

/** Frames by which rings are longer than any delay, so that audio ahead, 0.17 s of it, can be rendered again. */
export const slackAt = (rate: number): number => 8192 * Math.max(1, Math.ceil(rate / 48000));
export const powerOfTwo = (frames: number): number => 2 ** Math.ceil(Math.log2(frames));

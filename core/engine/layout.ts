// Sizes and op codes of the kernel, as the host sees them; the same numbers as kernel/assembly/layout.ts.

/** Frames in a control period: targets, coefficients and flushes change only at its start. */
export const PERIOD = 64;
/** Periods in a source chunk: recordings are fetched this much at a time. */
export const CHUNK_PERIODS = 4;
export const CHUNK = PERIOD * CHUNK_PERIODS;
export const OP_WORDS = 12;
export const OP = { zero: 1, source: 2, set: 3, mix: 4, meter: 5, eq: 6, reverb: 7 } as const;

/** Where the kernel's own static data ends: its one initial page. */
export const HEAP = 65536;

/** Bytes of a stage, of the active list before the stages, and of the whole instance with its scratch period. */
export const EQ = { list: 128, stage: 128, slots: 24, bytes: 128 + 24 * 128 + PERIOD * 16 } as const;

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
  bytes: 208
} as const;

/** Floats of a meter cell: peak L, peak R, Σ L², Σ R². */
export const METER_FLOATS = 4;

// Sizes and op codes of the desk; the host reads them from the module's exports.

/** Frames in a control period. All buffers hold one period of one channel, planar. */
export const PERIOD: i32 = 64;
export const PERIOD_BYTES: usize = 256;

export const OP_WORDS: i32 = 12;
/** Bytes of a part of a sum: left, right from; ramps of both. */
export const PART_BYTES: usize = 16;
export const OP_SUM: i32 = 1;
export const OP_SOURCE: i32 = 2;
export const OP_SET: i32 = 3;
export const OP_FADER: i32 = 4;
export const OP_MATRIX: i32 = 5;
export const OP_DELAY: i32 = 6;
export const OP_MONO: i32 = 7;
export const OP_BLEND: i32 = 8;
export const OP_METER: i32 = 9;
export const OP_SHAPE: i32 = 10;
export const OP_GATHER: i32 = 11;
export const OP_SCATTER: i32 = 12;
/** From here on: a processor's place among the module's functions. */
export const OP_PROCESSOR: i32 = 256;

/** Below this a feedback state counts as silence: far under 24 bits, far above where arithmetic turns slow. */
export const TINY: f32 = 1e-18;

/** +96 dBFS: what a recording holds beyond it is no sound, and would end in numbers that are none. */
export const MOST: f32 = 65536;

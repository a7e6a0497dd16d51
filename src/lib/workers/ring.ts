// The shared memory between mix worker, audio worklet and page: a ring of 128-frame slots, each with its position and meters.

/** Frames of a slot: one block of the browser's audio thread. */
export const SLOT = 128;
/** Room for 0.17 s at 192 kHz. */
export const SLOTS = 256;

/** Slots that a time takes at a rate, at least one, and never more than the ring can keep apart. */
export const slotsIn = (ms: number, rate: number): number => Math.max(1, Math.min(SLOTS - 16, Math.ceil((ms / 1000) * (rate / SLOT))));
/** Channels that meters have room for. */
export const METERED = 4096;
/** Inserts whose gain reduction there is room for. */
export const REDUCED = 2048;
/** Whose meters and reductions a slot holds, of all that there are: what there is no room for has none, rather than no number. */
export const shownIn = (ids: readonly string[], inserts: readonly string[]) => ({
  ids: ids.slice(0, METERED),
  inserts: inserts.slice(0, REDUCED)
});
const METER_FLOATS = 4;

/** Indices into `control`. */
export const CELL = {
  /** Counts locates; the worklet jumps to `start` when it changes. */
  epoch: 0,
  start: 1,
  /** Slots written and read since the beginning. */
  write: 2,
  read: 3,
  playing: 4,
  /** Slots that were not there in time. */
  underruns: 5,
  /** The slot from which the newest changes sound, and how often changes were taken over: for measuring. */
  turned: 6,
  turns: 7
} as const;

export type Ring = {
  readonly control: Int32Array;
  /** Timeline frame at which each slot begins. */
  readonly positions: Float64Array;
  /** Which order of channels and inserts each slot's meters follow. */
  readonly orders: Int32Array;
  /** Planar: left, then right. */
  readonly audio: Float32Array;
  readonly meters: Float32Array;
  /** Gain reduction of inserts, dB ≤ 0. */
  readonly reductions: Float32Array;
};

const BYTES = {
  control: 64,
  positions: SLOTS * 8,
  orders: SLOTS * 4,
  audio: SLOTS * SLOT * 2 * 4,
  meters: SLOTS * METERED * METER_FLOATS * 4,
  reductions: SLOTS * REDUCED * 4
};

export const ringBuffer = (): SharedArrayBuffer => new SharedArrayBuffer(Object.values(BYTES).reduce((sum, bytes) => sum + bytes, 0));

export function ringOver(buffer: SharedArrayBuffer): Ring {
  let at = 0;
  const take = (bytes: number) => (at += bytes) - bytes;
  return {
    control: new Int32Array(buffer, take(BYTES.control), BYTES.control / 4),
    positions: new Float64Array(buffer, take(BYTES.positions), SLOTS),
    orders: new Int32Array(buffer, take(BYTES.orders), SLOTS),
    audio: new Float32Array(buffer, take(BYTES.audio), SLOTS * SLOT * 2),
    meters: new Float32Array(buffer, take(BYTES.meters), SLOTS * METERED * METER_FLOATS),
    reductions: new Float32Array(buffer, take(BYTES.reductions), SLOTS * REDUCED)
  };
}

/** A slot's index in the ring from its running number, which may have wrapped. */
export const slotOf = (count: number): number => ((count % SLOTS) + SLOTS) % SLOTS;

export const slotMeters = (ring: Ring, slot: number): Float32Array =>
  ring.meters.subarray(slot * METERED * METER_FLOATS, (slot + 1) * METERED * METER_FLOATS);

export const slotReductions = (ring: Ring, slot: number): Float32Array => ring.reductions.subarray(slot * REDUCED, (slot + 1) * REDUCED);

// Gains that follow lanes: what each curve is at the end of a period, and the ramps of the gains that are their products. Hundreds of them,
// each period: they lie side by side. What bends or begins is left to the host.
import { PERIOD } from './layout';

/** A frame's share of a period: a power of two, so that it is the same as dividing. */
const EACH: f64 = 1.0 / PERIOD;

/** Bytes of a reader { now, next, end, from, by, start, ratio: f64; kind, bent: i32 }, and of a drive { factor: f64; ramp; four readers; own; last: f64 }. */
export const READER_BYTES: i32 = 64;
export const DRIVE_BYTES: i32 = 40;
/** How a reader goes on: not at all, by equal differences, by equal ratios, as the gain of a pin, or as the host says. */
export const READ_STILL: i32 = 0;
export const READ_EVEN: i32 = 1;
export const READ_RATIO: i32 = 2;
export const READ_ASKED: i32 = 3;
/** From here on: a pin that moves evenly, for the left side or the right, under each of the laws. */
export const READ_PIN: i32 = 4;

/**
 * Readers on to frame `to`; those that do not go on as they did are listed, and how many these are is answered. With `anew` amplitudes are
 * not counted on but worked out there.
 */
export function readOn(readers: usize, count: i32, to: f64, anew: bool, listed: usize): i32 {
  let waiting = 0;
  for (let i = 0; i < count; i++) {
    const at = readers + <usize>i * READER_BYTES;
    const kind = load<i32>(at, 56);
    // Most of them rest most of the time: they are what they were.
    if (kind == READ_STILL && to <= load<f64>(at, 16) && !load<i32>(at, 60)) continue;
    if (to > load<f64>(at, 16) || load<i32>(at, 60) || kind == READ_ASKED) {
      store<i32>(listed + ((<usize>waiting) << 2), i);
      waiting++;
      continue;
    }
    const was = load<f64>(at, 8);
    store<f64>(at, was);
    if (kind == READ_RATIO && !anew) {
      store<f64>(at, was * load<f64>(at, 48), 8);
      continue;
    }
    const value = load<f64>(at, 24) + load<f64>(at, 32) * (to - load<f64>(at, 40));
    store<f64>(at, kind == READ_EVEN ? value : kind == READ_RATIO ? amplitudeOf(value) : pinOf(value, kind - READ_PIN), 8);
  }
  return waiting;
}

/** Ramps of the drives, each its factor times its readers; those that bend within, or are the host's own, are listed, and how many. */
export function driveOn(drives: usize, count: i32, readers: usize, listed: usize): i32 {
  let waiting = 0;
  for (let i = 0; i < count; i++) {
    const at = drives + <usize>i * DRIVE_BYTES;
    let own = load<i32>(at, 28);
    let from = load<f64>(at);
    let to = from;
    for (let n: usize = 12; n < 28; n += 4) {
      const index = load<i32>(at + n);
      if (index < 0) break;
      const reader = readers + <usize>index * READER_BYTES;
      from *= load<f64>(reader);
      to *= load<f64>(reader, 8);
      own |= load<i32>(reader, 60);
    }
    if (own) {
      store<i32>(listed + ((<usize>waiting) << 2), i);
      waiting++;
      continue;
    }
    // A ramp that stands where it stood is there already.
    if (from == to && load<f64>(at, 32) == from) continue;
    store<f64>(at, from == to ? from : NaN, 32);
    const ramp: usize = load<u32>(at, 8);
    store<f32>(ramp, <f32>from);
    store<f32>(ramp, <f32>((to - from) * EACH), 4);
  }
  return waiting;
}

/** log2(10) / 20, and the natural logarithm of 2. */
const OCTAVES_PER_DB: f64 = 0.16609640474436813;
const LN2: f64 = 0.6931471805599453;

/** Amplitude of a level in dB within 10⁻¹² of itself, several times faster than by a power: 2ˣ by its series about a whole power. */
export function amplitudeOf(db: f64): f64 {
  const octaves = db * OCTAVES_PER_DB;
  const whole = Math.floor(octaves + 0.5);
  if (whole < -1000) return 0;
  const x = (octaves - whole) * LN2;
  const series =
    1 +
    x *
      (1 +
        x *
          (1.0 / 2 +
            x *
              (1.0 / 6 +
                x *
                  (1.0 / 24 +
                    x * (1.0 / 120 + x * (1.0 / 720 + x * (1.0 / 5040 + x * (1.0 / 40320 + x * (1.0 / 362880 + x / 3628800)))))))));
  return series * reinterpret<f64>((<i64>min<f64>(1000, whole) + 1023) << 52);
}

/** The gain of a side by a pin −100 … 100; `which` is twice the law (0, −3, −4.5, −6 dB), plus one for the right side. */
export function pinOf(place: f64, which: i32): f64 {
  const position = (which & 1 ? -place : place) * 0.01;
  const law = which >> 1;
  if (law == 0) return min<f64>(1, 1 - position);
  if (position >= 1) return 0;
  const linear = (1 - position) / 2;
  if (law == 3) return linear;
  const power = cosine(((position + 1) * NativeMath.PI) / 4);
  return law == 2 ? NativeMath.sqrt(power * linear) : power;
}

/** Cosine of 0 … π/2 within 10⁻¹⁰ of one, by its series: several times faster than the exact one. */
function cosine(x: f64): f64 {
  const y = x * x;
  return (
    1 - y * (1.0 / 2 - y * (1.0 / 24 - y * (1.0 / 720 - y * (1.0 / 40320 - y * (1.0 / 3628800 - y * (1.0 / 479001600 - y / 87178291200))))))
  );
}

// Gains that follow lanes: what each curve is at the end of a period, and the ramps of the gains that are their products. Hundreds of them,
// each period: they lie side by side. What bends or begins is left to the host.
import { PERIOD } from './layout';
import { fillSpan } from './mix';

/** A frame's share of a period: a power of two, so that it is the same as dividing. */
const EACH: f64 = 1.0 / PERIOD;

/**
 * Bytes of a reader { now, next: f64; kind, bend: i32; end, from, by, start, ratio: f64 }, and of a drive { factor: f64; ramp; where four
 * readers are; own; listed; gains: i32 }. Most of them rest most of the time, so only those are gone through that stand in
 * a list { count; indices: i32 }: who comes to rest is struck off it here, the host enters who moves again.
 */
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
 * Readers of a list on to frame `to`; those that do not go on as they did are noted in `asked`, and how many these are is answered. One
 * that bends has what it is in the middle, and goes on as it does after that. With `anew` amplitudes are not counted on but worked out
 * there.
 */
export function readOn(readers: usize, list: usize, to: f64, anew: bool, asked: usize): i32 {
  const count = load<i32>(list);
  let waiting = 0;
  let kept = 0;
  for (let n = 1; n <= count; n++) {
    const i = load<i32>(list + ((<usize>n) << 2));
    const at = readers + <usize>i * READER_BYTES;
    const kind = load<i32>(at, 16);
    const bend = load<i32>(at, 20);
    const waits = to >= load<f64>(at, 24) || bend < 0 || kind == READ_ASKED;
    if (!waits && kind == READ_STILL && bend == 0) continue;
    kept++;
    store<i32>(list + ((<usize>kept) << 2), i);
    if (waits) {
      store<i32>(asked + ((<usize>waiting) << 2), i);
      waiting++;
      continue;
    }
    const was = load<f64>(at, 8);
    store<f64>(at, was);
    store<i32>(at, 0, 20);
    if (kind == READ_RATIO && !anew) {
      store<f64>(at, was * load<f64>(at, 56), 8);
      continue;
    }
    if (kind == READ_STILL) continue;
    const value = load<f64>(at, 32) + load<f64>(at, 40) * (to - load<f64>(at, 48));
    store<f64>(at, kind == READ_EVEN ? value : kind == READ_RATIO ? amplitudeOf(value) : pinOf(value, kind - READ_PIN), 8);
  }
  store<i32>(list, kept);
  return waiting;
}

/** What a reader is at a frame, which is in the stretch that it reads. */
function valueOf(reader: usize, frame: f64): f64 {
  const kind = load<i32>(reader, 16);
  if (kind == READ_STILL) return load<f64>(reader, 8);
  const value = load<f64>(reader, 32) + load<f64>(reader, 40) * (frame - load<f64>(reader, 48));
  return kind == READ_EVEN ? value : kind == READ_RATIO ? amplitudeOf(value) : pinOf(value, kind - READ_PIN);
}

/**
 * Ramps of a list's drives over the period from `now` on, each its factor times its readers. Where one of these bends, the drive is given
 * 64 gains; those that bend twice, or are the host's own, are noted, and how many. What a reader at `r` is where it bends is an f64 at
 * `mids` + r / 8.
 */
export function driveOn(drives: usize, list: usize, now: f64, mids: usize, asked: usize): i32 {
  const count = load<i32>(list);
  let waiting = 0;
  let kept = 0;
  for (let n = 1; n <= count; n++) {
    const i = load<i32>(list + ((<usize>n) << 2));
    const at = drives + <usize>i * DRIVE_BYTES;
    // Factors come first, in one order; where there are fewer than four, the others are 1 for good.
    const one: usize = load<u32>(at, 12);
    const two: usize = load<u32>(at, 16);
    const three: usize = load<u32>(at, 20);
    const four: usize = load<u32>(at, 24);
    // At the beginning and at the end in one go.
    const factor = v128.load64_splat(at);
    let both = f64x2.mul(f64x2.mul(factor, v128.load(one)), v128.load(two));
    both = f64x2.mul(f64x2.mul(both, v128.load(three)), v128.load(four));
    const from = f64x2.extract_lane(both, 0);
    const to = f64x2.extract_lane(both, 1);
    const goes = load<u64>(one, 16) | load<u64>(two, 16) | load<u64>(three, 16) | load<u64>(four, 16);
    const own = load<i32>(at, 28);
    if (own || goes) {
      kept++;
      store<i32>(list + ((<usize>kept) << 2), i);
    } else store<i32>(at, 0, 32);
    const bend = own ? -1 : goes >> 32 ? joined(joined(joined(joined(0, one), two), three), four) : 0;
    if (bend < 0) {
      store<i32>(asked + ((<usize>waiting) << 2), i);
      waiting++;
      continue;
    }
    const ramp: usize = load<u32>(at, 8);
    if (bend > 0) {
      const frame = now + <f64>bend;
      const mid =
        load<f64>(at) * within(one, frame, mids) * within(two, frame, mids) * within(three, frame, mids) * within(four, frame, mids);
      const gains: usize = load<u32>(at, 36);
      fillSpan(gains, bend, 0, <f32>from, <f32>((mid - from) / <f64>bend));
      fillSpan(gains + ((<usize>bend) << 2), PERIOD - bend, 0, <f32>mid, <f32>((to - mid) / <f64>(PERIOD - bend)));
      store<u32>(ramp, <u32>gains);
      store<f32>(ramp, NaN, 4);
      continue;
    }
    store<f32>(ramp, <f32>from);
    store<f32>(ramp, <f32>((to - from) * EACH), 4);
  }
  store<i32>(list, kept);
  return waiting;
}

/** Where, in frames from the period's beginning, what bends in a product does, with one more reader; −1: not in one place, or not known. */
function joined(bend: i32, reader: usize): i32 {
  const own = load<i32>(reader, 20);
  if (own == 0) return load<i32>(reader, 16) == READ_ASKED ? -1 : bend;
  return bend == 0 || bend == own ? own : -1;
}

/** What a reader is at the frame at which it bends, or another does. */
function within(reader: usize, frame: f64, mids: usize): f64 {
  return load<i32>(reader, 20) ? load<f64>(mids + (reader >> 3)) : valueOf(reader, frame);
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
  if (which < 2) return min<f64>(1, 1 - position);
  if (position >= 1) return 0;
  if (which < 4) return cosine((position + 1) * EIGHTH);
  const linear = (1 - position) * 0.5;
  return which < 6 ? NativeMath.sqrt(cosine((position + 1) * EIGHTH) * linear) : linear;
}
const EIGHTH: f64 = NativeMath.PI / 4;

/** Cosine of 0 … π/2 within 10⁻¹⁰ of one, by its series, added up in pairs: several times faster than the exact one. */
function cosine(x: f64): f64 {
  const y = x * x;
  const y2 = y * y;
  const low = 1 - y * (1.0 / 2) + (1.0 / 24 - y * (1.0 / 720)) * y2;
  const high = 1.0 / 40320 - y * (1.0 / 3628800) + (1.0 / 479001600 - y * (1.0 / 87178291200)) * y2;
  return low + high * (y2 * y2);
}

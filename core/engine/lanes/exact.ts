// Functions of which a lane needs one for each of its values: of sums, products and table look-ups alone, so that they are the same bits
// in every engine version, and several times faster than a call into the kernel.

/** 2 to the whole powers −64 … 64. */
const POWERS = Float64Array.from({ length: 129 }, (_, i) => {
  let power = 1;
  for (let n = 0; n < Math.abs(i - 64); n++) power *= i < 64 ? 0.5 : 2;
  return power;
});
const LN2 = 0.6931471805599453;
/** log2(10) / 20. */
const OCTAVES_PER_DB = 0.16609640474436813;

/** Amplitude of a level in dB, −300 … 300, within 10⁻¹² of itself: 2ˣ by its series about the nearest whole power. `amplitudeOf(-6)` */
export function amplitudeOf(db: number): number {
  const octaves = db * OCTAVES_PER_DB;
  const whole = Math.floor(octaves + 0.5);
  const x = (octaves - whole) * LN2;
  const series =
    1 +
    x *
      (1 +
        x *
          (1 / 2 +
            x *
              (1 / 6 + x * (1 / 24 + x * (1 / 120 + x * (1 / 720 + x * (1 / 5040 + x * (1 / 40320 + x * (1 / 362880 + x / 3628800)))))))));
  return POWERS[whole + 64] * series;
}

/** Cosine of 0 … π/2, within 10⁻¹². */
function cosine(x: number): number {
  const y = x * x;
  return (
    1 -
    y *
      (1 / 2 -
        y *
          (1 / 24 - y * (1 / 720 - y * (1 / 40320 - y * (1 / 3628800 - y * (1 / 479001600 - y * (1 / 87178291200 - y / 20922789888000)))))))
  );
}

/** Gain of the left side for a pin −1 … 1 under a law of `centre` dB at the middle: what the kernel's `panLeft` is. */
export function pinGain(position: number, centre: number): number {
  if (centre === 0) return Math.min(1, 1 - position);
  if (position >= 1) return 0;
  const linear = (1 - position) / 2;
  if (centre === -6) return linear;
  const power = cosine(((position + 1) * Math.PI) / 4);
  return centre === -4.5 ? Math.sqrt(power * linear) : power;
}

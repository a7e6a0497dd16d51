// True peak after ITU-R BS.1770-5 annex 2: the highest amplitude between samples, by oversampling with a windowed sinc.

/** Times oversampled: 4 at 48 kHz, as the annex asks; at higher rates fewer would do, and 4 is used all the same. */
const TIMES = 4;
/** Samples on each side that a value between two samples is made of. */
const HALF = 12;
const TAPS = 2 * HALF;
const BETA = 7;

/** Modified Bessel function of the first kind, order 0, as its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > 1e-12 * sum; k++) sum += term *= (x / (2 * k)) ** 2;
  return sum;
}

/** Weights of the samples around each place between two of them; a quarter, a half, three quarters. */
const PHASES: readonly Float64Array[] = Array.from({ length: TIMES - 1 }, (_, i) => {
  const place = (i + 1) / TIMES;
  const weights = Float64Array.from({ length: TAPS }, (_unused, n) => {
    const x = n - (HALF - 1) - place;
    const window = bessel(BETA * Math.sqrt(Math.max(0, 1 - (x / HALF) ** 2))) / bessel(BETA);
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * window;
  });
  const sum = weights.reduce((total, weight) => total + weight, 0);
  return weights.map((weight) => weight / sum);
});
/** No value between samples can be more than this times the highest sample around it. */
const MOST = Math.max(...PHASES.map((weights) => weights.reduce((sum, weight) => sum + Math.abs(weight), 0)));
const PIECE = 64;

export type PeakMeter = {
  /** The next frames, all channels of equal length. */
  readonly push: (channels: readonly Float32Array[]) => void;
  /** Amplitudes: the highest sample, and the highest between samples. */
  readonly finish: () => { readonly peak: number; readonly truePeak: number };
};

/** `const meter = peakMeter(); meter.push([left, right]); dbOf(meter.finish().truePeak)` is dBTP. */
export function peakMeter(): PeakMeter {
  /** What came before, by channel: a piece is looked at when all that surrounds it is there. */
  const before: Float32Array[] = [];
  let [peak, between] = [0, 0];
  const look = (samples: Float32Array) => {
    for (let at = 0; at + TAPS <= samples.length; at += PIECE) {
      const count = Math.min(PIECE, samples.length - TAPS + 1 - at);
      let high = 0;
      for (let i = at; i < at + count + TAPS - 1; i++) high = Math.max(high, Math.abs(samples[i]));
      // Most of a programme is far from its highest peak: only what could pass it is oversampled.
      if (high * MOST <= between) continue;
      for (const weights of PHASES)
        for (let i = at; i < at + count; i++) {
          let sum = 0;
          for (let n = 0; n < TAPS; n++) sum += weights[n] * samples[i + n];
          between = Math.max(between, Math.abs(sum));
        }
    }
  };
  const push: PeakMeter['push'] = (channels) =>
    channels.forEach((samples, side) => {
      for (const x of samples) peak = Math.max(peak, Math.abs(x));
      const own = before[side] ?? new Float32Array(TAPS - 1);
      const joined = new Float32Array(own.length + samples.length);
      joined.set(own);
      joined.set(samples, own.length);
      look(joined);
      before[side] = joined.slice(Math.max(0, joined.length - TAPS + 1));
    });
  return {
    push,
    finish: () => {
      push(before.map(() => new Float32Array(TAPS)));
      return { peak, truePeak: Math.max(peak, between) };
    }
  };
}

// Integrated loudness after ITU-R BS.1770-5: K-weighting, blocks of 400 ms every 100 ms, gates at −70 LUFS and −10 LU.

/** LUFS of one audio channel, or of a pair; null where every block is under the absolute gate. */
export type Loudness = number | null;

export type LoudnessMeter = {
  /** The next frames, all channels of equal length. */
  readonly push: (channels: readonly Float32Array[]) => void;
  /** Of each channel alone, then, of exactly two, of the pair. */
  readonly finish: () => Loudness[];
  /** Mean energy of each 100 ms so far, by channel. */
  readonly energies: () => readonly (readonly number[])[];
};

const ABSOLUTE_GATE = -70;
const RELATIVE_GATE = -10;
/** Makes 0 dBFS at 997 Hz in one channel read −3.01. */
const OFFSET = -0.691;
const STEPS = 4;

type Biquad = readonly [b0: number, b1: number, b2: number, a1: number, a2: number];

/** The two filters of the K-weighting at any rate, from the analogue prototypes that the standard's 48 kHz figures come from. */
export function kWeighting(rate: number): readonly [Biquad, Biquad] {
  const shelf = (): Biquad => {
    const k = Math.tan((Math.PI * 1681.974450955533) / rate);
    const q = 0.7071752369554196;
    const high = 10 ** (3.999843853973347 / 20);
    const middle = high ** 0.4996667741545416;
    const a0 = 1 + k / q + k * k;
    return [
      (high + (middle * k) / q + k * k) / a0,
      (2 * (k * k - high)) / a0,
      (high - (middle * k) / q + k * k) / a0,
      (2 * (k * k - 1)) / a0,
      (1 - k / q + k * k) / a0
    ];
  };
  const highPass = (): Biquad => {
    const k = Math.tan((Math.PI * 38.13547087602444) / rate);
    const q = 0.5003270373238773;
    const a0 = 1 + k / q + k * k;
    return [1, -2, 1, (2 * (k * k - 1)) / a0, (1 - k / q + k * k) / a0];
  };
  return [shelf(), highPass()];
}

export function loudnessMeter(rate: number): LoudnessMeter {
  const [shelf, highPass] = kWeighting(rate);
  const hop = Math.round(rate / 10);
  const states: Float64Array[] = [];
  /** Energy of each 100 ms, by channel. */
  const hops: number[][] = [];
  const sums: number[] = [];
  let filled = 0;

  const filtered = (samples: Float32Array, from: number, to: number, s: Float64Array): number => {
    const [b0, b1, b2, a1, a2] = shelf;
    const [, , , c1, c2] = highPass;
    let energy = 0;
    for (let i = from; i < to; i++) {
      const x = samples[i];
      const y = b0 * x + s[0];
      s[0] = b1 * x - a1 * y + s[1];
      s[1] = b2 * x - a2 * y;
      const z = y + s[2];
      s[2] = -2 * y - c1 * z + s[3];
      s[3] = y - c2 * z;
      energy += z * z;
    }
    return energy;
  };

  return {
    energies: () => hops,
    push: (channels) => {
      const { length } = channels[0];
      for (let at = 0; at < length;) {
        const count = Math.min(length - at, hop - filled);
        channels.forEach((samples, side) => {
          states[side] ??= new Float64Array(4);
          hops[side] ??= [];
          sums[side] = (sums[side] ?? 0) + filtered(samples, at, at + count, states[side]);
        });
        at += count;
        filled += count;
        if (filled < hop) continue;
        sums.forEach((energy, side) => hops[side].push(energy / hop));
        sums.fill(0);
        filled = 0;
      }
    },
    finish: () => {
      // What is shorter than one block is measured as it is.
      if (hops.every((list) => list.length < STEPS) && filled > 0)
        sums.forEach((energy, side) => {
          const whole = [...hops[side].map((value) => value * hop), energy].reduce((sum, value) => sum + value, 0);
          hops[side] = Array<number>(STEPS).fill(whole / (hops[side].length * hop + filled));
        });
      const alone = hops.map((list) => integrated([list]));
      return hops.length === 2 ? [...alone, integrated(hops)] : alone;
    }
  };
}

export const lufs = (energy: number): number => OFFSET + 10 * Math.log10(energy);
export const mean = (list: readonly number[]) => list.reduce((sum, value) => sum + value, 0) / list.length;

/** Two gates over blocks of four hops each. */
function integrated(hops: readonly (readonly number[])[]): Loudness {
  const blocks: number[] = [];
  for (let i = 0; i + STEPS <= hops[0].length; i++) blocks.push(hops.reduce((sum, list) => sum + mean(list.slice(i, i + STEPS)), 0));
  const loud = blocks.filter((energy) => lufs(energy) > ABSOLUTE_GATE);
  if (loud.length === 0) return null;
  const gate = lufs(mean(loud)) + RELATIVE_GATE;
  return lufs(mean(loud.filter((energy) => lufs(energy) > gate)));
}

// Peaks pyramid: extremes and RMS of a recording at several widths, for drawing any length in any number of pixels.

/** Frames of the finest bin; each next level is four times as wide. */
export const PEAK_BIN = 256;
export const PEAK_FACTOR = 4;
/** Numbers per bin: minimum, maximum, RMS, each × 32767. */
export const PEAK_FIELDS = 3;

export type Peaks = { readonly frames: number; readonly levels: readonly Int16Array[] };

export type PeakBuilder = {
  /** The next frames, all channels of equal length. */
  readonly push: (channels: readonly Float32Array[]) => void;
  readonly finish: () => Peaks & { readonly peak: number; readonly firstBad: number };
};

/** Builds a pyramid from a stream. `firstBad` is the frame of the first NaN or infinite sample, or −1. */
export function peakBuilder(): PeakBuilder {
  const bins: number[] = [];
  let low = Infinity;
  let high = -Infinity;
  let power = 0;
  let count = 0;
  let frames = 0;
  let peak = 0;
  let firstBad = -1;
  let sides = 1;
  const close = () => {
    if (count === 0) return;
    bins.push(low, high, Math.sqrt(power / (count * sides)));
    peak = Math.max(peak, -low, high);
    low = Infinity;
    high = -Infinity;
    power = count = 0;
  };
  return {
    push: (channels) => {
      sides = channels.length;
      for (let i = 0; i < channels[0].length; i++) {
        for (let side = 0; side < sides; side++) {
          const x = channels[side][i];
          if (x < low) low = x;
          if (x > high) high = x;
          power += x * x;
          if (firstBad < 0 && !(x - x === 0)) firstBad = frames + i;
        }
        if (++count === PEAK_BIN) close();
      }
      frames += channels[0].length;
    },
    finish: () => {
      close();
      return { frames, peak, firstBad, levels: pyramid(Float32Array.from(bins)) };
    }
  };
}

function pyramid(finest: Float32Array): Int16Array[] {
  const levels = [finest];
  while (levels.at(-1)!.length > PEAK_FIELDS * 64) levels.push(coarser(levels.at(-1)!));
  return levels.map((level) => Int16Array.from(level, (x) => Math.max(-32767, Math.min(32767, Math.round(x * 32767)))));
}

function coarser(level: Float32Array): Float32Array {
  const bins = Math.ceil(level.length / PEAK_FIELDS / PEAK_FACTOR);
  const out = new Float32Array(bins * PEAK_FIELDS);
  for (let bin = 0; bin < bins; bin++) {
    let [low, high, power, count] = [Infinity, -Infinity, 0, 0];
    const end = Math.min(level.length, (bin + 1) * PEAK_FACTOR * PEAK_FIELDS);
    for (let at = bin * PEAK_FACTOR * PEAK_FIELDS; at < end; at += PEAK_FIELDS) {
      low = Math.min(low, level[at]);
      high = Math.max(high, level[at + 1]);
      power += level[at + 2] ** 2;
      count++;
    }
    out.set([low, high, Math.sqrt(power / count)], bin * PEAK_FIELDS);
  }
  return out;
}

/** One file: version, frames, number of levels and their lengths as 64-bit floats, then the levels as 16-bit integers. */
export function encodePeaks({ frames, levels }: Peaks): Uint8Array {
  const head = new Float64Array([1, frames, levels.length, ...levels.map((level) => level.length)]);
  const out = new Uint8Array(head.byteLength + levels.reduce((sum, level) => sum + level.byteLength, 0));
  out.set(new Uint8Array(head.buffer));
  let at = head.byteLength;
  for (const level of levels) {
    out.set(new Uint8Array(level.buffer, level.byteOffset, level.byteLength), at);
    at += level.byteLength;
  }
  return out;
}

export function decodePeaks(bytes: Uint8Array): Peaks {
  const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  const [, frames, count] = new Float64Array(buffer, 0, 3);
  const lengths = new Float64Array(buffer, 24, count);
  let at = 24 + count * 8;
  const levels = [...lengths].map((length) => {
    const level = new Int16Array(buffer, at, length);
    at += length * 2;
    return level;
  });
  return { frames, levels };
}

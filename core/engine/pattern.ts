// Pulses of key tracks and clicks: where they fall on the timeline, and what they sound like.
import type { Pattern, Settings } from '../session/entities.ts';
import type { Frames } from '../units.ts';
import type { Kernel } from '../kernel/kernel.ts';

/** A pulse's tone is a triangle of this frequency, Hz: plain arithmetic, so the same bits everywhere. */
const TONE = 1000;
/** A pulse is over when it has fallen by so much, dB. */
const FALLEN = 96;

export type Pulse = { readonly at: Frames; readonly db: number };
type Tempo = Pick<Settings, 'rate' | 'bpm' | 'beatsPerBar'>;

/** Frames from a pulse's beginning to where nothing of it is left. */
export const pulseFrames = ({ length, decay }: Pattern, rate: number): Frames =>
  Math.ceil(((length + (decay * FALLEN) / 60) / 1000) * rate);

/** Pulses that begin in [from, to) of the timeline, with their levels in dBFS. */
export function pulsesBetween(pattern: Pattern, { rate, bpm, beatsPerBar }: Tempo, from: Frames, to: Frames): Pulse[] {
  const quarter = (60 / bpm) * rate;
  const list: Pulse[] = [];
  if (pattern.of === 'pulse') {
    const step = pattern.every * quarter;
    for (let k = Math.max(0, Math.ceil((from - 0.5) / step)); Math.round(k * step) < to; k++) {
      const beat = (k * pattern.every) % beatsPerBar;
      if (Math.round(k * step) >= from) list.push({ at: Math.round(k * step), db: pattern.levelDb + (beat === 0 ? pattern.accentDb : 0) });
    }
    return list;
  }
  const times = pattern.at;
  const frameAt = (i: number) => (pattern.of === 'notes' ? Math.round(times[i] * quarter) : times[i]);
  // The times are sorted: the first at or after `from` by halving.
  let low = 0;
  for (let high = times.length; low < high;) {
    const middle = (low + high) >> 1;
    if (frameAt(middle) < from) low = middle + 1;
    else high = middle;
  }
  for (let i = low; i < times.length && frameAt(i) < to; i++) {
    const velocity = pattern.of === 'notes' ? pattern.velocity[i] : 1;
    // A note's velocity as a level: 40 dB from softest to loudest.
    if (velocity > 0) list.push({ at: frameAt(i), db: pattern.levelDb - 40 * (1 - velocity) });
  }
  return list;
}

/** Adds to `into`, which begins at timeline frame `from`, what of the pattern's pulses falls there. */
export function addPulses(into: Float32Array, from: Frames, pattern: Pattern, tempo: Tempo, kernel: Pick<Kernel, 'gainOf'>): void {
  const { rate } = tempo;
  const long = pulseFrames(pattern, rate);
  const hold = Math.round((pattern.length / 1000) * rate);
  const fall = pattern.decay > 0 ? 60_000 / (pattern.decay * rate) : Infinity;
  for (const { at, db } of pulsesBetween(pattern, tempo, from - long, from + into.length)) {
    const begin = Math.max(0, at - from);
    const end = Math.min(into.length, at + long - from);
    for (let i = begin; i < end; i++) {
      const n = from + i - at;
      const phase = (n * TONE) / rate + 0.25;
      const triangle = 1 - 4 * Math.abs(phase - Math.floor(phase) - 0.5);
      into[i] += triangle * kernel.gainOf(n < hold ? Math.min(0, db) : Math.min(0, db) - fall * (n - hold));
    }
  }
}

// The trims that bring tracks to a common peak or loudness.
import type { Channel, Session } from '../session/entities.ts';
import { recordedLevel } from '../session/recorded.ts';
import { clampDb } from '../units.ts';

export type TrimTo = { readonly by: number } | { readonly peak: number } | { readonly loudness: number };

/** The trim of each track, dB, 0.1 dB steps; tracks that cannot be measured are left out and named. */
export function trimsFor(session: Session, channels: readonly Channel[], to: TrimTo) {
  const levels: { readonly id: string; readonly level: number }[] = [];
  const unmeasured: string[] = [];
  for (const { id, name, trimDb } of channels) {
    const { peakDb, lufs } = recordedLevel(session, id);
    const base = trimDb === -Infinity ? 0 : trimDb;
    const wanted = 'by' in to ? base + to.by : 'peak' in to ? to.peak - peakDb : lufs === null ? NaN : to.loudness - lufs;
    if (Number.isFinite(wanted)) levels.push({ id, level: clampDb(Math.round(wanted * 10) / 10) });
    else unmeasured.push(name);
  }
  return { levels, unmeasured };
}

// The mix's fades: a gain for every frame of the timeline, at the mix bus's fader. The signal comes late there by its latency, and so do
// the gains: they are read at the position whose sound is passing.
import { settingsOf, type Session } from '../session/entities.ts';
import { endOf } from '../session/select.ts';
import type { Curve } from '../session/tables/settings.ts';
import type { Frames } from '../units.ts';
import type { Kernel } from '../kernel/kernel.ts';

export type MixFade = {
  readonly fadeIn: Frames;
  readonly inCurve: Curve;
  readonly fadeOut: Frames;
  readonly outCurve: Curve;
  /** Where the fade-out ends: the last frame of any clip plus one. */
  readonly end: Frames;
};

/** The fades of a session, or null where it has none. */
export function fadeOf(session: Session): MixFade | null {
  const { fadeIn, fadeInCurve: inCurve, fadeOut, fadeOutCurve: outCurve } = settingsOf(session);
  return fadeIn === 0 && fadeOut === 0 ? null : { fadeIn, inCurve, fadeOut, outCurve, end: endOf(session) };
}

/** Amplitude at a place of a fade-in, 0 … 1 of its length. A power fade is a quarter of a sine, by the kernel's own. */
export function rising(curve: Curve, place: number, kernel: Kernel): number {
  if (place >= 1) return 1;
  if (curve === 'power') return kernel.panLeft(1 - 2 * place, -3);
  if (curve === 'slow') return place * place;
  return curve === 'fast' ? place * (2 - place) : place;
}

/** Writes the gains of the timeline frames from `from` on. */
export function fillFade({ fadeIn, inCurve, fadeOut, outCurve, end }: MixFade, from: Frames, into: Float32Array, kernel: Kernel): void {
  into.fill(1);
  const before = Math.min(into.length, fadeIn - from);
  for (let i = 0; i < before; i++) into[i] = from + i < 0 ? 0 : rising(inCurve, (from + i) / fadeIn, kernel);
  if (fadeOut === 0) return;
  for (let i = Math.max(0, end - fadeOut - from); i < into.length; i++)
    into[i] *= rising(outCurve, Math.max(0, end - from - i) / fadeOut, kernel);
}

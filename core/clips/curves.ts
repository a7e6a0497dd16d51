// How loud a clip is at a frame, for pictures and estimates; the engine works it out with the kernel's own sine.
import type { Clip, Curve } from '../session/entities.ts';
import { clipEnd, crosses, inStep } from '../session/joints.ts';
import { gainOf, type Frames } from '../units.ts';

/** Amplitude at a place of a fade-in, 0 … 1 of its length. `risingAt('power', 0.5)` is √½. */
export function risingAt(curve: Curve, place: number): number {
  if (place >= 1) return 1;
  if (curve === 'power') return Math.sin((Math.PI / 2) * place);
  if (curve === 'slow') return place * place;
  return curve === 'fast' ? place * (2 - place) : place;
}

/** Amplitude that a clip's fades leave at a timeline frame of it; `next` is the clip that it may cross into. */
export function fadeAt(clip: Clip, frame: Frames, next?: Clip): number {
  const { start, fadeIn, fadeInCurve, fadeOut, fadeOutCurve } = clip;
  const into = frame - start < fadeIn ? risingAt(fadeInCurve, (frame - start) / fadeIn) : 1;
  const left = clipEnd(clip) - frame;
  if (left >= fadeOut) return into;
  if (!next || next.muted || !crosses(clip, next)) return into * risingAt(fadeOutCurve, left / fadeOut);
  const other = risingAt(next.fadeInCurve, 1 - left / fadeOut);
  return into * (inStep(clip, next) ? 1 - other : Math.sqrt(Math.max(0, 1 - other * other)));
}

/** The same with its gain; 0 where it is muted. */
export const amplitudeAt = (clip: Clip, frame: Frames, next?: Clip): number =>
  clip.muted ? 0 : gainOf(clip.gainDb) * fadeAt(clip, frame, next);

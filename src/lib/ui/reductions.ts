// Gain reduction on screen: marks and bars that fill with it, and its figure in words.
import { dbText } from './format';

/** Full at this much, dB. */
export const FULL_DB = 12;
/** Steps of a filling: a style is only touched when its step changes. */
const FINE = 48;
const COARSE = 6;
/** Looks between looks at coarse marks: with one on every row, touching styles each time would cost more than the sound. */
const COARSE_EVERY = 2;

type Mark = { id: string; step: number; readonly steps: number };
const marks = new Map<HTMLElement, Mark>();
let frames = 0;

const kept = (steps: number) => (element: HTMLElement, id: string) => {
  const mark: Mark = { id, step: 0, steps };
  marks.set(element, mark);
  return { update: (next: string) => (mark.id = next), destroy: () => marks.delete(element) };
};
/** Keeps `--reduced` of an element, 0 … 1, at the gain reduction of an insert; text within `.num` tells it in dB. */
export const reduction = kept(FINE);
/** The same for a small mark, in few steps. */
export const reductionMark = kept(COARSE);

export function drawReductions(transport: { readonly reduction: (insertId: string) => number }): void {
  const all = frames++ % COARSE_EVERY === 0;
  for (const [element, mark] of marks) {
    if (mark.steps === COARSE && !all) continue;
    const db = transport.reduction(mark.id);
    const step = Math.round((-db / FULL_DB) * mark.steps);
    if (step === mark.step) continue;
    mark.step = step;
    element.style.setProperty('--reduced', Math.min(1, step / mark.steps).toFixed(2));
    const figure = element.querySelector('.num');
    if (figure) figure.textContent = dbText(step === 0 ? 0 : db);
  }
}

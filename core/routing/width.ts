// How many sides a channel's signal has on its way: those of its input, and two behind the first insert that makes two of one.
import { processors } from '../processors/index.ts';
import type { Channel, Insert, Session } from '../session/entities.ts';
import { insertsOf } from '../session/select.ts';

type Width = 1 | 2;

/**
 * Sides behind some inserts. A bypassed one widens too, so that to bypass it changes nothing else.
 * `widthBehind(1, [{ type: 'delay' }])` is 2.
 */
export const widthBehind = (width: Width, inserts: readonly Pick<Insert, 'type'>[]): Width =>
  inserts.some(({ type }) => processors[type].stereo) ? 2 : width;

/** Sides of what leaves a channel's inserts. */
export const widthOf = (session: Session, { id, width }: Channel): Width => (width === 2 ? 2 : widthBehind(1, insertsOf(session, id)));

/** What becomes of a channel's place once it has one side: where two pins stood it stands in their middle. */
export const narrowed = ({ pan, panRight }: Channel) => ({
  pan: panRight === null ? pan : Math.round((pan + panRight) / 2) + 0,
  panRight: null,
  spread: 100
});

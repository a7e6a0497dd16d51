// Where the sides of what leaves a channel are placed: by one balance pin, or by two pins, left and right apart; and how wide it is
// (mid/side).
import type { Channel, PanLaw } from '../session/entities.ts';

type Placed = Pick<Channel, 'width' | 'pan' | 'panRight' | 'spread'>;
/** { LL, RL, LR, RR }; "RL" is what of the right goes to the left. */
type Cells = readonly [number, number, number, number];

/** Whether something of one side goes to the other, where `sides` leave the inserts. */
export const isCrossed = ({ panRight, spread }: Placed, sides: 1 | 2): boolean => sides === 2 && (panRight !== null || spread !== 100);

/**
 * The law of a single pin, dB at the middle: the session's for a mono channel, also where an insert made two sides of it, so that
 * what comes through dry stays as loud; else a balance.
 */
export const lawOf = ({ width }: Pick<Channel, 'width'>, law: PanLaw): PanLaw => (width === 1 ? law : 0);

/**
 * The matrix of a crossed channel: first its width, side over mid at `spread` per cent, then its pins. Two pins are panned by the
 * session's law, each as a mono signal. `leftGain` says the left side's gain at −1 … 1 under a law.
 */
export function placement(
  { width, pan, panRight, spread }: Placed,
  law: PanLaw,
  leftGain: (position: number, centre: PanLaw) => number
): Cells {
  const same = (1 + spread / 100) / 2;
  const other = (1 - spread / 100) / 2;
  const [ll, rl, lr, rr] =
    panRight === null
      ? [leftGain(pan / 100, lawOf({ width }, law)), 0, 0, leftGain(-pan / 100, lawOf({ width }, law))]
      : [leftGain(pan / 100, law), leftGain(panRight / 100, law), leftGain(-pan / 100, law), leftGain(-panRight / 100, law)];
  return [ll * same + rl * other, ll * other + rl * same, lr * same + rr * other, lr * other + rr * same];
}

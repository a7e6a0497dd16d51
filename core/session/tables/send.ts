// Sends: one crosspoint each, at most one per source and target.
import * as is from '../column.ts';
import { lastLevel } from './lastLevel.ts';

/** `input` before the inserts, `pre` after them and before the fader, `post` after fader and pan. */
export const TAPS = ['input', 'pre', 'post'] as const;
export type Tap = (typeof TAPS)[number];

export const send = is.table(
  {
    sourceId: is.id({ reference: { to: 'channel', removed: 'goes', copied: 'with' } }),
    targetId: is.id({ reference: { to: 'channel', removed: 'goes', copied: 'within' } }),
    levelDb: is.level({ unit: 'dB', default: -Infinity, sound: 'value', routing: 'silence' }),
    lastDb: lastLevel(),
    tap: is.oneOf(TAPS, { default: 'post', sound: 'shape', routing: 'always' }),
    on: is.flag({ default: true, sound: 'value', routing: 'always' }),
    /** (L+R)/2 to both sides; of a mono track, what it is before its pan. */
    mono: is.flag({ default: false, since: 2, sound: 'shape' }),
    /** Its own pan, −100 … 100, or null: it follows the channel's. */
    pan: is.orNull(is.between(-100, 100), { since: 2, sound: 'own' })
  },
  { key: ['sourceId', 'targetId'], shown: ['routing'] }
);
export type Send = is.RowOf<typeof send>;

// Lanes: one value of one channel, written over time. Its points are rows of their own.
import * as is from '../column.ts';

/** What a lane can be of; `faderTrim` and `sendTrim` add dB to the level beneath. */
export const LANE_OF = [
  ...(['fader', 'faderTrim', 'pan', 'panRight', 'spread', 'mute'] as const),
  ...(['sendLevel', 'sendTrim', 'sendOn', 'param', 'bypass'] as const)
] as const;
export type LaneOf = (typeof LANE_OF)[number];

export const lane = is.table(
  {
    id: is.id(),
    channelId: is.id({ sound: 'lanes', structural: true, reference: { to: 'channel', removed: 'goes', copied: 'with' } }),
    of: is.oneOf(LANE_OF, { sound: 'lanes', structural: true }),
    /** Of a send: the channel that it goes to. */
    targetId: is.orNull(is.id(), { sound: 'lanes', structural: true, reference: { to: 'channel', removed: 'goes', copied: 'within' } }),
    /** Of an insert: which; and the name of the parameter. */
    insertId: is.orNull(is.id(), { sound: 'lanes', structural: true, reference: { to: 'insert', removed: 'goes', copied: 'within' } }),
    param: is.orNull(is.text(80), { sound: 'lanes', structural: true }),
    /** Whether it plays, or is off. */
    plays: is.flag({ default: true, sound: 'lanes', routing: 'always' })
  },
  { since: 8, notInTemplates: true, always: ['lanes'], shown: ['routing'] }
);
export type Lane = is.RowOf<typeof lane>;

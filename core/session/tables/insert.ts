// Inserts: a processor on a channel, in its place in the row of them.
import * as is from '../column.ts';
import { TAPS } from './send.ts';

type Params = Readonly<Record<string, number>>;

export const insert = is.table(
  {
    id: is.id(),
    channelId: is.id({ structural: true, routing: 'always', reference: { to: 'channel', removed: 'goes', copied: 'with' } }),
    position: is.finite({ sound: 'shape' }),
    /** The name of a registered processor; the published schema lists them. */
    type: is.textBy({ type: 'string' }, { sound: 'shape', structural: true, grows: true }),
    bypass: is.flag({ default: false, sound: 'open', routing: 'always' }),
    /** What a processor with a key input listens to: a channel at a tap; null is its own input. One that was removed is silence. */
    keyId: is.orNull(is.id(), {
      since: 2,
      sound: 'shape',
      routing: 'always',
      structural: true,
      reference: { to: 'channel', removed: 'stays', copied: 'within' }
    }),
    keyTap: is.oneOf(TAPS, { default: 'post', since: 2, sound: 'shape', routing: 'always', structural: true }),
    /** Values in natural units by parameter name; what is missing has its default. */
    params: is.json<Params, { default: Params; sound: 'value'; structural: true }>(
      { type: 'object', additionalProperties: is.schemas.finite },
      { default: {}, sound: 'value', structural: true }
    )
  },
  { shown: ['routing'] }
);
export type Insert = is.RowOf<typeof insert>;

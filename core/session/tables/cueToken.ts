// Tokens that open a cue's own page to its player. The id is the token in the page's address: a key to this session alone.
import * as is from '../column.ts';

export const cueToken = is.table(
  {
    id: is.textBy({ type: 'string', pattern: '^[\\w-]{20,80}$' }),
    channelId: is.id({ structural: true, reference: { to: 'channel', removed: 'goes' } })
  },
  { since: 4, notInTemplates: true, unique: ['id'] }
);
export type CueToken = is.RowOf<typeof cueToken>;

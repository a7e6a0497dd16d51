// What a VCA holds: tracks, buses, returns, the mix bus and other VCAs; any number of VCAs may hold the same.
import * as is from '../column.ts';

export const vcaMember = is.table(
  {
    vcaId: is.id({ structural: true, sound: 'open', reference: { to: 'channel', removed: 'goes', copied: 'within' } }),
    channelId: is.id({ structural: true, sound: 'open', reference: { to: 'channel', removed: 'goes', copied: 'with' } })
  },
  { key: ['vcaId', 'channelId'], since: 5, shown: ['routing', 'groups'] }
);
export type VcaMember = is.RowOf<typeof vcaMember>;

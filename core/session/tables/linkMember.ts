// Who is in a link group.
import * as is from '../column.ts';

export const linkMember = is.table(
  {
    linkId: is.id({ structural: true, reference: { to: 'link', removed: 'goes', counted: true } }),
    channelId: is.id({ structural: true, reference: { to: 'channel', removed: 'goes', copied: 'with' } }),
    /** Whether its pan goes the other way. */
    mirrored: is.flag({ default: false })
  },
  { key: ['linkId', 'channelId'], since: 5, always: ['groups'] }
);
export type LinkMember = is.RowOf<typeof linkMember>;

// Which buses would be the stems of a session: those that flow into the mix bus.
import { branchOf, edges } from '../routing/graph.ts';
import { MIX } from '../session/create.ts';
import type { Session } from '../session/entities.ts';
import { idsBy } from '../session/lookup.ts';
import { chainOf } from '../routing/chain.ts';

export type SuggestedStems = {
  /** Buses that go into the mix bus and hold something, by birth. */
  readonly stems: readonly string[];
  /** Those of them without a track of their own: effects that several stems have a part in. */
  readonly common: readonly string[];
};

/** `suggestedStems(session)` → `{ stems: ['drums', 'voices', 'effects'], common: ['effects'] }` */
export function suggestedStems(session: Session): SuggestedStems {
  const chain = chainOf(session);
  const fed = new Set(edges(session).map(({ to }) => to));
  const stems = idsBy(session, 'channel', 'outputId', MIX)
    .map((id) => session.channel.get(id)!)
    .filter(({ id, kind, resting }) => kind === 'bus' && !resting && !chain.has(id) && fed.has(id))
    .sort((a, b) => a.born - b.born)
    .map(({ id }) => id);
  const common = stems.filter((id) => !branchOf(session, id).some((each) => session.channel.get(each)!.kind === 'track'));
  return { stems, common };
}

// What the question about twins needs to know: which buses send to a return, and what makes a sum of copies differ.
import { rowsBy } from '$core/session/lookup';
import { branchOf } from '$core/routing/graph';
import type { Insert, InsertType, Session } from '$core/session/entities';
import { inOrder } from '$core/session/select';
import { processors, valuesOf } from '$core/processors/index';

export type TwinBus = {
  readonly id: string;
  readonly name: string;
  readonly colour: number;
  readonly senders: number;
  readonly depth: number;
};

/** Buses directly below the mix bus, or below what the return goes to, from inside which something is sent to it. */
export function twinBuses(session: Session, id: string): TwinBus[] {
  const senders = new Set(rowsBy(session, 'send', 'targetId', id).map(({ sourceId }) => sourceId));
  return inOrder(session)
    .filter(({ kind, outputId }) => kind === 'bus' && session.channel.get(outputId ?? '')?.kind === 'mix')
    .flatMap((bus) => {
      const inside = branchOf(session, bus.id);
      const count = inside.filter((one) => one !== bus.id && senders.has(one)).length;
      return count > 0 && !inside.includes(id) ? [{ id: bus.id, name: bus.name, colour: bus.colour, senders: count, depth: 0 }] : [];
    });
}

/** Types of inserts at work that do not act on a sum as on its parts. */
export const bends = (inserts: readonly Insert[]): InsertType[] => [
  ...new Set(
    inserts.filter(({ type, params, bypass }) => !bypass && processors[type].bends?.(valuesOf(type, params))).map(({ type }) => type)
  )
];

// Who is in which VCA: VCAs hold channels and other VCAs, and a channel may be in several.
import type { Channel, Session } from './entities.ts';
import { idsBy, rowsBy } from './lookup.ts';

export const isVca = ({ kind }: Pick<Channel, 'kind'>): boolean => kind === 'vca';
/** Whether a channel has audio: all but VCAs. */
export const sounds = ({ kind }: Pick<Channel, 'kind'>): boolean => kind !== 'vca';

/** Whether a VCA can hold it: cues are the players' and key tracks are not heard. */
export const canBeHeld = ({ kind }: Pick<Channel, 'kind'>): boolean => kind !== 'cue' && kind !== 'key';

/** All that a VCA holds directly, in the order of their ids. */
export const heldBy = (session: Session, vcaId: string): string[] =>
  rowsBy(session, 'vcaMember', 'vcaId', vcaId).map(({ channelId }) => channelId);

/** The VCAs that hold something directly. */
export const holdersOf = (session: Session, id: string): string[] =>
  rowsBy(session, 'vcaMember', 'channelId', id).map(({ vcaId }) => vcaId);

const NONE: readonly string[] = [];

/** All VCAs above something, nearest first, each once however many ways lead to it. */
export function vcasAbove(session: Session, id: string): readonly string[] {
  if (idsBy(session, 'vcaMember', 'channelId', id).length === 0) return NONE;
  const found = new Set(holdersOf(session, id));
  for (const each of found) for (const above of holdersOf(session, each)) found.add(above);
  return [...found];
}

/** These and everything beneath the VCAs among them. */
export function withHeld(session: Session, ids: Iterable<string>): Set<string> {
  const found = new Set(ids);
  if (session.vcaMember.size > 0) for (const each of found) for (const held of heldBy(session, each)) found.add(held);
  return found;
}

/** The VCAs that lead from one down to another, both included, or null: what would close a loop. */
export function heldAlong(session: Session, from: string, to: string): string[] | null {
  const cameFrom = new Map<string, string | null>([[from, null]]);
  for (const [here] of cameFrom) {
    if (here === to) {
      const stations = [here];
      for (let at = cameFrom.get(here); at; at = cameFrom.get(at)) stations.unshift(at);
      return stations;
    }
    for (const held of heldBy(session, here)) if (!cameFrom.has(held)) cameFrom.set(held, here);
  }
  return null;
}

/** A VCA that holds itself, by whatever way, with the stations; null where there is none. */
export function vcaLoop(session: Session): string[] | null {
  for (const { vcaId, channelId } of session.vcaMember.values()) {
    const back = heldAlong(session, channelId, vcaId);
    if (back) return [vcaId, ...back];
  }
  return null;
}

// What a person sets is marked, and what is marked no automatic step changes.
import { update, type Change, type Fields } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { setByHand, withHand, type HandField } from '../session/roles.ts';

/** The update of a field as a person makes it, which marks it, or as an automatic step does, which leaves alone what is marked. */
export function setField(session: Session, id: string, field: HandField, fields: Fields, auto = false): Change[] {
  const channel = session.channel.get(id)!;
  if (auto) return setByHand(channel, field) ? [] : update(session, 'channel', id, fields);
  return update(session, 'channel', id, { ...fields, byHand: withHand(channel.byHand, field) });
}

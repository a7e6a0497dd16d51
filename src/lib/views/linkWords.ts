// Link groups in words, and who is in them.
import type { Attribute, Session } from '$core/session/entities';
import { rowsBy } from '$core/session/lookup';
import { inOrder } from '$core/session/select';

export const ATTRIBUTE_WORDS: Readonly<Record<Attribute, string>> = {
  level: 'level',
  pan: 'pan',
  mute: 'mute',
  solo: 'solo',
  sendLevel: 'send level',
  sendOn: 'send on/off',
  tap: 'tap',
  bypass: 'bypass',
  insertValues: 'insert values',
  colour: 'colour',
  automation: 'automation',
  cuts: 'cuts',
  moves: 'moves',
  fades: 'fades'
};

/** "level · mute · solo". */
export const attributeWords = (attributes: readonly Attribute[]): string =>
  attributes.length ? attributes.map((each) => ATTRIBUTE_WORDS[each]).join(' · ') : 'nothing yet';

/** Members in the order of the session. */
export function membersOf(session: Session, linkId: string): string[] {
  const members = new Set(rowsBy(session, 'linkMember', 'linkId', linkId).map(({ channelId }) => channelId));
  return inOrder(session).flatMap(({ id }) => (members.has(id) ? [id] : []));
}

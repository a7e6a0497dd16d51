// Gestures on levels: where all that would move began is known from the first touch, so that what meets the end of its range comes back.
import { v4 as uuid } from 'uuid';
import { expanded } from '$core/commands/plan';
import { followers } from '$core/links/follow';
import { countsFrom, type Level } from '$core/links/relative';
import { valuesOf } from '$core/processors/index';
import type { Attribute, Session } from '$core/session/entities';

/** A hand on a level: the one under it and where it began, was and is; where all that moves with it began. */
export type Gesture = {
  readonly name: string;
  readonly ids: readonly string[];
  readonly from: number;
  was: number;
  readonly anchors: Readonly<Record<string, number>>;
};

/** Takes hold of `lead` among `ids`; `levelOf` says the level that the gesture moves. */
export function grip(
  session: Session,
  lead: string,
  ids: readonly string[],
  attribute: Attribute,
  levelOf: (id: string) => Level
): Gesture {
  const all = [...ids, ...followers(session, ids, attribute).map(({ id }) => id)];
  const began = (id: string) => countsFrom(levelOf(id)) ?? -Infinity;
  return {
    name: uuid(),
    ids,
    from: began(lead),
    was: levelOf(lead).level,
    anchors: Object.fromEntries(all.map((id) => [id, began(id)]))
  };
}

/** The next move of a gesture, to `to`. */
export function moveOn(gesture: Gesture, to: number) {
  const { ids, from, was, anchors } = gesture;
  gesture.was = to;
  return { ids: [...ids], lead: { from, was, to }, anchors };
}

/** A hand on a parameter of an insert, and on the same of all like inserts that are linked to it. */
export function gripValue(session: Session, insertId: string, param: string): Gesture {
  const steps = expanded(session, { do: 'inserts.nudge', ids: [insertId], param, by: 0 });
  const all = steps.ok ? steps.value.flatMap((step) => (step as { ids?: string[] }).ids ?? []) : [];
  const valueOf = (id: string) => valuesOf(session.insert.get(id)!.type, session.insert.get(id)!.params)[param];
  const from = valueOf(insertId);
  return { name: uuid(), ids: [insertId], from, was: from, anchors: Object.fromEntries(all.map((id) => [id, valueOf(id)])) };
}

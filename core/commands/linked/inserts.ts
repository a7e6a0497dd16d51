// Inserts over link groups: like inserts are the n-th of their type on their channel.
import { followers } from '../../links/follow.ts';
import { movedValue, type Move, type Scale } from '../../links/relative.ts';
import { specsOf, valuesOf } from '../../processors/index.ts';
import { isLogarithmic, type ParamSpec } from '../../processors/spec.ts';
import type { Attribute, Insert, Session } from '../../session/entities.ts';
import { insertsOf } from '../../session/select.ts';
import type { Expansion, Step } from '../define.ts';
import { moveOf, type MoveArgs } from './levels.ts';

type Like = { readonly insert: Insert; readonly lead: Insert; readonly alike: boolean };

const ofType = (session: Session, channelId: string, type: string) =>
  insertsOf(session, channelId).filter((insert) => insert.type === type);

/** The inserts that follow others: those of members at the like place; several touched ones of a channel have each its own. */
function likes(session: Session, ids: readonly string[], attribute: Attribute): Like[] {
  const touched = ids.flatMap((id) => session.insert.get(id) ?? []);
  const found = new Map<string, Like>();
  const given = new Set(ids);
  for (const { id: channelId, lead, alike } of followers(
    session,
    touched.map((insert) => insert.channelId),
    attribute
  ))
    for (const first of touched) {
      if (first.channelId !== lead) continue;
      const insert = ofType(session, channelId, first.type)[ofType(session, lead, first.type).findIndex(({ id }) => id === first.id)];
      if (insert && !given.has(insert.id) && !found.has(insert.id)) found.set(insert.id, { insert, lead: first, alike });
    }
  return [...found.values()];
}

export function linkedBypass(session: Session, args: { readonly ids: readonly string[] }): Expansion | null {
  const more = likes(session, args.ids, 'bypass').map(({ insert }) => insert.id);
  return more.length ? { steps: [{ ...args, do: 'inserts.bypass', ids: [...args.ids, ...more] }], followers: more.length } : null;
}

export const scaleOf = ({ unit, min, max, choices }: ParamSpec): Scale => ({
  ratio: isLogarithmic({ unit, min }) && !choices,
  clamp: (value) => {
    const within = Math.max(min, Math.min(max, value));
    return (choices ? Math.round(within) : within) + 0;
  }
});

export function linkedValues(session: Session, args: { readonly id: string; readonly values: object }): Expansion | null {
  const more = likes(session, [args.id], 'insertValues');
  if (more.length === 0) return null;
  const followed = more.map(({ insert, lead, alike }): Step => {
    const [own, was] = [valuesOf(insert.type, insert.params), valuesOf(lead.type, lead.params)];
    const values = Object.entries(args.values as Record<string, unknown>).flatMap(([name, value]): [string, number][] => {
      const spec = specsOf(insert.type).get(name);
      if (!spec || typeof value !== 'number') return [];
      const scale = scaleOf(spec);
      const to = scale.clamp(value);
      if (alike || spec.choices) return [[name, to]];
      return to === was[name] ? [] : [[name, movedValue(scale, own[name], undefined, { lead: { from: was[name], was: was[name], to } })]];
    });
    return { do: 'inserts.set', id: insert.id, values: Object.fromEntries(values) };
  });
  return { steps: [{ ...args, do: 'inserts.set' }, ...followed], followers: more.length };
}

export function linkedNudge(
  session: Session,
  args: MoveArgs & { readonly ids: readonly string[]; readonly param: string; readonly anchors?: Readonly<Record<string, number>> }
): Expansion | null {
  const more = likes(session, args.ids, 'insertValues').filter(({ insert }) => specsOf(insert.type).has(args.param));
  if (more.length === 0) return null;
  const move = moveOf(args);
  const copied = more.filter(({ insert, alike }) => alike || specsOf(insert.type).get(args.param)!.choices);
  const moving = more.filter((each) => !copied.includes(each)).map(({ insert }) => insert.id);
  const steps: Step[] = [{ ...args, do: 'inserts.nudge', ids: [...args.ids, ...moving] }];
  for (const { insert, lead } of copied)
    steps.push({ do: 'inserts.set', id: insert.id, values: { [args.param]: nudged(lead, args.param, args.anchors?.[lead.id], move) } });
  return { steps, followers: more.length };
}

/** A parameter's value after a move. */
export function nudged({ type, params }: Insert, name: string, anchor: number | undefined, move: Move): number {
  const spec = specsOf(type).get(name)!;
  const scale = scaleOf(spec);
  return scale.clamp(movedValue(scale, valuesOf(type, params)[name], anchor, move));
}

// Sends over link groups: a member's send to the same target, made where it had none and the moved one is raised.
import { followers, type Follower } from '../../links/follow.ts';
import { followedLevel, type Level } from '../../links/relative.ts';
import { loopClosedBy } from '../../routing/graph.ts';
import { sendId, type Attribute, type Session, type Tap } from '../../session/entities.ts';
import { clampDb, type Db } from '../../units.ts';
import type { Expansion, Step } from '../define.ts';
import { canSend } from '../canSend.ts';
import { moveOf, sorted, type Anchors, type MoveArgs } from './levels.ts';

type Set = { readonly source: string; readonly target: string; readonly level?: Db; readonly tap?: Tap; readonly on?: boolean };

export const sendLevelOf = (session: Session, source: string, target: string): Level => {
  const send = session.send.get(sendId(source, target));
  return { level: send?.levelDb ?? -Infinity, last: send?.lastDb ?? null };
};

/** Whether a channel has a send to a target, or could have one. */
const sendable = (session: Session, source: string, target: string): boolean => {
  if (session.send.has(sendId(source, target))) return true;
  const channel = session.channel.get(source);
  return (
    !!channel && canSend(channel) && source !== target && !loopClosedBy(session, [{ from: source, to: target, via: 'send' }], new Set())
  );
};

/** Takes sends that are there already, of any target, for those of a follower. */
const present = (session: Session, target: string) => (follower: Follower) => session.send.has(sendId(follower.id, target));

export function linkedSends(session: Session, args: { readonly sends: readonly Set[] }): Expansion | null {
  if (session.link.size === 0) return null;
  const more = new Map<string, Set>();
  const add = (source: string, target: string, fields: Partial<Set>) => {
    const key = sendId(source, target);
    more.set(key, { ...more.get(key), ...fields, source, target });
  };
  for (const target of new Set(args.sends.map((send) => send.target))) {
    const into = new Map(args.sends.filter((send) => send.target === target).map((send) => [send.source, send]));
    const touchedBy = (field: 'level' | 'on' | 'tap') =>
      [...into.values()].filter((send) => send[field] !== undefined).map(({ source }) => source);
    const found = (field: 'level' | 'on' | 'tap', attribute: Attribute) =>
      followers(session, touchedBy(field), attribute).filter(({ id }) => !into.has(id));
    for (const { id, lead, alike } of found('level', 'sendLevel')) {
      const now = sendLevelOf(session, id, target);
      const to = clampDb(into.get(lead)!.level!);
      const level = alike ? to : followedLevel(now, sendLevelOf(session, lead, target), to);
      if (level !== now.level && sendable(session, id, target)) add(id, target, { level });
    }
    for (const { id, lead } of found('on', 'sendOn').filter(present(session, target))) add(id, target, { on: into.get(lead)!.on });
    for (const { id, lead } of found('tap', 'tap').filter(present(session, target))) add(id, target, { tap: into.get(lead)!.tap });
  }
  if (more.size === 0) return null;
  return { steps: [{ do: 'sends.set', sends: [...args.sends, ...more.values()], linked: true }], followers: more.size };
}

export function linkedTaps(session: Session, args: { readonly sends: readonly { source: string; target: string }[] }): Expansion | null {
  const more = [...new Set(args.sends.map(({ target }) => target))].flatMap((target) => {
    const touched = args.sends.filter((send) => send.target === target).map(({ source }) => source);
    return followers(session, touched, 'tap')
      .filter(present(session, target))
      .map(({ id }) => ({ source: id, target }));
  });
  return more.length ? { steps: [{ ...args, do: 'sends.tap', sends: [...args.sends, ...more] }], followers: more.length } : null;
}

export function linkedSendMove(
  session: Session,
  args: MoveArgs & { readonly ids: readonly string[]; readonly target: string; readonly anchors?: Anchors }
): Expansion | null {
  const { target } = args;
  const found = followers(session, args.ids, 'sendLevel').filter(({ id }) => sendable(session, id, target));
  if (found.length === 0) return null;
  const { moving, set } = sorted(
    found,
    moveOf(args),
    (id) => args.anchors?.[id],
    (id) => sendLevelOf(session, id, target)
  );
  const there = moving.filter((source) => session.send.has(sendId(source, target)));
  const steps: Step[] = [{ ...args, do: 'sends.move', ids: [...args.ids, ...there], linked: true }];
  if (set.length) steps.push({ do: 'sends.set', sends: set.map(({ id: source, level }) => ({ source, target, level })), linked: true });
  return { steps, followers: there.length + set.length };
}

// What a hand's move writes while it plays: of each value that it moves what it becomes, instead of the move itself.
import { followers } from '../links/follow.ts';
import { clampTo, kindOf } from '../lanes/kinds.ts';
import { valueAt } from '../lanes/course.ts';
import { heardAt } from '../lanes/heard.ts';
import { playingLane, pointsOf, type Asked } from '../lanes/points.ts';
import { restingValue } from '../lanes/resting.ts';
import type { Frames } from '../units.ts';
import type { Session } from '../session/entities.ts';
import type { Step } from './define.ts';
import type { Command } from './index.ts';
import { expanded } from './plan.ts';

export type Written = { readonly asked: Required<Asked>; readonly value: number };
type Lead = { readonly was: number; readonly to: number };
type Move = { readonly by?: number; readonly lead?: Lead };

const asked = (channelId: string, of: Asked['of'], more: Partial<Asked> = {}): Required<Asked> => ({
  ...{ channelId, of, targetId: null, insertId: null, param: null },
  ...more
});

/** What a value becomes by a move; from −∞ it takes the moved one's. */
function after(now: number, { by, lead }: Move): number {
  if (!lead) return now + (by ?? 0);
  if (lead.to === -Infinity || now === -Infinity || lead.was === -Infinity) return lead.to;
  return now + lead.to - lead.was;
}

/**
 * The values that a command of a hand sets, with all that is linked to it by what it moves or by automation, which keeps its distance;
 * null of any other command. `at` is the frame that is heard.
 */
export function writtenBy(session: Session, command: Command, at: Frames): Written[] | null {
  // As it is heard there: what follows keeps its distance from that.
  const heard = heardAt(session, at);
  const now = (of: Required<Asked>) => {
    const lane = playingLane(session, of);
    return lane ? valueAt(pointsOf(session, lane.id), kindOf(session, lane)!.scale, at) : restingValue(session, of);
  };
  const steps = expanded(heard, command);
  if (!steps.ok) return null;
  const found = steps.value.map((step) => valuesOf(session, step as Step, now));
  if (found.some((list) => list === null)) return null;
  const own = new Map(found.flatMap((list) => list!.map((each) => [JSON.stringify(each.asked), each] as const)));
  for (const { asked: of, value } of [...own.values()])
    for (const { id } of followers(session, [of.channelId], 'automation')) {
      const theirs = { ...of, channelId: id };
      if (own.has(JSON.stringify(theirs)) || of.insertId !== null || !kindOf(session, theirs)) continue;
      const by = value - now(of);
      own.set(JSON.stringify(theirs), { asked: theirs, value: Number.isFinite(by) ? now(theirs) + by : value });
    }
  return [...own.values()].map((each) => ({ ...each, value: clampTo(kindOf(session, each.asked)!, each.value) }));
}

function valuesOf(session: Session, step: Step, now: (asked: Required<Asked>) => number): Written[] | null {
  const args = step as unknown as Record<string, never>;
  const ids = (args.ids ?? []) as readonly string[];
  const moved = (of: Required<Asked>): Written => ({ asked: of, value: after(now(of), args as Move) });
  switch (step.do) {
    case 'faders.set':
      return (args.levels as readonly { id: string; level: number }[]).map(({ id, level }) => ({
        asked: asked(id, 'fader'),
        value: level
      }));
    case 'faders.move':
      return ids.map((id) => moved(asked(id, 'fader')));
    case 'pans.move':
      return ids.map((id) => moved(asked(id, 'pan')));
    case 'sends.move':
      return ids.map((id) => moved(asked(id, 'sendLevel', { targetId: args.target })));
    case 'mutes.set':
      return ids.map((id) => ({ asked: asked(id, 'mute'), value: Number(args.on) }));
    case 'pans.set':
      return (args.pans as readonly { id: string; pan?: number; right?: number | null; spread?: number }[]).flatMap(
        ({ id, pan, right, spread }) => [
          ...(pan === undefined ? [] : [{ asked: asked(id, 'pan'), value: pan }]),
          ...(typeof right === 'number' ? [{ asked: asked(id, 'panRight'), value: right }] : []),
          ...(spread === undefined ? [] : [{ asked: asked(id, 'spread'), value: spread }])
        ]
      );
    case 'sends.set': {
      const sends = args.sends as readonly {
        source: string;
        target: string;
        level?: number;
        on?: boolean;
        tap?: string;
        mono?: boolean;
        pan?: number | null;
      }[];
      // What is no value in time, or is not there yet, is no move.
      const other = sends.some(
        ({ source, target, tap, mono, pan }) =>
          tap !== undefined || mono !== undefined || pan !== undefined || !session.send.has(`${source}\n${target}`)
      );
      if (other) return null;
      return sends.flatMap(({ source, target: targetId, level, on }) => [
        ...(level === undefined ? [] : [{ asked: asked(source, 'sendLevel', { targetId }), value: level }]),
        ...(on === undefined ? [] : [{ asked: asked(source, 'sendOn', { targetId }), value: Number(on) }])
      ]);
    }
    case 'inserts.set': {
      const insert = session.insert.get(args.id);
      if (!insert) return null;
      return Object.entries(args.values as Record<string, number>).map(([param, value]) => ({
        asked: asked(insert.channelId, 'param', { insertId: insert.id, param }),
        value
      }));
    }
    case 'inserts.nudge':
      return ids.flatMap((id) => {
        const insert = session.insert.get(id);
        if (!insert) return [];
        const of = asked(insert.channelId, 'param', { insertId: id, param: args.param });
        const { by, lead } = args as Move;
        if (kindOf(session, of)?.scale !== 'ratio') return [moved(of)];
        return [{ asked: of, value: now(of) * (lead ? lead.to / lead.was : (by ?? 1)) }];
      });
    case 'inserts.bypass':
      return ids.flatMap((id) => {
        const insert = session.insert.get(id);
        return insert ? [{ asked: asked(insert.channelId, 'bypass', { insertId: id }), value: Number(args.on) }] : [];
      });
    default:
      return null;
  }
}

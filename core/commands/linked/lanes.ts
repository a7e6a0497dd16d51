// Edits of lanes over link groups with automation: members' lanes of the same get the same, keeping their distance.
import { valueAt } from '../../lanes/course.ts';
import { clampTo, kindOf, type LanePlace } from '../../lanes/kinds.ts';
import { laneOf, pointsOf } from '../../lanes/points.ts';
import { restingValue } from '../../lanes/resting.ts';
import { followers } from '../../links/follow.ts';
import { insertsOf } from '../../session/select.ts';
import { sendId, type Lane, type Session, type Shape } from '../../session/entities.ts';
import type { Expansion, Step } from '../define.ts';

/** The same of another channel: its send to there, its n-th insert of that type; null where it has none. */
function sameOf(session: Session, lane: LanePlace, channelId: string): LanePlace | null {
  const place = { ...lane, channelId };
  if (lane.targetId !== null && !session.send.has(sendId(channelId, lane.targetId))) return null;
  if (lane.insertId !== null) {
    const insert = session.insert.get(lane.insertId);
    const alike = (id: string) => insertsOf(session, id).filter(({ type }) => type === insert?.type);
    const n = alike(lane.channelId).findIndex(({ id }) => id === lane.insertId);
    const other = alike(channelId)[n];
    if (!other) return null;
    place.insertId = other.id;
  }
  return kindOf(session, place) ? place : null;
}

type Follower = { readonly place: LanePlace; readonly lane: Lane | undefined; readonly id: string };

/** Who follows a lane, each with its own, if it has one. */
function following(session: Session, laneId: string): readonly Follower[] {
  const lane = session.lane.get(laneId);
  if (!lane || session.link.size === 0) return [];
  return followers(session, [lane.channelId], 'automation').flatMap(({ id }) => {
    const place = sameOf(session, lane, id);
    if (!place) return [];
    const own = laneOf(session, place);
    return [{ place, lane: own, id: own?.id ?? `${laneId.slice(0, 36)}:${id.slice(0, 40)}` }];
  });
}

/** A value of something at a frame: by its lane where that has points, else where it stands. */
function valueOf(session: Session, place: LanePlace, lane: Lane | undefined, at: number): number {
  const points = lane ? pointsOf(session, lane.id) : [];
  return points.length ? valueAt(points, kindOf(session, place)!.scale, at) : restingValue(session, place);
}

type Given = { readonly at: number; readonly value: number; readonly shape?: Shape };

export function linkedPoints(session: Session, args: { readonly lane: string; readonly points: readonly Given[] }): Expansion | null {
  const lead = session.lane.get(args.lane);
  const found = following(session, args.lane);
  if (!lead || found.length === 0) return null;
  const kind = kindOf(session, lead)!;
  const steps: Step[] = [{ ...args, do: 'points.set' }];
  for (const { place, lane, id } of found) {
    if (!lane) {
      const { channelId, of, targetId, insertId, param } = place;
      steps.push({
        do: 'lanes.add',
        id,
        channelId,
        of,
        target: targetId ?? undefined,
        insertId: insertId ?? undefined,
        param: param ?? undefined
      });
    }
    const points = args.points.map(({ at, value, shape }) => {
      const [theirs, ours] = [valueOf(session, place, lane, at), valueOf(session, lead, lead, at)];
      const by = kind.scale === 'ratio' ? theirs / ours : theirs - ours;
      const moved = kind.scale === 'ratio' ? value * by : kind.scale === 'steps' || !Number.isFinite(by) ? value : value + by;
      return { at, value: clampTo(kindOf(session, place)!, moved), shape };
    });
    steps.push({ ...args, do: 'points.set', lane: id, points });
  }
  return { steps, followers: found.length };
}

/** Of edits that say what becomes of points, whatever they are: those that are there in members' lanes too. */
export function linkedMoves<A extends { readonly lane: string; readonly at?: readonly number[] }>(name: 'points.move' | 'points.remove') {
  return (session: Session, args: A): Expansion | null => {
    const found = following(session, args.lane).flatMap(({ lane }) => lane ?? []);
    const steps = found.flatMap((lane): Step[] => {
      const there = new Set(pointsOf(session, lane.id).map(({ at }) => at));
      const at = args.at?.filter((each) => there.has(each));
      return at?.length === 0 ? [] : [{ ...args, do: name, lane: lane.id, ...(at ? { at } : {}) }];
    });
    return steps.length ? { steps: [{ ...args, do: name }, ...steps], followers: steps.length } : null;
  };
}

/** Of edits of whole lanes: members' lanes are among them. */
export function linkedLanes<A extends { readonly ids: readonly string[] }>(
  name: 'lanes.trim' | 'lanes.scale' | 'lanes.smooth' | 'lanes.set'
) {
  return (session: Session, args: A): Expansion | null => {
    const more = new Set(args.ids.flatMap((id) => following(session, id).flatMap(({ lane }) => lane?.id ?? [])));
    for (const id of args.ids) more.delete(id);
    return more.size ? { steps: [{ ...args, do: name, ids: [...args.ids, ...more] }], followers: more.size } : null;
  };
}

/** A throw of one is a throw of all that send there. */
export function linkedThrow(session: Session, args: { readonly ids: readonly string[]; readonly target: string }): Expansion | null {
  const more = followers(session, args.ids, 'automation').flatMap(({ id }) => (session.send.has(sendId(id, args.target)) ? [id] : []));
  return more.length ? { steps: [{ ...args, do: 'lanes.throw', ids: [...args.ids, ...more] }], followers: more.length } : null;
}

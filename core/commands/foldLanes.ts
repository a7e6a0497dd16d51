// Folding a VCA in where lanes play: what it does over time goes into the lanes of what it holds, by points that are added until nothing
// heard changes.
import { valueAt } from '../lanes/course.ts';
import { followed, pointChanges, type Place } from '../lanes/edit.ts';
import { laneName, type LanePlace } from '../lanes/kinds.ts';
import { laneOf, playingLane, pointsOf, type Asked } from '../lanes/points.ts';
import { ok, refuse, type Result } from '../result.ts';
import { creation, update, type Change } from '../session/changes.ts';
import type { Channel, Lane, Session } from '../session/entities.ts';
import { newRow } from '../session/tables.ts';
import { heldBy, vcasAbove } from '../session/vcas.ts';
import { TOP_DB, type Frames } from '../units.ts';

const STEP: Frames = 64;

/** Points that are the sum of two courses, dB; where one of them steps, so does it, over 64 frames. */
export function summed(a: readonly Place[], b: readonly Place[]): Place[] {
  const kind = { scale: 'level', unit: 'dB', min: -120, max: TOP_DB } as const;
  const of = (at: Frames) => valueAt(a, 'level', at) + valueAt(b, 'level', at);
  const bends = [...new Set([...a, ...b].map(({ at }) => at))].sort((x, y) => x - y);
  const stepsAt = (points: readonly Place[], at: Frames) => {
    const i = points.findIndex((point) => point.at === at);
    return i > 0 && points[i - 1].shape === 'hold' && points[i - 1].value !== points[i].value;
  };
  const holds = (points: readonly Place[], at: Frames) => {
    const before = points.findLast((point) => point.at <= at);
    return (
      !before ||
      before.shape === 'hold' ||
      before === points[points.length - 1] ||
      points.find((point) => point.at > at)?.value === before.value
    );
  };
  const found: Place[] = [];
  const put = (place: Place) => {
    if (found.at(-1)?.at === place.at) found.pop();
    found.push(place);
  };
  /** Whether the course has come to a step on its way: from there it goes over within 64 frames. */
  let arrived = false;
  bends.forEach((at, i) => {
    const next = bends[i + 1];
    const begin = arrived ? Math.min(at + STEP, (next ?? Infinity) - 1) : at;
    arrived = false;
    if (next === undefined) return put({ at: begin, value: of(begin), shape: 'linear' });
    if (holds(a, at) && holds(b, at)) return put({ at: begin, value: of(begin), shape: 'hold' });
    arrived = stepsAt(a, next) || stepsAt(b, next);
    // Up to the next point, where what steps is still what it was.
    const end = [a, b].reduce(
      (sum, each) => sum + (stepsAt(each, next) ? each.findLast((point) => point.at < next)!.value : valueAt(each, 'level', next)),
      0
    );
    for (const place of followed(kind, (frame) => (frame < next ? of(frame) : end), begin, next)) put(place);
  });
  return found;
}

/** Points that are muted wherever one of two lanes is. */
function either(a: readonly Place[], b: readonly Place[]): Place[] {
  const muted = (points: readonly Place[], at: Frames) => valueAt(points, 'steps', at) >= 0.5;
  return [...new Set([...a, ...b].map(({ at }) => at))]
    .sort((x, y) => x - y)
    .map((at) => ({ at, value: muted(a, at) || muted(b, at) ? 1 : 0, shape: 'hold' as const }));
}

/** A lane for a channel's value: the one there is, or a new one, with the change that makes it. */
function laneFor(session: Session, asked: Asked, from: Lane): { readonly lane: Lane; readonly born: Change[] } {
  const present = laneOf(session, asked);
  if (present) return { lane: present, born: [] };
  const place: LanePlace = { targetId: null, insertId: null, param: null, ...asked };
  const lane = newRow('lane', { id: `${from.id.slice(0, 36)}:${asked.channelId.slice(0, 40)}`, ...place });
  return { lane, born: [creation('lane', lane.id, lane)] };
}

/** Whether folding a VCA in concerns lanes: its own, or faders' that would be shifted. */
export const foldsLanes = (session: Session, vcaId: string): boolean =>
  session.lane.size > 0 &&
  [vcaId, ...heldBy(session, vcaId)].some((id) =>
    ['fader', 'mute'].some((of) => playingLane(session, { channelId: id, of: of as 'fader' }))
  );

/** The changes that put what a VCA does over time into what it holds directly. */
export function foldedLanes(session: Session, vca: Channel): Result<Change[]> {
  const members = heldBy(session, vca.id).map((id) => session.channel.get(id)!);
  const twice = members.find(({ id }) =>
    vcasAbove(session, id).some((above) => above !== vca.id && vcasAbove(session, above).includes(vca.id))
  );
  if (twice)
    return refuse(
      'automated',
      `${twice.name} is in ${vca.name} by more than one way, and lanes are at work. Take it out of one of them first.`
    );
  const own = playingLane(session, { channelId: vca.id, of: 'fader' });
  const mutes = playingLane(session, { channelId: vca.id, of: 'mute' });
  let changes: Change[] = [];
  for (const member of members) {
    const asked = { channelId: member.id, of: 'fader' as const };
    const theirs = playingLane(session, asked);
    const mine: readonly Place[] = own ? pointsOf(session, own.id) : [{ at: 0, value: vca.faderDb, shape: 'hold' }];
    const still: readonly Place[] = theirs ? pointsOf(session, theirs.id) : [{ at: 0, value: member.faderDb, shape: 'hold' }];
    if (own || theirs) {
      const { lane, born } = laneFor(session, asked, own ?? theirs!);
      const sum = own ? summed(mine, still) : still.map((place) => ({ ...place, value: place.value + vca.faderDb }));
      const loud = sum.some(({ value }) => value > TOP_DB);
      if (loud)
        return refuse(
          'too-loud',
          `Folded in, the ${laneName(session, { ...lane })} would pass +12 dB. Lower ${vca.name} first, or remove it without.`
        );
      changes = [...changes, ...born, ...update(session, 'lane', lane.id, { plays: true }), ...pointChanges(session, lane, sum)];
    }
    if (!own || !theirs) {
      const faderDb = Math.min(TOP_DB, member.faderDb + (own ? 0 : vca.faderDb));
      changes.push(...update(session, 'channel', member.id, { faderDb }));
    }
    if (mutes) {
      const place = { channelId: member.id, of: 'mute' as const };
      const present = playingLane(session, place);
      const { lane, born } = laneFor(session, place, mutes);
      const points = pointsOf(session, mutes.id);
      const all = present ? either(points, pointsOf(session, present.id)) : points;
      changes = [...changes, ...born, ...update(session, 'lane', lane.id, { plays: true }), ...pointChanges(session, lane, all)];
    }
    changes.push(...update(session, 'channel', member.id, { mute: member.mute || vca.mute, solo: member.solo || vca.solo }));
  }
  return ok(changes);
}

// Lanes and their points, found: by what they are of, and by time.
import type { Lane, Point, Session } from '../session/entities.ts';
import { lanesTouched } from '../session/changes.ts';
import { filling, known } from '../session/facts.ts';
import { keysBy, rowsBy } from '../session/lookup.ts';
import { vcasAbove } from '../session/vcas.ts';
import type { LanePlace } from './kinds.ts';

const lists = filling<readonly Point[]>(['lanes'], lanesTouched);

/** A lane's points by time. */
export function pointsOf(session: Session, laneId: string): readonly Point[] {
  const made = known(session, lists);
  let own = made.get(laneId);
  if (!own) {
    own = Array.from(keysBy(session, 'point', 'laneId', laneId), (key) => session.point.get(key)!).sort((a, b) => a.at - b.at);
    made.set(laneId, own);
  }
  return own;
}

/** All lanes of a channel, in the order of their ids. */
export const lanesOf = (session: Session, channelId: string): Lane[] => rowsBy(session, 'lane', 'channelId', channelId);

/** Whether a lane is at work: one without points is as good as none. */
export const plays = (session: Session, lane: Pick<Lane, 'id' | 'plays'>): boolean => lane.plays && pointsOf(session, lane.id).length > 0;

export type Asked = Pick<LanePlace, 'channelId' | 'of'> & Partial<LanePlace>;

/** The lane of something, or undefined. `laneOf(session, { channelId: 'vox', of: 'sendLevel', targetId: 'echo' })` */
export function laneOf(session: Session, { channelId, of, targetId = null, insertId = null, param = null }: Asked): Lane | undefined {
  if (session.lane.size === 0) return undefined;
  return lanesOf(session, channelId).find(
    (lane) => lane.of === of && lane.targetId === targetId && lane.insertId === insertId && lane.param === param
  );
}

/** The lane of something that is at work. */
export function playingLane(session: Session, asked: Asked): Lane | undefined {
  const lane = laneOf(session, asked);
  return lane && plays(session, lane) ? lane : undefined;
}

/** Whether a lane of something that is at work ever comes to a value for which this holds; null where none is at work. */
export function everHolds(session: Session, asked: Asked, holds: (value: number) => boolean): boolean | null {
  const lane = playingLane(session, asked);
  return lane ? pointsOf(session, lane.id).some(({ value }) => holds(value)) : null;
}

/** Whether a channel's level has lanes at work: its own, trimming or muting ones, or those of VCAs above it. */
export const movesOverTime = (session: Session, channelId: string): boolean =>
  session.lane.size > 0 &&
  [channelId, ...vcasAbove(session, channelId)].some((id) =>
    (['fader', 'faderTrim', 'mute'] as const).some((of) => playingLane(session, { channelId: id, of }) !== undefined)
  );

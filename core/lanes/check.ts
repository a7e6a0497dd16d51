// What must hold of lanes and their points: said of the first that does not, in words.
import type { Refusal } from '../result.ts';
import { sendId, type Lane, type Point, type Session } from '../session/entities.ts';
import { isVca } from '../session/vcas.ts';
import { kindOf, laneName } from './kinds.ts';
import { laneOf } from './points.ts';

const strange = (message: string): Refusal => ({ code: 'invalid', message });

/** What keeps a lane from being what it says, or null. */
export function strangeLane(session: Session, lane: Lane): Refusal | null {
  const { channelId, of, targetId, insertId, param } = lane;
  const channel = session.channel.get(channelId);
  const at = `A lane of ${channel?.name ?? 'a channel'}`;
  if (!channel) return strange(`${at} is of a channel that is not there.`);
  if (isVca(channel) && of !== 'fader' && of !== 'mute') return strange(`${at}, a VCA, is neither of its fader nor of its mute.`);
  const sends = of === 'sendLevel' || of === 'sendTrim' || of === 'sendOn';
  if (sends ? targetId === null || !session.send.has(sendId(channelId, targetId)) : targetId !== null)
    return strange(`${at} is of a send that is not there.`);
  const inserted = of === 'param' || of === 'bypass';
  if (inserted ? session.insert.get(insertId ?? '')?.channelId !== channelId : insertId !== null)
    return strange(`${at} is of an insert that it does not have.`);
  if ((of === 'param') !== (param !== null) || kindOf(session, lane) === null) return strange(`${at} is of a parameter that is not there.`);
  return laneOf(session, lane)?.id === lane.id ? null : strange(`There are two lanes for the ${laneName(session, lane)}.`);
}

/** What keeps a point from being one of its lane, or null. */
export function strangePoint(session: Session, { laneId, value, shape }: Point): Refusal | null {
  const lane = session.lane.get(laneId);
  const kind = lane && kindOf(session, lane);
  if (!kind) return strange('A point belongs to a lane that is not there.');
  const at = `The ${laneName(session, lane)} cannot have a point`;
  if (value === -Infinity ? kind.scale !== 'level' : !(value >= kind.min && value <= kind.max)) return strange(`${at} at ${value}.`);
  if (kind.scale !== 'steps') return null;
  if (shape !== 'hold') return strange(`${at} that leads on: it is a switch, which holds.`);
  return Number.isInteger(value) ? null : strange(`${at} at ${value}: it is a switch.`);
}

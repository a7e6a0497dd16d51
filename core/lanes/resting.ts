// What something that can have a lane is where none plays.
import { processors } from '../processors/index.ts';
import { sendId, type Lane, type Session } from '../session/entities.ts';
import type { LanePlace } from './kinds.ts';

/** What something is where no lane plays. */
export function restingValue(session: Session, { channelId, of, targetId, insertId, param }: LanePlace): number {
  const channel = session.channel.get(channelId);
  const send = targetId === null ? undefined : session.send.get(sendId(channelId, targetId));
  const insert = insertId === null ? undefined : session.insert.get(insertId);
  const values: Record<Lane['of'], number> = {
    fader: channel?.faderDb ?? 0,
    faderTrim: 0,
    pan: channel?.pan ?? 0,
    panRight: channel?.panRight ?? 0,
    spread: channel?.spread ?? 100,
    mute: channel?.mute ? 1 : 0,
    sendLevel: send?.levelDb ?? -Infinity,
    sendTrim: 0,
    sendOn: send?.on === false ? 0 : 1,
    param: insert && param !== null ? (insert.params[param] ?? processors[insert.type].specs.get(param)?.default ?? 0) : 0,
    bypass: insert?.bypass ? 1 : 0
  };
  return values[of];
}

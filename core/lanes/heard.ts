// A session as its lanes have it at a frame: values that follow lanes are what they are there.
import { sendId, type Session } from '../session/entities.ts';
import type { Frames } from '../units.ts';
import { valueAt } from './course.ts';
import { kindOf } from './kinds.ts';
import { plays, pointsOf } from './points.ts';

/** Rows that no lane moves are the session's own; trims are left to themselves. `heardAt(session, 48000).channel.get('vox')!.faderDb` */
export function heardAt(session: Session, at: Frames): Session {
  if (session.lane.size === 0) return session;
  const [channel, send, insert] = [new Map(session.channel), new Map(session.send), new Map(session.insert)];
  for (const lane of session.lane.values()) {
    const kind = kindOf(session, lane);
    if (!kind || !plays(session, lane)) continue;
    const { channelId, of, targetId, insertId, param } = lane;
    const value = valueAt(pointsOf(session, lane.id), kind.scale, at);
    const row = channel.get(channelId)!;
    const key = sendId(channelId, targetId ?? '');
    if (of === 'fader') channel.set(channelId, { ...row, faderDb: value });
    else if (of === 'pan' || of === 'spread' || (of === 'panRight' && row.panRight !== null))
      channel.set(channelId, { ...row, [of]: value });
    else if (of === 'sendLevel') send.set(key, { ...send.get(key)!, levelDb: value });
    else if (of === 'sendOn') send.set(key, { ...send.get(key)!, on: value >= 0.5 });
    else if (of === 'bypass') insert.set(insertId!, { ...insert.get(insertId!)!, bypass: value >= 0.5 });
    else if (of === 'param') {
      const own = insert.get(insertId!)!;
      insert.set(insertId!, { ...own, params: { ...own.params, [param!]: value } });
    }
  }
  return { ...session, channel, send, insert };
}

/**
 * As it sounds at a frame: with what trim lanes add, and muted where a mute lane says so.
 * `playedAt(session, 48000).channel.get('vox')!.faderDb`
 */
export function playedAt(session: Session, at: Frames): Session {
  if (session.lane.size === 0) return session;
  const heard = heardAt(session, at);
  const [channel, send] = [new Map(heard.channel), new Map(heard.send)];
  for (const lane of session.lane.values()) {
    const { channelId, of, targetId } = lane;
    const kind = kindOf(session, lane);
    if (!kind || !plays(session, lane)) continue;
    const row = channel.get(channelId)!;
    const key = sendId(channelId, targetId ?? '');
    const value = () => valueAt(pointsOf(session, lane.id), kind.scale, at);
    if (of === 'faderTrim') channel.set(channelId, { ...row, faderDb: row.faderDb + value() });
    else if (of === 'mute') channel.set(channelId, { ...row, mute: row.mute || value() >= 0.5 });
    else if (of === 'sendTrim') send.set(key, { ...send.get(key)!, levelDb: send.get(key)!.levelDb + value() });
  }
  return { ...heard, channel, send };
}

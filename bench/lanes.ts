// Lanes beside none: the benchmark session with lanes of fader, pan and first send on every track, so many points each over a song of
// three minutes, beside the same without; in turn, CPU time of one thread. As written moves do, lanes move and rest in turn; with
// --restless they never rest, and --song says in how many seconds the points lie.
// npm run bench -- lanes [--tracks N] [--points N] [--song S] [--restless] [--json]
import type { Session } from '../core/session/entities.ts';
import { rowsBy } from '../core/session/lookup.ts';
import { beside } from './beside.ts';
import { benchDesk, carryOut, option, RATE } from './desk.ts';

const [tracks, count, seconds, song] = [option('tracks', 64), option('points', 500), option('seconds', 20), option('song', 180)];
const restless = process.argv.includes('--restless');

/** Three lanes on every track, their points at no multiple of anything. */
function withLanes(session: Session): Session {
  const step = Math.floor((song * RATE) / count);
  const points = (middle: number, width: number, turn: number) =>
    Array.from({ length: count }, (_, i) => ({
      at: i * step + ((i * 37) % 61),
      value: middle + (((restless ? i : i >> 1) * 7 + turn) % 11) * width,
      shape: 'linear' as const
    }));
  for (const [turn, { id: channelId }] of rowsBy(session, 'channel', 'kind', 'track').entries()) {
    const [{ targetId }] = rowsBy(session, 'send', 'sourceId', channelId);
    for (const lane of [{ of: 'fader' as const }, { of: 'pan' as const }, { of: 'sendLevel' as const, target: targetId }]) {
      const id = `${channelId}:${lane.of}`;
      carryOut(session, { do: 'lanes.add', id, channelId, ...lane });
      carryOut(session, { do: 'points.set', lane: id, points: lane.of === 'pan' ? points(-50, 10, turn) : points(-12, 1, turn) });
    }
  }
  return session;
}
const { one: without, other, ratio } = beside(benchDesk(tracks), withLanes(benchDesk(tracks)), seconds);
const result = { tracks, lanes: 3, points: count, without, with: other, ratio };
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else
  console.log(`${tracks} tracks: 3 lanes of ${count} points each cost ${ratio} × none (${other} s beside ${without} s a second of sound)`);

// Many clips beside one: the benchmark session whose tracks have 200 clips each, from all over their recordings, with fades, beside the same
// with one clip each; in turn, CPU time of one thread.
// npm run bench -- clips [--tracks N] [--clips N] [--gain] [--json]
import { commit, creation, removal } from '../core/session/changes.ts';
import type { Session } from '../core/session/entities.ts';
import { beside } from './beside.ts';
import { benchDesk, option, RATE } from './desk.ts';

const [tracks, count, seconds] = [option('tracks', 64), option('clips', 200), option('seconds', 20)];
/** Whether every other piece has a gain of its own besides. */
const louder = process.argv.includes('--gain');

/** Every clip in pieces of equal length, each with fades, in another order than they were. */
function inPieces(session: Session): Session {
  for (const clip of [...session.clip.values()]) {
    const length = Math.floor((seconds * RATE) / count);
    const pieces = Array.from({ length: count }, (_, i) => ({
      ...clip,
      id: `${clip.id}:${i}`,
      start: i * length,
      offset: ((i * 7) % count) * length,
      length,
      gainDb: louder ? i % 2 : 0,
      fadeIn: 96,
      fadeOut: 96
    }));
    commit(session, [removal(session, 'clip', clip.id), ...pieces.map((piece) => creation('clip', piece.id, piece))]);
  }
  return session;
}
const { one, other: many, ratio } = beside(benchDesk(tracks), inPieces(benchDesk(tracks)), seconds);
const result = { tracks, clips: count, one, many, ratio };
if (process.argv.includes('--json')) console.log(JSON.stringify(result));
else
  console.log(
    `${tracks} tracks: ${count} clips each cost ${result.ratio} × one clip each (${result.many} s beside ${result.one} s a second of sound)`
  );

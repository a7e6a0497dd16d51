// Clips that lie over each other without crossing, as only a document from elsewhere has them: the later lies on top.
import { commit } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { clipEnd, overlapIn } from '../session/joints.ts';
import { channelsWithClips, clipsInTime } from '../session/timeline.ts';
import { carve, changesOf, layOf, ownOf } from './lay.ts';

/** Brings them apart in place, and says so in words, a sentence per track. */
export function bringApart(session: Session): string[] {
  const words: string[] = [];
  for (const id of channelsWithClips(session)) {
    // What is wrong otherwise is said elsewhere.
    if (!session.channel.has(id) || !overlapIn(clipsInTime(session, id))) continue;
    const lay = layOf(session, [id]);
    let count = 0;
    for (let pair = overlapIn(ownOf(lay, id)); pair; pair = overlapIn(ownOf(lay, id)), count++)
      carve(lay, pair[0], pair[1].start, clipEnd(pair[1]), pair[1]);
    commit(session, changesOf(lay));
    const name = session.channel.get(id)!.name;
    words.push(
      count === 1
        ? `Two clips of ${name} lay over each other: the later one was left on top.`
        : `Clips of ${name} lay over each other in ${count} places: later ones were left on top.`
    );
  }
  return words;
}

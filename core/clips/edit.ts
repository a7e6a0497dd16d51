// An edit from beginning to end: clips are found, changed on a lay, settled, and told as changes.
import type { Change } from '../session/changes.ts';
import type { Clip, Session } from '../session/entities.ts';
import { inStep } from '../session/joints.ts';
import { rowsBy } from '../session/lookup.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Frames } from '../units.ts';
import { inside } from './edits.ts';
import { changesOf, layOf, type Lay } from './lay.ts';
import { settle, type Settling } from './settle.ts';

/** Clips by id, each once. */
export function clipsOf(session: Session, ids: readonly string[]): Result<Clip[]> {
  const found: Clip[] = [];
  for (const id of new Set(ids)) {
    const clip = session.clip.get(id);
    if (!clip) return refuse('not-found', 'One of these clips is no longer in the session. Select again.', { id });
    found.push(clip);
  }
  return ok(found);
}

/** The clip itself where a frame is inside it, or the piece of it that another page has cut off there. */
export const pieceAt = (session: Session, clip: Clip, at: Frames): Clip | null =>
  inside(clip, at)
    ? clip
    : (rowsBy(session, 'clip', 'channelId', clip.channelId).find((other) => inside(other, at) && inStep(clip, other)) ?? null);

/** Carries out an edit on the tracks given; `act` changes the lay, and answers what of it lies on top. */
export function edited(session: Session, channels: Iterable<string>, act: (lay: Lay) => Result<Settling | null>): Result<Change[]> {
  const lay = layOf(session, channels);
  const done = act(lay);
  if (!done.ok) return done;
  settle(lay, done.value ?? {});
  return ok(changesOf(lay));
}

export const tracksOf = (clips: readonly Clip[]): string[] => [...new Set(clips.map(({ channelId }) => channelId))];

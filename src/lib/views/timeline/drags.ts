// What a press on a clip takes hold of, and the command that a drag from there comes to.
import type { Command } from '$core/commands/index';
import { plan } from '$core/commands/plan';
import { snapped, type Snap } from '$core/clips/snap';
import { commit } from '$core/session/changes';
import type { Clip, Session } from '$core/session/entities';
import { clipEnd, crosses } from '$core/session/joints';
import { clipsInTime, clipsWithin } from '$core/session/timeline';
import { placeOf } from './paint';

/** What of a clip is under the hand. */
export type Part = 'body' | 'start' | 'end' | 'fadeIn' | 'fadeOut';
export type Hit = { readonly clip: Clip; readonly part: Part };

const EDGE = 6;
const HANDLE = 14;

/** The clip of a track under a place, pixels within its row, and what of it; handles only where it is selected. */
export function hitAt(
  session: Session,
  channelId: string,
  at: { readonly x: number; readonly y: number; readonly height: number },
  { frameAt, xOf }: { readonly frameAt: (x: number) => number; readonly xOf: (frame: number) => number },
  selected: ReadonlySet<string>
): Hit | null {
  const near = clipsWithin(session, channelId, frameAt(at.x - EDGE), frameAt(at.x + EDGE) + 1).filter((clip) => {
    const { top, tall } = placeOf(clip, at.height);
    return at.y >= top && at.y <= top + tall;
  });
  const ordered = [...near].sort((a, b) => Number(selected.has(b.id)) - Number(selected.has(a.id)));
  for (const clip of ordered) {
    const [left, right] = [xOf(clip.start), xOf(clipEnd(clip))];
    const { top } = placeOf(clip, at.height);
    if (selected.has(clip.id) && at.y < top + HANDLE && right - left > 24) {
      if (Math.abs(at.x - xOf(clip.start + clip.fadeIn)) <= EDGE) return { clip, part: 'fadeIn' };
      if (Math.abs(at.x - xOf(clipEnd(clip) - clip.fadeOut)) <= EDGE) return { clip, part: 'fadeOut' };
    }
    if (at.x < left - 1 || at.x > right + 1) continue;
    const grip = Math.min(EDGE, (right - left) / 4);
    if (at.x - left < grip) return { clip, part: 'start' };
    if (right - at.x < grip) return { clip, part: 'end' };
    return { clip, part: 'body' };
  }
  return null;
}

export type Drag = {
  readonly hit: Hit;
  /** Clips that go with it: it alone, or the selected ones. */
  readonly ids: readonly string[];
  /** Frames by which the hand has moved. */
  readonly by: number;
  /** The track that it is over; only clips of one track change theirs. */
  readonly over: string | null;
  readonly snap: Snap;
  readonly playhead: number;
};

/** The command that a drag comes to as far as it has got, or null where it comes to nothing. */
export function commandOf(session: Session, { hit: { clip, part }, ids, by, over, snap, playhead }: Drag): Command | null {
  const brought = (frame: number) => snapped(session, snap, frame, playhead);
  const clips = ids.flatMap((id) => session.clip.get(id) ?? []);
  if (part === 'start') return { do: 'clips.trim', ids: [...ids], start: Math.min(brought(clip.start + by), clipEnd(clip) - 1) };
  if (part === 'end') return { do: 'clips.trim', ids: [...ids], end: Math.max(brought(clipEnd(clip) + by), clip.start + 1) };
  const room = (each: Clip, other: number) => each.length - other;
  // A fade that crosses is half of a crossing: both go with the hand.
  const own = clipsInTime(session, clip.channelId);
  const before = part === 'fadeIn' ? own.find((other) => crosses(other, clip)) : undefined;
  const after = part === 'fadeOut' ? own.find((other) => crosses(clip, other)) : undefined;
  if (before || after) {
    const frames = (part === 'fadeIn' ? clip.fadeIn : clip.fadeOut) + (part === 'fadeIn' ? by : -by);
    return { do: 'clips.join', ids: before ? [before.id, clip.id] : [clip.id, after!.id], frames: Math.max(0, Math.round(frames)) };
  }
  if (part === 'fadeIn') {
    const most = Math.min(...clips.map((each) => room(each, each.fadeOut)));
    return {
      do: 'clips.fade',
      ids: [...ids],
      in: { frames: Math.max(0, Math.min(most, brought(clip.start + clip.fadeIn + by) - clip.start)) }
    };
  }
  if (part === 'fadeOut') {
    const most = Math.min(...clips.map((each) => room(each, each.fadeIn)));
    const frames = clipEnd(clip) - brought(clipEnd(clip) - clip.fadeOut + by);
    return { do: 'clips.fade', ids: [...ids], out: { frames: Math.max(0, Math.min(most, frames)) } };
  }
  const first = Math.min(...clips.map(({ start }) => start));
  const far = Math.max(-first, brought(clip.start + by) - clip.start);
  const to = over !== null && over !== clip.channelId && clips.every(({ channelId }) => channelId === clip.channelId) ? over : undefined;
  return far === 0 && to === undefined ? null : { do: 'clips.move', ids: [...ids], by: far, ...(to === undefined ? {} : { to }) };
}

export type Preview = { readonly command: Command; readonly rows: ReadonlyMap<string, readonly Clip[]> };

/** A command as far as it can go: where something linked stops it sooner, so far. */
function within(session: Session, command: Command): Command {
  const planned = plan(session, command);
  const most = planned.ok ? undefined : planned.error.data?.most;
  if (typeof most !== 'number') return command;
  if (command.do === 'clips.move') return { ...command, by: most + 0 };
  return command.do === 'clips.join' ? { ...command, frames: most } : command;
}

/** A command, as far as it can go, and what tracks would look like with it, by track; or why it cannot be. The session is left as it was. */
export function previewOf(session: Session, asked: Command): Preview | string {
  const command = within(session, asked);
  const planned = plan(session, command);
  if (!planned.ok) return planned.error.message;
  const touched = new Set(
    planned.value.changes.flatMap(({ table, key, before, after }) => {
      if (table !== 'clip') return [];
      const was = session.clip.get(key)?.channelId;
      return [was, before?.channelId, after?.channelId].filter((id): id is string => typeof id === 'string');
    })
  );
  const back = commit(session, planned.value.changes);
  try {
    return { command, rows: new Map([...touched].map((id) => [id, [...clipsInTime(session, id)]])) };
  } finally {
    commit(session, back);
  }
}

// Where an edge, a clip or a marker comes to stand that is brought near something: the grid of the music, clips' edges, markers, the playhead.
import { settingsOf, type Session } from '../session/entities.ts';
import { fact, known } from '../session/facts.ts';
import { clipEnd } from '../session/joints.ts';
import { firstAfter } from '../session/timeline.ts';
import type { Frames } from '../units.ts';

/** What is snapped to: a bar, a note value, `edges` of clips, `markers` and the ends of ranges, the `playhead`, or nothing. */
export const SNAPS = ['off', 'bar', '1/4', '1/8', '1/16', 'edges', 'markers', 'playhead'] as const;
export type Snap = (typeof SNAPS)[number];

/** Quarter notes of a step of the grid; null where that is none. */
function stepOf(session: Session, snap: Snap): number | null {
  if (snap === 'bar') return settingsOf(session).beatsPerBar;
  return snap === '1/4' ? 1 : snap === '1/8' ? 0.5 : snap === '1/16' ? 0.25 : null;
}

const ordered = (frames: Iterable<Frames>): readonly Frames[] => [...new Set(frames)].sort((a, b) => a - b);
const edges = fact(['clips'], ({ clip }) => ordered([...clip.values()].flatMap((each) => [each.start, clipEnd(each)])));
const places = fact(['places'], ({ marker, range }) =>
  ordered([...[...marker.values()].map(({ at }) => at), ...[...range.values()].flatMap(({ start, length }) => [start, start + length])])
);

const itself = (frame: Frames): Frames => frame;
function nearest(list: readonly Frames[], frame: Frames): Frames | null {
  const next = firstAfter(list, frame, itself);
  const [before, after] = [list[next - 1] as Frames | undefined, list[next] as Frames | undefined];
  if (before === undefined) return after ?? null;
  return after === undefined || frame - before <= after - frame ? before : after;
}

/**
 * The frame that `frame` is brought to, not before zero; itself where there is nothing to snap to.
 * `snapped(session, '1/8', 12_345)`
 */
export function snapped(session: Session, snap: Snap, frame: Frames, playhead: Frames = 0): Frames {
  const at = Math.max(0, Math.round(frame));
  const step = stepOf(session, snap);
  if (step !== null) {
    const { rate, bpm } = settingsOf(session);
    const frames = (step * 60 * rate) / bpm;
    return Math.round(Math.round(at / frames) * frames);
  }
  if (snap === 'playhead') return Math.round(playhead);
  if (snap === 'off') return at;
  return nearest(known(session, snap === 'edges' ? edges : places), at) ?? at;
}

/** The next frame of a grid or list before or after one: what the keyboard steps by; null where there is none. */
export function stepFrom(session: Session, snap: Snap, frame: Frames, direction: -1 | 1): Frames | null {
  const step = stepOf(session, snap);
  if (step !== null) {
    const { rate, bpm } = settingsOf(session);
    const frames = (step * 60 * rate) / bpm;
    const place = direction > 0 ? Math.floor((frame + 0.5) / frames) + 1 : Math.ceil((frame - 0.5) / frames) - 1;
    return place < 0 ? null : Math.round(place * frames);
  }
  const list = known(session, snap === 'markers' ? places : edges);
  const next = firstAfter(list, direction > 0 ? frame : frame - 1, itself);
  return (direction > 0 ? list[next] : list[next - 1]) ?? null;
}

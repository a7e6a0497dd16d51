// Markers and ranges dragged, in the Timeline's head and over the song in the transport.
import { v4 as uuid } from 'uuid';
import type { Command } from '$core/commands/index';
import { snapped, type Snap } from '$core/clips/snap';
import { followPointer } from './drag';
import type { SessionStore } from '$lib/state/session.svelte';

type How = {
  readonly store: SessionStore;
  readonly perPixel: () => number;
  readonly snap: Snap;
  readonly kind: 'marker' | 'range';
  readonly id: string;
};

/** Pixels at a range's end by which that alone is taken hold of. */
const END = 6;

/** Follows a press on a marker or a range until it is let go: it moves along, or an end of it, as one entry. */
export function placeDrag(event: PointerEvent, { store, perPixel, snap, kind, id }: How): void {
  if (event.button !== 0) return;
  event.stopPropagation();
  const { session } = store;
  const target = event.currentTarget as HTMLElement;
  const box = target.getBoundingClientRect();
  const gesture = uuid();
  const brought = (frame: number) => snapped(session, snap === 'playhead' || snap === 'markers' ? 'off' : snap, frame);
  const marker = session.marker.get(id);
  const range = session.range.get(id);
  const [left, right] = [event.clientX - box.left < END, box.right - event.clientX < END];
  let moved = false;
  const command = (by: number): Command | null => {
    if (kind === 'marker') return marker ? { do: 'markers.set', id, at: brought(marker.at + by) } : null;
    if (!range) return null;
    const end = range.start + range.length;
    if (right) return { do: 'ranges.set', id, to: Math.max(range.start + 1, brought(end + by)) };
    if (left) return { do: 'ranges.set', id, from: Math.min(end - 1, brought(range.start + by)) };
    const from = brought(range.start + by);
    return { do: 'ranges.set', id, from, to: from + range.length };
  };
  const move = (pointer: PointerEvent) => {
    if (!moved && Math.abs(pointer.clientX - event.clientX) < 4) return;
    moved = true;
    const next = command((pointer.clientX - event.clientX) * perPixel());
    if (next) store.act([next], gesture);
  };
  followPointer(event, move, () => {
    // A drag is no click.
    if (moved) target.addEventListener('click', (click) => click.stopImmediatePropagation(), { capture: true, once: true });
  });
}

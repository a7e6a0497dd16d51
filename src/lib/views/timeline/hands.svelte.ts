// The pointer on the Timeline's rows: clips pressed, dragged, trimmed and faded, ranges of time drawn, with a preview of what comes of it.
import type { Command } from '$core/commands/index';
import { snapped } from '$core/clips/snap';
import type { Clip } from '$core/session/entities';
import { timeText } from '$core/time';
import { followPointer } from '$lib/ui/drag';
import type { Desk } from '$lib/state/desk';
import { commandOf, hitAt, previewOf, type Hit } from './drags';
import type { Edits } from './edits.svelte';
import type { TimeSpan } from './span.svelte';

type Means = {
  readonly desk: Desk;
  readonly edits: Edits;
  readonly span: TimeSpan;
  readonly body: () => HTMLElement | null;
  readonly order: () => readonly string[];
};
type Place = { readonly id: string; readonly x: number; readonly y: number; readonly height: number };

const FAR = 4;
const CURSORS = { body: 'grab', start: 'ew-resize', end: 'ew-resize', fadeIn: 'col-resize', fadeOut: 'col-resize' } as const;

export function createHands({ desk: { store, selection, transport }, edits, span, body, order }: Means) {
  const { session } = store;
  let preview = $state.raw<ReadonlyMap<string, readonly Clip[]> | null>(null);
  let problem = $state<string | null>(null);
  let word = $state<string | null>(null);
  let cursor = $state('default');
  let dragging = $state(false);

  /** Whether the drag under way was given up. */
  let stopped = false;

  const placeOf = (event: MouseEvent, target: EventTarget | null = event.target): Place | null => {
    const lane = (target as Element | null)?.closest<HTMLElement>('[data-lane]');
    if (!lane) return null;
    const box = lane.getBoundingClientRect();
    return { id: lane.dataset.lane!, x: event.clientX - box.left, y: event.clientY - box.top, height: box.height };
  };
  const hit = (place: Place): Hit | null => hitAt(session, place.id, place, span, edits.clips.ids);
  /** All clips from the one touched last to this one, along its track. */
  const reach = (clip: Clip) => {
    const last = edits.clips.last === null ? undefined : session.clip.get(edits.clips.last);
    const own = store.clips(clip.channelId).map(({ id }) => id);
    edits.clips.click(clip.id, last?.channelId === clip.channelId ? own : [], { shift: true, toggle: false });
  };
  const over = (event: PointerEvent): string | null =>
    document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-lane]')?.dataset.lane ?? null;
  const rest = () => {
    preview = problem = word = null;
    dragging = false;
  };

  const dragClip = (event: PointerEvent, found: Hit, plain: () => void) => {
    let command: Command | null = null;
    const ids = edits.ids();
    followPointer(
      event,
      (pointer) => {
        if (stopped) return;
        if (!dragging && Math.hypot(pointer.clientX - event.clientX, pointer.clientY - event.clientY) < FAR) return;
        dragging = true;
        // With Alt nothing is snapped to.
        const snap = pointer.altKey ? 'off' : edits.snap;
        const by = (pointer.clientX - event.clientX) * span.perPixel;
        command = commandOf(session, {
          hit: found,
          ids,
          by,
          over: found.part === 'body' ? over(pointer) : null,
          snap,
          playhead: transport.position
        });
        const seen = command && previewOf(session, command);
        problem = typeof seen === 'string' ? seen : null;
        preview = seen === null || typeof seen === 'string' ? null : seen.rows;
        if (seen !== null && typeof seen !== 'string') command = seen.command;
        word = command && wordOf(command);
      },
      (last) => {
        if (stopped) return;
        const act = dragging && problem === null && last.type === 'pointerup';
        const said = problem;
        const moved = dragging;
        rest();
        if (act && command) store.act([command]);
        else if (said !== null) store.say(said);
        else if (!moved) plain();
      }
    );
  };
  const wordOf = (command: Command): string => {
    const time = (frames: number) => timeText(frames, store.settings.rate);
    if (command.do === 'clips.move') return `${command.by! < 0 ? '−' : '+'}${time(Math.abs(command.by!))}`;
    if (command.do === 'clips.trim') return time(command.start ?? command.end!);
    if (command.do === 'clips.join') return `${Math.round((command.frames! / store.settings.rate) * 1000)} ms`;
    if (command.do === 'clips.fade') return `${Math.round(((command.in ?? command.out)!.frames! / store.settings.rate) * 1000)} ms`;
    return '';
  };
  const dragRange = (event: PointerEvent, place: Place, plain: () => void) => {
    const snap = edits.snap === 'playhead' ? 'off' : edits.snap;
    const brought = (pointer: PointerEvent) =>
      snapped(session, pointer.altKey ? 'off' : snap, span.frameAt(place.x + pointer.clientX - event.clientX));
    const from = brought(event);
    followPointer(
      event,
      (pointer) => {
        if (stopped) return;
        if (!dragging && Math.abs(pointer.clientX - event.clientX) < FAR) return;
        dragging = true;
        edits.clips.clear();
        const to = brought(pointer);
        edits.setRange(from === to ? null : { from: Math.min(from, to), to: Math.max(from, to) });
        const rows = order();
        const [first, last] = [rows.indexOf(place.id), rows.indexOf(over(pointer) ?? place.id)].sort((a, b) => a - b);
        selection.set(first < 0 ? [place.id] : rows.slice(first, last + 1), place.id);
        word = `${timeText(Math.min(from, to), store.settings.rate)} – ${timeText(Math.max(from, to), store.settings.rate)}`;
      },
      () => {
        if (stopped) return;
        const moved = dragging;
        rest();
        if (!moved) plain();
      }
    );
  };

  return {
    get preview() {
      return preview;
    },
    /** Why what is being dragged cannot be let go here. */
    get problem() {
      return problem;
    },
    /** How far it has been dragged. */
    get word() {
      return word;
    },
    get cursor() {
      return cursor;
    },
    get dragging() {
      return dragging;
    },
    /** Nothing comes of the drag under way. */
    cancel: () => {
      stopped = true;
      rest();
    },
    /** What is under the pointer becomes what a menu acts on. */
    choose: (event: MouseEvent) => {
      const place = placeOf(event);
      const found = place && hit(place);
      if (found && !edits.clips.has(found.clip.id)) edits.clips.set([found.clip.id], found.clip.id);
      const row = place?.id ?? (event.target as Element).closest<HTMLElement>('[data-row]')?.dataset.row;
      if (row && !selection.has(row)) selection.set([row], row);
    },
    hover: (event: PointerEvent) => {
      if (event.buttons) return;
      const place = placeOf(event);
      const found = place && hit(place);
      cursor = found ? CURSORS[found.part] : place ? 'text' : 'default';
    },
    press: (event: PointerEvent) => {
      const place = placeOf(event);
      if (!place || event.button !== 0) return;
      stopped = false;
      body()?.focus({ preventScroll: true });
      const found = hit(place);
      const toggle = event.ctrlKey || event.metaKey;
      if (event.shiftKey) return dragRange(event, place, () => found && reach(found.clip));
      if (!found)
        return dragRange(event, place, () => {
          edits.clear();
          selection.set([place.id], place.id);
          transport.locate(span.frameAt(place.x));
        });
      edits.setRange(null);
      const { id, channelId } = found.clip;
      const was = edits.clips.has(id);
      if (toggle) edits.clips.click(id, [], { shift: false, toggle: true });
      else if (!was) edits.clips.set([id], id);
      if (!selection.has(channelId)) selection.set([channelId], channelId);
      if (toggle && was) return;
      dragClip(event, found, () => !toggle && edits.clips.set([id], id));
    }
  };
}

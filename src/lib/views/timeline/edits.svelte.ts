// What is done on the Timeline: which clips and which range of time are selected, and the commands that act on them.
import { v4 as uuid } from 'uuid';
import type { Command } from '$core/commands/index';
import { stepFrom, snapped, SNAPS, type Snap } from '$core/clips/snap';
import type { Clip } from '$core/session/entities';
import { clipEnd } from '$core/session/joints';
import { endOf } from '$core/session/select';
import { clipsInTime, clipsWithin } from '$core/session/timeline';
import { createSelection } from '$lib/state/selection.svelte';
import type { Desk } from '$lib/state/desk';

export type TimeRange = { readonly from: number; readonly to: number };
export type Edits = ReturnType<typeof createEdits>;

const SNAP_KEY = 'timeline-snap';
/** Frames of a crossing that is made by a key, in ms. */
const CROSS_MS = 20;

export function createEdits({ store, selection, transport }: Desk) {
  const { session } = store;
  const clips = createSelection();
  let range = $state.raw<TimeRange | null>(null);
  const kept = localStorage.getItem(SNAP_KEY) as Snap | null;
  let snap = $state<Snap>(kept && SNAPS.includes(kept) ? kept : '1/8');

  const fresh = () => uuid().slice(0, 13);
  const act = (commands: readonly Command[]) => commands.length > 0 && store.act(commands);
  const playhead = () => Math.round(transport.position);
  const rows = () => [...selection.ids].filter((id) => clipsInTime(session, id).length > 0);
  /** The selected clips that are still there, by time. */
  const chosen = (): Clip[] => [...clips.ids].flatMap((id) => session.clip.get(id) ?? []).sort((a, b) => a.start - b.start);
  const ids = () => chosen().map(({ id }) => id);
  const some = () => chosen().length > 0;
  const ms = (value: number) => Math.round((value * store.settings.rate) / 1000);

  /** The frame that a step of the playhead or of clips leads to; fine ones by a millisecond or a frame. */
  const stepped = (frame: number, direction: -1 | 1, how: 'snap' | 'ms' | 'frame'): number => {
    if (how === 'frame') return Math.max(0, frame + direction);
    const grid: Snap = snap === 'off' || snap === 'playhead' ? 'off' : snap;
    if (how === 'ms' || grid === 'off') return Math.max(0, frame + direction * ms(how === 'ms' ? 1 : 10));
    return stepFrom(session, grid, frame, direction) ?? (direction < 0 ? 0 : frame);
  };

  const cut = () => {
    const at = playhead();
    if (range) {
      const channels = rows();
      const commands = [range.from, range.to].flatMap((place): Command[] =>
        channels.some((id) => clipsWithin(session, id, place, place + 1).some((clip) => clip.start < place))
          ? [{ do: 'clips.cut', channels, at: place, as: fresh() }]
          : []
      );
      return commands.length ? act(commands) : store.say('No clip of the selected rows reaches over an end of the range.');
    }
    if (some()) return act([{ do: 'clips.cut', ids: ids(), at, as: fresh() }]);
    if (rows().length) return act([{ do: 'clips.cut', channels: rows(), at, as: fresh() }]);
    store.say('Select rows or clips to cut first.');
  };
  const takeOut = () => {
    if (range) {
      const done = act([{ do: 'clips.remove', channels: rows(), from: range.from, to: range.to }]);
      if (done) range = null;
      return;
    }
    act([{ do: 'clips.remove', ids: ids() }]);
  };
  /** Moves the selected clips by a step: of the first one the start, the others go along. */
  const nudge = (direction: -1 | 1, how: 'snap' | 'ms' | 'frame') => {
    const [first] = chosen();
    const by = stepped(first.start, direction, how) - first.start;
    if (by !== 0) act([{ do: 'clips.move', ids: ids(), by }]);
  };
  /** Fades of the selected clips that the playhead stands in reach to it, or from it. */
  const fadeTo = (which: 'in' | 'out') => {
    const at = playhead();
    const under = chosen().filter((clip) => clip.start < at && at < clipEnd(clip));
    if (!under.length) return store.say('Move the playhead into a selected clip: the fade reaches to there.');
    act(
      under.map((clip): Command =>
        which === 'in'
          ? { do: 'clips.fade', ids: [clip.id], in: { frames: Math.min(at - clip.start, clip.length - clip.fadeOut) } }
          : { do: 'clips.fade', ids: [clip.id], out: { frames: Math.min(clipEnd(clip) - at, clip.length - clip.fadeIn) } }
      )
    );
  };
  const trimTo = (which: 'start' | 'end') => {
    const at = playhead();
    const under = chosen().filter((clip) => (which === 'start' ? at < clipEnd(clip) : at > clip.start));
    if (!under.length) return store.say('Move the playhead to where the selected clips are to begin or end.');
    act([{ do: 'clips.trim', ids: under.map(({ id }) => id), [which]: at }]);
  };
  const duplicate = () => {
    const list = chosen();
    const from = list[0].start;
    const to = Math.max(...list.map(clipEnd));
    act([
      { do: 'clips.duplicate', ids: ids(), by: snapped(session, snap === 'playhead' ? 'off' : snap, to) - from || to - from, as: fresh() }
    ]);
  };
  const join = () => {
    const list = chosen();
    const shortest = Math.min(...list.map(({ length }) => length));
    act([{ do: 'clips.join', ids: ids(), frames: Math.min(ms(CROSS_MS), Math.floor(shortest / 2)) }]);
  };
  const selectUnder = () => {
    const at = playhead();
    const found = rows().flatMap((id) => clipsWithin(session, id, at, at + 1));
    if (found.length)
      clips.set(
        found.map(({ id }) => id),
        found[0].id
      );
    else store.say('No clip of the selected rows is under the playhead.');
  };
  /** The next edge of the selected rows, or of all, from the playhead on. */
  const toEdge = (direction: -1 | 1) => {
    const at = playhead();
    const own = rows();
    const places = (own.length ? own : [...session.channel.keys()]).flatMap((id) =>
      clipsInTime(session, id).flatMap((clip) => [clip.start, clipEnd(clip)])
    );
    const next = places
      .filter((place) => (direction > 0 ? place > at : place < at))
      .reduce<number | null>((best, place) => (best === null || Math.abs(place - at) < Math.abs(best - at) ? place : best), null);
    if (next !== null) transport.locate(next);
  };
  /** What is meant by a range now: the selected one, else the selected clips together. */
  const meant = (): TimeRange | null => {
    if (range) return range;
    const list = chosen();
    return list.length ? { from: list[0].start, to: Math.max(...list.map(clipEnd)) } : null;
  };
  const named = (base: string, taken: readonly { readonly name: string }[]): string => {
    const names = new Set(taken.map(({ name }) => name));
    for (let n = 1; ; n++) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
  };
  /** The range begins or ends at the playhead: from there to where it ended, or to the song's end. */
  const rangeAt = (which: 'from' | 'to') => {
    const at = playhead();
    const end = Math.max(at + 1, endOf(session));
    const next =
      which === 'from'
        ? { from: at, to: range && range.to > at ? range.to : end }
        : { from: range && range.from < at ? range.from : 0, to: at };
    if (next.from >= next.to) return store.say('A range ends after it begins: move the playhead on.');
    clips.clear();
    range = next;
  };
  /** Moves the selected clips of one track onto the next one of its width, above or below among `order`. */
  const toRow = (direction: -1 | 1, order: readonly string[]) => {
    const list = chosen();
    const from = list[0] && session.channel.get(list[0].channelId);
    if (!from) return;
    const fits = order.filter((id) => {
      const row = session.channel.get(id);
      return (row?.kind === 'track' || row?.kind === 'key') && row.width === from.width;
    });
    const to = fits[fits.indexOf(from.id) + direction];
    if (!to) return store.say(`No ${from.width === 1 ? 'mono' : 'stereo'} track stands ${direction < 0 ? 'above' : 'below'} ${from.name}.`);
    if (act([{ do: 'clips.move', ids: ids(), by: 0, to }])) selection.set([to], to);
  };
  const mark = () =>
    act([{ do: 'markers.set', id: fresh(), name: named('Marker', store.markers), at: playhead(), colour: session.marker.size % 12 }]);
  const newRange = () => {
    const of = meant() ?? transport.loop;
    if (!of) return store.say('Select a range first: drag over rows with Shift held, or over the song below.');
    act([
      {
        do: 'ranges.set',
        id: fresh(),
        name: named('Range', store.ranges),
        from: of.from,
        to: of.to,
        colour: (session.range.size * 3 + 4) % 12
      }
    ]);
  };
  const loop = () => transport.turnLoop(meant());
  const mute = () => act([{ do: 'clips.mute', ids: ids(), on: chosen().some(({ muted }) => !muted) }]);

  return {
    clips,
    act,
    get range() {
      return range;
    },
    setRange: (next: TimeRange | null) => (range = next),
    get snap() {
      return snap;
    },
    setSnap: (next: Snap) => localStorage.setItem(SNAP_KEY, (snap = next)),
    chosen,
    ids,
    some,
    rows,
    /** What is no longer there is not selected. */
    forget: (gone: ReadonlySet<string>) => clips.forget(gone),
    clear: () => {
      clips.clear();
      range = null;
    },
    stepPlayhead: (direction: -1 | 1, how: 'snap' | 'ms' | 'frame') => transport.locate(stepped(playhead(), direction, how)),
    ...{ rangeAt, toRow, cut, takeOut, nudge, fadeTo, trimTo, duplicate, join, selectUnder, toEdge, mark, newRange, loop, mute, meant },
    reunite: () => act([{ do: 'clips.reunite', ids: ids() }])
  };
}

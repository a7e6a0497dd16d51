// Lanes on the Timeline: which are open beneath their rows, which is chosen with which of its points, and what is done to them.
import { v4 as uuid } from 'uuid';
import type { Command } from '$core/commands/index';
import { edgeFrames, thinned } from '$core/lanes/edit';
import { valueAt } from '$core/lanes/course';
import { kindOf, laneName } from '$core/lanes/kinds';
import { pointsOf } from '$core/lanes/points';
import type { Lane, Shape } from '$core/session/entities';
import type { Desk } from '$lib/state/desk';
import type { TimeRange } from './edits.svelte';

export type Lanes = ReturnType<typeof createLanes>;
/** A lane row's height, and that of one of a switch. */
export const LANE_HEIGHT = 46;

export function createLanes({ store, transport }: Desk) {
  const { session } = store;
  /** Channels whose lanes are folded away. */
  let shut = $state.raw<ReadonlySet<string>>(new Set());
  let chosen = $state<string | null>(null);
  let points = $state.raw<ReadonlySet<number>>(new Set());
  /** What was copied: a lane and a stretch of it. */
  let copied = $state.raw<{ readonly lane: string; readonly range: TimeRange } | null>(null);

  const kind = (lane: Lane) => kindOf(session, lane)!;
  const playhead = () => Math.max(0, Math.round(transport.position));
  const fresh = () => uuid().slice(0, 13);
  const lane = (): Lane | undefined => (chosen === null ? undefined : store.lane(chosen));
  /** The chosen points that are still there, by time. */
  const at = (): number[] => {
    const own = lane();
    return own ? store.points(own.id).flatMap((point) => (points.has(point.at) ? [point.at] : [])) : [];
  };
  const choose = (laneId: string | null, own: Iterable<number> = []) => {
    chosen = laneId;
    points = new Set(own);
  };
  const act = (commands: readonly Command[], gesture: string | null = null) => store.act(commands, gesture);
  const add = (laneId: string, frame: number, value: number) => {
    const own = session.lane.get(laneId);
    if (
      own &&
      act([
        {
          do: 'points.set',
          lane: laneId,
          points: [{ at: frame, value, ...(kind(own).scale === 'steps' ? { shape: 'hold' as const } : {}) }]
        }
      ])
    )
      choose(laneId, [frame]);
  };
  /** A stroke that was drawn by hand, with as few points as say the same, in place of what was there. */
  const draw = (laneId: string, stroke: readonly { readonly at: number; readonly value: number }[]) => {
    const own = session.lane.get(laneId);
    if (!own || stroke.length < 2) return;
    const shape: Shape = kind(own).scale === 'steps' ? 'hold' : 'linear';
    const places = stroke.map((place) => ({ ...place, shape }));
    const kept =
      shape === 'hold' ? places.filter((place, i) => i === 0 || place.value !== places[i - 1].value) : thinned(places, kind(own));
    act([{ do: 'points.set', lane: laneId, points: kept, replace: true, edge: edgeFrames(store.settings.rate) }]);
    choose(laneId);
  };
  const remove = () => {
    const own = lane();
    const list = at();
    if (own && list.length && act([{ do: 'points.remove', lane: own.id, at: list }])) points = new Set();
  };
  const shape = (to: Shape) => {
    const own = lane();
    if (!own) return;
    const list = pointsOf(session, own.id).filter((point) => points.has(point.at));
    act([{ do: 'points.set', lane: own.id, points: list.map((point) => ({ at: point.at, value: point.value, shape: to })) }]);
  };
  /** Moves the chosen points, and keeps them chosen where they come to. */
  const move = (by: number, addition: number, gesture: string | null = null) => {
    const own = lane();
    const list = at();
    if (!own || !list.length) return;
    const before = pointsOf(session, own.id);
    const places = before.flatMap((point, i) => (points.has(point.at) ? [i] : []));
    if (!act([{ do: 'points.move', lane: own.id, at: list, by, add: addition }], gesture)) return;
    const after = pointsOf(session, own.id);
    points = new Set(places.flatMap((i) => after[i]?.at ?? []));
  };
  const step = (direction: -1 | 1) => {
    const own = lane();
    if (!own) return;
    const all = pointsOf(session, own.id);
    const from = at().at(direction > 0 ? -1 : 0) ?? playhead();
    const next = direction > 0 ? all.find((point) => point.at > from) : all.findLast((point) => point.at < from);
    if (next) choose(own.id, [next.at]);
  };
  return {
    get shut() {
      return shut;
    },
    isOpen: (channelId: string) => !shut.has(channelId),
    fold: (channelId: string) => {
      const next = new Set(shut);
      if (!next.delete(channelId)) next.add(channelId);
      shut = next;
    },
    get chosen() {
      return chosen;
    },
    get points() {
      return points;
    },
    get copied() {
      return copied;
    },
    ...{ lane, at, choose, add, draw, remove, shape, move, step },
    kind,
    open: (channelId: string) => {
      if (shut.has(channelId)) shut = new Set([...shut].filter((id) => id !== channelId));
    },
    /** What a lane is at the playhead, or where it stands while it has no points. */
    now: (own: Lane): number | null => {
      const list = store.points(own.id);
      return list.length ? valueAt(list, kind(own).scale, transport.position) : null;
    },
    addAtPlayhead: () => {
      const own = lane();
      if (!own) return;
      const list = pointsOf(session, own.id);
      if (list.length) add(own.id, playhead(), valueAt(list, kind(own).scale, playhead()));
    },
    toggle: (own: Lane) => act([{ do: 'lanes.set', ids: [own.id], plays: !own.plays }]),
    discard: (own: Lane) => act([{ do: 'lanes.remove', ids: [own.id] }]) && choose(null),
    /** A new lane, with a point at what the value is now, at the song's beginning. */
    make: (place: { channelId: string; of: Lane['of']; target?: string; insertId?: string; param?: string }) => {
      const id = fresh();
      if (act([{ do: 'lanes.add', id, begin: true, ...place }])) choose(id);
    },
    copy: (range: TimeRange | null) => {
      const own = lane();
      if (!own) return;
      if (!range) return store.say('Select a range first: hold Shift and drag over rows.');
      copied = { lane: own.id, range };
      store.say(`Copied: ${laneName(session, own)}. Choose a lane and paste at the playhead.`);
    },
    paste: () => {
      const own = lane();
      if (own && copied) act([{ do: 'lanes.copy', lane: copied.lane, ...copied.range, onto: [{ lane: own.id, at: playhead() }] }]);
    },
    /** What is no longer there is not chosen. */
    forget: (gone: ReadonlySet<string>) => chosen !== null && gone.has(chosen) && choose(null)
  };
}

// Moves written into lanes while it plays: never, while they are held, or until it stops. What is written counts at the position that is
// heard at that moment; a pass is one undo entry.
import { v4 as uuid } from 'uuid';
import type { Command } from '$core/commands/index';
import { writtenBy } from '$core/commands/written';
import { valueAt } from '$core/lanes/course';
import { kindOf } from '$core/lanes/kinds';
import { withPointsAt } from '$core/lanes/edit';
import { passOver, type Pass } from '$core/lanes/pass';
import { laneOf, plays, pointsOf, type Asked } from '$core/lanes/points';
import { restingValue } from '$core/lanes/resting';
import type { SessionStore } from './session.svelte';
import type { Transport } from './transport.svelte';

/** A move by keys, wheel or typing is let go of after so many ms without another. */
const IDLE_MS = 400;

type Writing = { readonly lane: string; readonly pass: Pass };

export function createWriting(store: SessionStore, transport: Transport) {
  const { session } = store;
  /** By what is written, its lane and what was done so far. */
  const all = new Map<string, Writing>();
  let gesture = '';
  let idle: ReturnType<typeof setTimeout> | undefined;
  let pressed = false;
  let writes = $state(0);

  const heard = () => Math.max(0, Math.round(transport.position));
  const place = (asked: Required<Asked>) => ({
    ...{ channelId: asked.channelId, of: asked.of, target: asked.targetId ?? undefined },
    ...{ insertId: asked.insertId ?? undefined, param: asked.param ?? undefined }
  });
  /** What is linked was looked for already. */
  const send = (commands: readonly Command[]) =>
    store.actAs(
      commands.map((command) => ({ ...command, alone: true })),
      gesture
    );

  const begin = (asked: Required<Asked>, at: number): Writing => {
    const present = laneOf(session, asked);
    const lane = present?.id ?? uuid().slice(0, 13);
    const kind = kindOf(session, asked)!;
    const points = present && plays(session, present) ? pointsOf(session, present.id) : [];
    const pass = passOver(points, kind, at, restingValue(session, asked));
    const shape = kind.scale === 'steps' ? ('hold' as const) : ('linear' as const);
    const first = points.length ? valueAt(points, kind.scale, at) : restingValue(session, asked);
    // Up to where it begins the lane goes on as it did.
    const cut = withPointsAt(points, kind, [at]).filter(
      (each) => each.at < at && !points.some((one) => one.at === each.at && one.shape === each.shape)
    );
    send([
      ...(present ? [] : [{ do: 'lanes.add' as const, id: lane, ...place(asked) }]),
      ...(present && !present.plays ? [{ do: 'lanes.set' as const, ids: [lane], plays: true }] : []),
      // What comes later is out of the way until it ends.
      ...(present ? [{ do: 'points.remove' as const, lane, from: points.length ? at : 0 }] : []),
      {
        do: 'points.set' as const,
        lane,
        points: [
          ...cut.map((each) => ({ ...each })),
          ...(points.length || at === 0 ? [] : [{ at: 0, value: first, shape }]),
          { at, value: first, shape }
        ]
      }
    ]);
    return { lane, pass };
  };

  const end = () => {
    clearTimeout(idle);
    if (all.size === 0) return;
    const at = heard();
    const glide = Math.round((store.settings.laneGlideMs * store.settings.rate) / 1000);
    const done = [...all.values()].filter(({ lane }) => session.lane.has(lane));
    all.clear();
    writes = 0;
    send(
      done.flatMap(({ lane, pass }): Command[] => {
        const last = Math.max(pass.last(), at < pass.began ? pass.last() : at);
        return [
          { do: 'points.remove', lane, from: pass.began },
          { do: 'points.set', lane, points: pass.ended(last, glide).map((each) => ({ ...each })) }
        ];
      })
    );
    gesture = '';
  };

  const held = () => {
    clearTimeout(idle);
    if (store.settings.movesWritten === 'held' && !pressed) idle = setTimeout(end, IDLE_MS);
  };

  /** Takes moves over where they are to be written; false of all else. */
  const take = (commands: readonly Command[]): boolean => {
    if (store.settings.movesWritten === 'never' || !transport.playing) return false;
    const at = heard();
    const found = commands.map((command) => writtenBy(session, command, at));
    if (found.some((list) => list === null)) return false;
    // Round a loop each time is a pass of its own.
    if ([...all.values()].some(({ pass }) => at < pass.last())) end();
    gesture ||= uuid();
    for (const { asked, value } of found.flatMap((list) => list!)) {
      const key = JSON.stringify(asked);
      let own = all.get(key);
      if (!own) all.set(key, (own = begin(asked, at)));
      send([{ do: 'points.set', lane: own.lane, points: own.pass.note(at, value).map((each) => ({ ...each })) }]);
    }
    writes = all.size;
    held();
    return true;
  };

  const press = () => (pressed = true);
  const release = () => {
    pressed = false;
    if (store.settings.movesWritten === 'held') end();
  };
  return {
    take,
    end,
    /** How many values are being written. */
    get writes() {
      return writes;
    },
    /** Listens to the pointer; returns how to stop. */
    follow: () => {
      window.addEventListener('pointerdown', press, true);
      window.addEventListener('pointerup', release);
      window.addEventListener('pointercancel', release);
      return () => {
        window.removeEventListener('pointerdown', press, true);
        window.removeEventListener('pointerup', release);
        window.removeEventListener('pointercancel', release);
      };
    }
  };
}
export type WritingMoves = ReturnType<typeof createWriting>;

// A hand on a value whose lane plays: it shifts the lane, writes into it, or is refused; it never fights it silently.
import * as yup from 'yup';
import { valueAt } from '../lanes/course.ts';
import { moved, pointChanges, stretchChanges } from '../lanes/edit.ts';
import { clampTo, kindOf, laneName } from '../lanes/kinds.ts';
import { playingLane, pointsOf, type Asked } from '../lanes/points.ts';
import { ok, refuse, type Result } from '../result.ts';
import type { Change } from '../session/changes.ts';
import type { Session } from '../session/entities.ts';
import { whole } from './define.ts';

/** What commands take that move a value: what they do to its lane, and the frame that is heard then. */
export const onLane = {
  lane: yup.string().oneOf(['trim', 'write'] as const),
  at: whole()
};
export type OnLane = { readonly lane?: 'trim' | 'write'; readonly at?: number };

/** The commands that take them. */
const HANDS: ReadonlySet<string> = new Set([
  ...['faders.set', 'faders.move', 'pans.set', 'pans.move', 'sends.set', 'sends.move'],
  ...['inserts.set', 'inserts.nudge', 'inserts.bypass']
]);

/** Commands of a hand, with what it does to lanes that play; all others as they are. */
export const withHand = <C extends { readonly do: string }>(commands: readonly C[], lane: 'trim' | 'write', at: number): C[] =>
  commands.map((command) => (HANDS.has(command.do) ? { ...command, lane, at } : command));

/** A value that a hand sets, or moves by a difference: dB, steps, of ratios per cent. */
export type Moved = { readonly asked: Asked; readonly to?: number; readonly by?: number };

/** What becomes of lanes, and which of the moved values these are: they stay as they are. */
export type Led = { readonly changes: Change[]; readonly led: ReadonlySet<Moved> };

/** Carries a hand's moves over to lanes that play; refused where nothing is said of them. */
export function handOn(session: Session, moves: readonly Moved[], { lane: what, at = 0 }: OnLane): Result<Led> {
  let changes: Change[] = [];
  const led = new Set<Moved>();
  if (session.lane.size === 0) return ok({ changes, led });
  for (const move of moves) {
    const lane = playingLane(session, move.asked);
    if (!lane) continue;
    const kind = kindOf(session, lane)!;
    if (what === undefined)
      return refuse(
        'automated',
        `The ${laneName(session, lane)} follows its lane. Trim or write the lane (“lane”), or switch it off first.`,
        { lane: lane.id }
      );
    const points = pointsOf(session, lane.id);
    const now = valueAt(points, kind.scale, at);
    const to = move.to ?? moved(kind.scale, now, move.by ?? 0);
    led.add(move);
    if (what === 'write' || kind.scale === 'steps') {
      const present = points.find((point) => point.at === at);
      const shape = kind.scale === 'steps' ? 'hold' : (present?.shape ?? 'linear');
      changes = [...changes, ...stretchChanges(session, lane.id, 1, 0, [{ at, value: clampTo(kind, to), shape }])];
      continue;
    }
    // From or to −∞ there is no difference: then all of it goes there.
    const by = move.by ?? (kind.scale === 'ratio' ? (to / now - 1) * 100 : to - now);
    const shifted = points.map((point) => ({ ...point, value: Number.isFinite(by) ? moved(kind.scale, point.value, by) : to }));
    changes = [...changes, ...pointChanges(session, lane, shifted)];
  }
  return ok({ changes, led });
}

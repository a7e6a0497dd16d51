// Relative moves: what a gesture that began elsewhere makes of a value now. A gesture carries where each value began, so that what met the
// end of its range comes back to its old distance; what somebody else moved meanwhile stays moved.
import { clampDb, type Db } from '../units.ts';

/** A gesture as the one who is moved has it: where it began, where it was at the last move, where it is. */
export type Lead = { readonly from: number; readonly was: number; readonly to: number };
/** Either a gesture or a plain difference. */
export type Move = { readonly lead: Lead } | { readonly by: number };

/** How a kind of value moves: by a difference or, on a logarithmic scale, by a ratio; brought into its range. */
export type Scale = { readonly ratio: boolean; readonly clamp: (value: number) => number };

const moved = ({ ratio }: Scale, value: number, from: number, to: number): number =>
  from === to ? value : ratio ? value * (to / from) : value + (to - from);

/** The value after a move; `anchor` is where it began, if that is known. */
export function movedValue(scale: Scale, present: number, anchor: number | undefined, move: Move): number {
  if ('by' in move) return scale.clamp(scale.ratio ? present * move.by : present + move.by);
  const { from, was, to } = move.lead;
  const began = anchor ?? moved(scale, present, was, from);
  const brought = (value: number, at: number) => (at === from ? value : scale.clamp(moved(scale, value, from, at)));
  const expected = brought(began, was);
  // Somebody else moved it since: by so much it began elsewhere.
  const shifted = expected === present ? began : moved(scale, began, expected, present);
  return brought(shifted, to);
}

/** A level with what it was before it went to −∞; see `lastLevel`. */
export type Level = { readonly level: Db; readonly last: Db | null };
const heard = (db: Db | null | undefined): db is Db => db != null && db > -Infinity;
const SCALE: Scale = { ratio: false, clamp: clampDb };

/** From where a level counts: itself, or at −∞ what a linked move took from it; null is nowhere. */
export const countsFrom = ({ level, last }: Level): Db | null => (heard(level) ? level : heard(last) ? last : null);
/** Whether it never had a level. */
export const neverHad = ({ level, last }: Level): boolean => level === -Infinity && last === null;

/** A touched level after a move. */
export function movedLevel(now: Level, anchor: Db | undefined, move: Move): Db {
  const present = now.level;
  if ('by' in move) {
    const base = countsFrom(now);
    return base === null ? present : clampDb(base + move.by);
  }
  const { from, was, to } = move.lead;
  // From silence there is no difference: what was silent with it takes its level, the rest stays.
  if (from === -Infinity) return (anchor ?? countsFrom(now) ?? -Infinity) === -Infinity ? clampDb(to) : present;
  if (to === -Infinity) return -Infinity;
  if (anchor === -Infinity) return present;
  if (!heard(was)) {
    const base = anchor ?? countsFrom(now);
    if (base === null) return present;
    // Somebody raised it meanwhile: it goes on from there.
    return movedValue(SCALE, heard(present) ? present : base, undefined, { lead: { from, was: from, to } });
  }
  if (present === -Infinity) {
    // A member at the floor has its distance still; one that somebody silenced stays so.
    const floored = anchor !== undefined && clampDb(anchor + was - from) === -Infinity;
    const base = floored ? anchor : anchor === undefined && heard(now.last) ? now.last : null;
    return base === null ? present : movedValue(SCALE, base, base, { lead: { from, was: from, to } });
  }
  return movedValue(SCALE, present, anchor, move);
}

/** What a linked level becomes when the one it follows, `lead`, is set to `to`. */
export function followedLevel(now: Level, lead: Level, to: Db): Db {
  if (to === -Infinity) return -Infinity;
  if (neverHad(now)) return heard(lead.level) && to === lead.level ? now.level : to;
  const from = countsFrom(lead);
  const base = countsFrom(now);
  if (from === null || base === null || (from === to && heard(lead.level))) return now.level;
  return clampDb(base + to - from);
}

/** A level that is set: what it was is kept where it goes to −∞. `linked`: with others, so that the next linked move counts from it. */
export function setLevel({ level, last }: Level, to: Db, linked: boolean, anchor?: Db): Level {
  if (to > -Infinity || level === -Infinity || anchor === -Infinity) return { level: to, last };
  return { level: to, last: linked ? (anchor ?? level) : -Infinity };
}

// Derived facts of a session, each worked out once a revision: a fact says which aspects of the session it is made from, is made when
// somebody asks, and made again only after a commit that touched one of these. Page, server and command line ask in the same place.
import type { Aspect } from './column.ts';
import type { Change } from './changes.ts';
import type { Session } from './tables.ts';
import { woken } from './woken.ts';

export type Fact<T> = {
  readonly of: (session: Session) => T;
  /** What of a session it is made from; `everything` is any change. */
  readonly from: readonly (Aspect | 'everything')[];
  /** Of a fact that is a map, filled as somebody asks: whose entries changes touch. The others stay. */
  readonly touched?: (changes: readonly Change[]) => Iterable<string>;
};

type Kept = {
  readonly values: Map<Fact<unknown>, unknown>;
  /** Changes committed since the values were last looked through. */
  since: (readonly Change[])[];
};

const kept = new WeakMap<Session, Kept>();
/** So many commits are noted before the values are looked through, though nobody asks. */
const MOST_SINCE = 200;

/** Defines a fact: `const tree = fact(['tree'], treeOf)`; `known(session, tree)` is the tree as it is now. */
export const fact = <T>(from: Fact<T>['from'], of: (session: Session) => T): Fact<T> => ({ of, from });
/** A map that is filled as somebody asks, of which only those entries are dropped that changes touch. */
export const filling = <V>(
  from: Fact<unknown>['from'],
  touched: (changes: readonly Change[]) => Iterable<string>
): Fact<Map<string, V>> => ({
  of: () => new Map<string, V>(),
  from,
  touched
});

export function known<T>(session: Session, asked: Fact<T>): T {
  let own = kept.get(session);
  if (!own) kept.set(session, (own = { values: new Map(), since: [] }));
  sift(own);
  if (own.values.has(asked)) return own.values.get(asked) as T;
  const value = asked.of(session);
  own.values.set(asked, value);
  return value;
}

/** Drops the values that changes since have touched. */
function sift(own: Kept): void {
  if (own.since.length === 0) return;
  const changes = own.since.flat();
  const aspects = woken(changes);
  for (const [each, value] of own.values) {
    if (!each.from.some((aspect) => aspect === 'everything' || aspects.has(aspect))) continue;
    if (each.touched) for (const key of each.touched(changes)) (value as Map<string, unknown>).delete(key);
    else own.values.delete(each);
  }
  own.since = [];
}

/** Notes what was committed; called by `commit` alone. */
export function noteChanges(session: Session, changes: readonly Change[]): void {
  const own = kept.get(session);
  if (!own || own.values.size === 0 || changes.length === 0) return;
  own.since.push(changes);
  if (own.since.length > MOST_SINCE) sift(own);
}

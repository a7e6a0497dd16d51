// Which elements draw which rows: rows that leave the screen hand theirs to rows that come.

/** Gives every key a slot of its own: those that stay keep theirs, those that come take the lowest free ones. */
export function allot(keys: readonly string[], before: ReadonlyMap<string, number>): Map<string, number> {
  const next = new Map<string, number>();
  const taken = new Set<number>();
  for (const key of keys) {
    const slot = before.get(key);
    if (slot === undefined) continue;
    next.set(key, slot);
    taken.add(slot);
  }
  let free = 0;
  for (const key of keys) {
    if (next.has(key)) continue;
    while (taken.has(free)) free++;
    taken.add(free);
    next.set(key, free);
  }
  return next;
}

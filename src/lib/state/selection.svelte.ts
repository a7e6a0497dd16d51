// Which channels are selected, and the one that was touched last.

export type Selection = ReturnType<typeof createSelection>;

export function createSelection() {
  let ids = $state.raw<ReadonlySet<string>>(new Set());
  let last = $state<string | null>(null);
  const set = (next: Iterable<string>, focus: string | null) => {
    ids = new Set(next);
    last = focus;
  };
  return {
    get ids() {
      return ids;
    },
    /** The channel that the side sheet shows. */
    get last() {
      return last;
    },
    has: (id: string) => ids.has(id),
    set,
    clear: () => set([], null),
    /** What is no longer there is not selected either. */
    forget: (gone: ReadonlySet<string>) => {
      if ([...ids].some((id) => gone.has(id))) ids = new Set([...ids].filter((id) => !gone.has(id)));
      if (last !== null && gone.has(last)) last = null;
    },
    /** A click: plain selects one, Ctrl adds or takes away, Shift reaches from the last one. `order` is what is on screen. */
    click: (id: string, order: readonly string[], keys: { shift: boolean; toggle: boolean }) => {
      if (keys.shift && last && order.includes(last)) {
        const [from, to] = [order.indexOf(last), order.indexOf(id)].sort((a, b) => a - b);
        ids = new Set([...(keys.toggle ? ids : []), ...order.slice(from, to + 1)]);
      } else if (keys.toggle) {
        const next = new Set(ids);
        if (!next.delete(id)) next.add(id);
        set(next, id);
      } else set([id], id);
    },
    /** What a command on `id` acts on: the selection where `id` is part of it, else just `id`. */
    around: (id: string): string[] => (ids.has(id) ? [...ids] : [id])
  };
}

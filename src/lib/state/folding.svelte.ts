// Which branches are folded: the same in every view that shows the tree.
export type Folding = ReturnType<typeof createFolding>;

export function createFolding() {
  let folded = $state.raw<ReadonlySet<string>>(new Set());
  return {
    get ids() {
      return folded;
    },
    has: (id: string) => folded.has(id),
    turn: (id: string) => {
      const next = new Set(folded);
      if (!next.delete(id)) next.add(id);
      folded = next;
    },
    /** Unfolds whatever hides what stands on this way. */
    open: (way: ReadonlySet<string>) => (folded = new Set([...folded].filter((id) => !way.has(id))))
  };
}

// One signal per row: reading a row in a view subscribes to just that row; a commit bumps the rows it touched.

class Cell {
  version = $state(0);
}

export type Signals = {
  /** Subscribes the running effect to a key. */
  readonly read: (key: string) => void;
  readonly bump: (key: string) => void;
};

/** A cell that belongs to no reaction: one that made its own state would not be woken by it. */
function looseCell(): Cell {
  let cell!: Cell;
  $effect.root(() => {
    cell = new Cell();
  });
  return cell;
}

export function createSignals(): Signals {
  const cells = new Map<string, Cell>();
  return {
    read: (key) => {
      let cell = cells.get(key);
      if (!cell) cells.set(key, (cell = looseCell()));
      void cell.version;
    },
    bump: (key) => {
      const cell = cells.get(key);
      if (cell) cell.version++;
    }
  };
}

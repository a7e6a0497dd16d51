// One signal per row: reading a row in a view subscribes to just that row; a commit bumps the rows it touched.

class Cell {
  version = $state(0);
}

export type Signals = {
  /** Subscribes the running effect to a key. */
  readonly read: (key: string) => void;
  readonly bump: (key: string) => void;
};

export function createSignals(): Signals {
  const cells = new Map<string, Cell>();
  return {
    read: (key) => {
      let cell = cells.get(key);
      if (!cell) cells.set(key, (cell = new Cell()));
      void cell.version;
    },
    bump: (key) => {
      const cell = cells.get(key);
      if (cell) cell.version++;
    }
  };
}

// Where one is in the version sheet: a cell or a column's head, and the rectangle from there. Rows and columns are counted; −1 is the head.
export type Place = { readonly row: number; readonly column: number };
export type Grid = ReturnType<typeof createGrid>;

/** `rows` and `columns` are how many there are. */
export function createGrid(rows: () => number, columns: () => number) {
  let wanted = $state.raw<Place>({ row: -1, column: 0 });
  let anchor = $state.raw<Place>({ row: -1, column: 0 });
  const within = ({ row, column }: Place): Place => ({
    row: Math.max(-1, Math.min(rows() - 1, row)),
    column: Math.max(0, Math.min(columns() - 1, column))
  });
  const at = $derived(within(wanted));
  const from = $derived(within(anchor));
  const span = (a: number, b: number) => Array.from({ length: Math.abs(a - b) + 1 }, (_, i) => Math.min(a, b) + i);
  // From a head all of a column is meant.
  const whole = $derived(at.row === -1 || from.row === -1);
  return {
    get at() {
      return at;
    },
    get whole() {
      return whole;
    },
    get rows() {
      return whole ? span(0, Math.max(0, rows() - 1)) : span(from.row, at.row);
    },
    get columns() {
      return columns() === 0 ? [] : span(from.column, at.column);
    },
    get large() {
      return whole ? at.column !== from.column : at.row !== from.row || at.column !== from.column;
    },
    has: ({ row, column }: Place): boolean => {
      const [left, right] = [Math.min(at.column, from.column), Math.max(at.column, from.column)];
      if (column < left || column > right) return false;
      return whole || (row >= Math.min(at.row, from.row) && row <= Math.max(at.row, from.row));
    },
    go: (to: Place, extend = false) => {
      wanted = within(to);
      if (!extend) anchor = wanted;
    }
  };
}

// Which rows and columns of a long, wide table are drawn: those on screen, a few around them, and the row that has the focus. Rows
// that leave hand their elements to rows that come: making elements anew is what costs while scrolling.
import { untrack } from 'svelte';
import { get } from 'svelte/store';
import { allot } from './slots';
import { createVirtualizer, defaultRangeExtractor, type Range } from '@tanstack/svelte-virtual';

type Table = {
  readonly element: () => HTMLElement | null;
  readonly items: () => readonly { readonly key: string; readonly height: number }[];
  /** The keys of the columns that scroll sideways. */
  readonly columns: () => readonly string[];
  /** Pixels: the head above the rows; what stands left of the first scrolling column, and what of it stays in view; a column; a row. */
  readonly head: () => number;
  readonly fixed: () => number;
  readonly kept: number;
  readonly column: number;
  readonly row: number;
};
/** A row on screen: which elements draw it (`slot`), which item it is, and its top in pixels from that of the scrolled content. */
export type Drawn = { readonly slot: number; readonly index: number; readonly start: number };
export type DrawnColumn = { readonly slot: number; readonly index: number; readonly id: string };

/** Follows the table while the component that calls this lives. */
export function drawnRows({ element, items, columns, head, fixed, kept, column, row }: Table) {
  const down = createVirtualizer<HTMLElement, HTMLElement>({ count: 0, getScrollElement: () => null, estimateSize: () => row });
  const across = createVirtualizer<HTMLElement, HTMLElement>({ count: 0, getScrollElement: () => null, estimateSize: () => column });
  let rows = $state.raw<readonly Drawn[]>([]);
  let height = $state(0);
  let shown = $state.raw<readonly DrawnColumn[]>([]);
  /** Key → slot. */
  let rowSlots = new Map<string, number>();
  let columnSlots = new Map<string, number>();
  /** Where the focus is: what is being typed must not scroll away with its row, nor with its column. */
  let focusedRow: string | null = null;
  let focusedColumn: string | null = null;
  const held = (own: number | undefined) => (range: Range) => {
    const seen = defaultRangeExtractor(range);
    return own === undefined || own < 0 || seen.includes(own) ? seen : own < seen[0] ? [own, ...seen] : [...seen, own];
  };

  // Subscribed first: a subscription sets the options back to those they were made with.
  $effect(() =>
    down.subscribe((list) => {
      const seen = list.getVirtualItems();
      rowSlots = allot(
        seen.map(({ key }) => String(key)),
        rowSlots
      );
      rows = seen.map(({ key, index, start }) => ({ slot: rowSlots.get(String(key))!, index, start }));
      height = list.getTotalSize();
    })
  );
  $effect(() =>
    across.subscribe((list) => {
      const next = list.getVirtualItems().map(({ key, index }) => ({ id: String(key), index }));
      // Scrolling by less than a column wakes nothing.
      if (untrack(() => shown.length === next.length && shown.every(({ id, index }, i) => id === next[i].id && index === next[i].index)))
        return;
      columnSlots = allot(
        next.map(({ id }) => id),
        columnSlots
      );
      shown = next.map(({ id, index }) => ({ id, index, slot: columnSlots.get(id)! }));
    })
  );
  $effect(() => {
    const list = items();
    const scroller = element();
    const places = new Map(list.map(({ key }, i) => [key, i]));
    untrack(() =>
      get(down).setOptions({
        count: list.length,
        getScrollElement: () => scroller,
        estimateSize: (i) => list[i]?.height ?? row,
        getItemKey: (i) => list[i]?.key ?? i,
        scrollMargin: head(),
        scrollPaddingStart: head(),
        overscan: 3,
        rangeExtractor: (range) => held(focusedRow === null ? undefined : places.get(focusedRow))(range)
      })
    );
    if (!scroller) return;
    const into = ({ target }: FocusEvent) => {
      const element = target as HTMLElement;
      focusedRow = element.closest<HTMLElement>('[data-row]')?.dataset.row ?? null;
      focusedColumn = element.closest<HTMLElement>('[data-cross]')?.dataset.cross?.split(' ')[1] ?? null;
    };
    const out = () => (focusedRow = focusedColumn = null);
    scroller.addEventListener('focusin', into);
    scroller.addEventListener('focusout', out);
    return () => {
      scroller.removeEventListener('focusin', into);
      scroller.removeEventListener('focusout', out);
    };
  });
  $effect(() => {
    const list = columns();
    const scroller = element();
    untrack(() =>
      get(across).setOptions({
        count: list.length,
        horizontal: true,
        getScrollElement: () => scroller,
        estimateSize: () => column,
        getItemKey: (i) => list[i] ?? i,
        rangeExtractor: (range) => held(focusedColumn === null ? undefined : list.indexOf(focusedColumn))(range),
        scrollMargin: fixed(),
        scrollPaddingStart: kept,
        overscan: 1
      })
    );
  });
  return {
    get rows() {
      return rows;
    },
    /** Of all rows together, pixels. */
    get height() {
      return height;
    },
    get columns() {
      return shown;
    },
    showRow: (index: number) => get(down).scrollToIndex(index, { align: 'auto' }),
    showColumn: (index: number) => get(across).scrollToIndex(index, { align: 'auto' })
  };
}

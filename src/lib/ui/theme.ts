// Flowbite's parts in our colours and density: its defaults are loose and grey. Every class that `dark:` would change is named twice,
// since those of the library stay otherwise.
import type { ThemeConfig } from 'flowbite-svelte';

const FIELD =
  'border-line bg-paper text-ink placeholder:text-muted focus:border-kelp focus:ring-1 focus:ring-kelp ' +
  'dark:border-line dark:bg-paper dark:text-ink dark:placeholder:text-muted dark:focus:border-kelp dark:focus:ring-kelp';
/** A button within a line of a list. */
export const tiny = 'h-[20px] px-[7px] text-[11.5px]';
/** A button that is its picture alone. */
export const icon = 'w-[28px] border-transparent! bg-transparent! px-0';

/** 26 px high, as a row has room for. */
const DENSE = 'h-[26px] rounded-[5px] px-2 py-0 text-[13px] leading-none';

export const theme: ThemeConfig = {
  // The alternative button is told by its border: a theme cannot name one of the colours.
  button: {
    base:
      'h-[28px] gap-1.5 rounded-md px-2.5 py-0 text-[13px] font-normal whitespace-nowrap ' +
      '[&.border]:border-line [&.border]:bg-sheet [&.border]:text-ink [&.border]:enabled:hover:border-kelp [&.border]:aria-pressed:border-kelp ' +
      '[&.border]:aria-pressed:text-kelp [a&.border]:hover:border-kelp'
  },
  input: { base: 'w-auto', input: `${FIELD} ${DENSE}` },
  select: { base: 'inline-block w-auto', select: `${FIELD} ${DENSE} pe-1` },
  textarea: { base: FIELD },
  range: 'h-4 w-auto appearance-auto bg-transparent accent-[var(--kelp)] dark:bg-transparent',
  search: { base: 'w-auto', input: `${FIELD} ${DENSE} ps-8`, icon: 'h-3.5 w-3.5 text-muted dark:text-muted' },
  checkbox: {
    base: 'me-1.5 h-3.5 w-3.5 border-muted bg-paper text-kelp accent-[var(--kelp)] focus:ring-kelp dark:border-muted dark:bg-paper',
    div: 'text-[13px] font-normal text-ink dark:text-ink'
  },
  badge: { base: 'rounded px-1.5 py-0 text-[11px] font-medium' },
  tabs: { base: 'flex gap-1 space-x-0', content: 'm-0 rounded-none bg-transparent p-0 dark:bg-transparent', divider: 'hidden' },
  tabItem: {
    button:
      'rounded-md px-3 py-1 text-[13px] text-muted hover:text-ink aria-selected:bg-ink aria-selected:text-paper ' +
      'dark:text-muted dark:hover:text-ink dark:aria-selected:bg-ink dark:aria-selected:text-paper'
  },
  dropdown: 'divide-line rounded-lg border border-line bg-sheet p-1 shadow-xl dark:divide-line dark:bg-sheet',
  dropdownGroup: 'py-0 text-[13px] text-ink dark:text-ink',
  dropdownItem: {
    base: 'flex h-[26px] items-center justify-between gap-4 rounded-[5px] px-2 py-0 hover:bg-picked dark:hover:bg-picked dark:hover:text-ink'
  },
  table: { div: 'overflow-visible', table: 'text-[13px] text-ink dark:text-ink' },
  tableHead: 'border-b border-line bg-transparent text-[11px] uppercase tracking-[0.08em] text-muted dark:bg-transparent dark:text-muted',
  tableHeadCell: 'px-3 py-1.5 font-normal whitespace-nowrap',
  tableBodyRow: 'border-b border-hair bg-transparent hover:bg-picked dark:border-hair dark:bg-transparent dark:hover:bg-picked',
  tableBodyCell: 'h-[34px] px-3 py-0 font-normal whitespace-nowrap'
} as unknown as ThemeConfig;

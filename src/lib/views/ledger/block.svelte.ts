// A rectangle of crosspoints, as in a spreadsheet: extended with Shift and arrows, copied, pasted and filled.
import type { Command } from '$core/commands/index';
import { sendId, type Send, type Session, type Tap } from '$core/session/entities';
import { dbText, parseDb } from '$lib/ui/format';

type Cell = { readonly source: string; readonly target: string };
export type Block = ReturnType<typeof createBlock>;
type SendFields = NonNullable<Extract<Command, { do: 'sends.set' }>['sends']>[number];
const TAPS: readonly Tap[] = ['input', 'pre', 'post'];

/** What a crosspoint is in the clipboard: "−6.0", with its tap where it is not `post`, and "off", "mono", "pan −30". */
export const cellText = (send: Send | undefined): string =>
  send
    ? [
        dbText(send.levelDb),
        ...(send.tap === 'post' ? [] : [send.tap]),
        ...(send.on ? [] : ['off']),
        ...(send.mono ? ['mono'] : []),
        ...(send.pan === null ? [] : [`pan ${send.pan}`])
      ].join(' ')
    : '';

/** The fields that a cell's text means; null where it means nothing, '' an empty crosspoint. */
export function cellFields(text: string): Omit<SendFields, 'source' | 'target'> | null {
  const [first, ...words] = text.trim().split(/\s+/);
  const level = parseDb(first);
  if (level === null) return null;
  const pan = words.indexOf('pan');
  return {
    level,
    tap: TAPS.find((tap) => words.includes(tap)) ?? 'post',
    on: !words.includes('off'),
    mono: words.includes('mono'),
    pan: pan === -1 ? null : Number(words[pan + 1] ?? 0) || 0
  };
}

/** `rows` and `columns` are the ids as they stand on screen. */
export function createBlock(session: Session, rows: () => readonly string[], columns: () => readonly string[]) {
  let anchor = $state.raw<Cell | null>(null);
  let end = $state.raw<Cell | null>(null);
  const span = (list: readonly string[], a: string, b: string) => {
    const [from, to] = [list.indexOf(a), list.indexOf(b)].sort((x, y) => x - y);
    return from < 0 ? [] : list.slice(from, to + 1);
  };
  const sources = $derived(anchor && end ? span(rows(), anchor.source, end.source) : []);
  const targets = $derived(anchor && end ? span(columns(), anchor.target, end.target) : []);
  const inside = $derived({ sources: new Set(sources), targets: new Set(targets), large: sources.length * targets.length > 1 });
  const sends = (id: string, target: string) => {
    const kind = session.channel.get(id)?.kind;
    return id !== target && kind !== 'mix' && kind !== 'cue' && kind !== 'key' && kind !== 'vca';
  };

  return {
    has: (source: string, target: string) => inside.large && inside.sources.has(source) && inside.targets.has(target),
    get large() {
      return inside.large;
    },
    clear: () => (anchor = end = null),
    start: (cell: Cell) => (anchor = end = cell),
    extend: (from: Cell, to: Cell) => {
      anchor ??= from;
      end = to;
    },
    /** All crosspoints in the rectangle that can be. */
    cells: (): Cell[] =>
      sources.flatMap((source) => targets.filter((target) => sends(source, target)).map((target) => ({ source, target }))),
    /** Rows of cells with tabs between, as spreadsheets take them; of one crosspoint where there is no rectangle. */
    text: (at: Cell): string => {
      const [down, across] = inside.large ? [sources, targets] : [[at.source], [at.target]];
      return down.map((source) => across.map((target) => cellText(session.send.get(sendId(source, target)))).join('\t')).join('\n');
    },
    /** The command that puts such text down from `at` on; over the whole rectangle where it is one cell. Null: it holds no level. */
    paste: (text: string, at: Cell): Command[] | null => {
      const table = text
        .replace(/\r?\n$/, '')
        .split(/\r?\n/)
        .map((line) => line.split('\t'));
      const single = table.length === 1 && table[0].length === 1;
      const down = rows().slice(rows().indexOf(inside.large ? sources[0] : at.source));
      const across = columns().slice(columns().indexOf(inside.large ? targets[0] : at.target));
      const list =
        single && inside.large
          ? sources.flatMap((source) => targets.map((target) => [source, target, table[0][0]] as const))
          : table.flatMap((cells, y) => cells.map((cell, x) => [down[y], across[x], cell] as const));
      const set: SendFields[] = [];
      const gone = new Map<string, string[]>();
      for (const [source, target, cell] of list) {
        if (!source || !target || !sends(source, target)) continue;
        const fields = cellFields(cell);
        if (fields) set.push({ source, target, ...fields });
        else if (cell.trim() === '' && session.send.has(sendId(source, target))) gone.set(target, [...(gone.get(target) ?? []), source]);
        else if (cell.trim() !== '') return null;
      }
      return [
        ...(set.length ? [{ do: 'sends.set' as const, sends: set }] : []),
        ...[...gone].map(([target, from]) => ({ do: 'sends.remove' as const, sources: from, target }))
      ];
    }
  };
}

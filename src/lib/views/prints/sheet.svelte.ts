// What is done with the version sheet: cells set, columns filled, made, moved, copied and pasted; and what is strange about a version.
import { v4 as uuid } from 'uuid';
import { silentVersion } from '$core/prints/inPlace';
import { alikes, AS_THE_MIX, onlyStems, withoutStems, type Parts } from '$core/prints/usual';
import { remains } from '$core/prints/words';
import type { Version } from '$core/session/entities';
import type { Desk } from '$lib/state/desk';
import { copyText, textCopied } from '$lib/ui/clipboard';
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import { cellText, freeName, making, parseCell, partsOf, rowsOf, setting, withCell, type Row, type Value } from './cells';
import { createGrid, type Place } from './grid.svelte';

export type Sheet = ReturnType<typeof createSheet>;

/** `focus` puts the keyboard on a place once it is drawn. */
export function createSheet({ store }: Desk, focus: (place: Place) => void) {
  const versions = $derived(store.versions);
  const rows = $derived.by(() => {
    void store.soundness;
    store.watchRows();
    return rowsOf(store.session);
  });
  const stems = $derived(rows.filter(({ kind }) => kind === 'stem'));
  const grid = createGrid(
    () => rows.length,
    () => versions.length
  );
  const notes = $derived.by(() => {
    void store.soundness;
    const same = alikes(store.session);
    return new Map(
      versions.map((version) => {
        const like = same.get(version.id)?.[0];
        const said = silentVersion(store.session, version)
          ? 'Silent: no stem is in.'
          : like && like !== 'the mix'
            ? `The same as ${like}.`
            : '';
        return [version.id, said];
      })
    );
  });
  const left = $derived.by(() => {
    void store.soundness;
    return versions.flatMap((version) => {
      const own = remains(store.session, version);
      return own.length ? [{ version, stems: own }] : [];
    });
  });
  const nameOf = (id: string) => store.channel(id)?.name ?? '';

  const chosenVersions = () => grid.columns.map((column) => versions[column]).filter(Boolean);
  const chosenRows = () => grid.rows.map((row) => rows[row]).filter(Boolean);

  const put = (value: Value, gesture: string | null = null) =>
    store.act(
      chosenVersions().flatMap((version) =>
        setting(
          version,
          chosenRows().reduce((parts, row) => withCell(parts, row, value), partsOf(version))
        )
      ),
      gesture
    );
  const fill = (make: (version: Version) => Partial<Parts>) =>
    store.act(chosenVersions().flatMap((version) => setting(version, { ...partsOf(version), ...make(version) })));

  const add = (after: string | null, wanted: readonly { name: string; parts: Parts }[]) => {
    const list = wanted.map(({ name, parts }) => ({ name: freeName(store.session, name), parts }));
    const place = after === null ? versions.length : versions.findIndex(({ id }) => id === after) + 1;
    store.act(making(store.session, list, after, () => uuid()));
    grid.go({ row: -1, column: place });
    focus(grid.at);
  };
  const remove = () => {
    const ids = chosenVersions().map(({ id }) => id);
    if (ids.length) store.act([{ do: 'versions.remove', ids }]);
    focus(grid.at);
  };
  const move = (by: 1 | -1) => {
    const { columns } = grid;
    const ids = versions.map(({ id }) => id);
    const to = columns[0] + by;
    if (to < 0 || columns.at(-1)! + by >= ids.length) return;
    const taken = ids.splice(columns[0], columns.length);
    ids.splice(to, 0, ...taken);
    store.act([{ do: 'versions.order', ids }]);
    const { at } = grid;
    grid.go({ row: at.row, column: to });
    if (columns.length > 1) grid.go({ row: at.row, column: to + columns.length - 1 }, true);
    focus(grid.at);
  };

  /** What was copied last here: whole versions as they are, and the text that went to the clipboard with them. */
  let copied: { readonly text: string; readonly versions: readonly { name: string; parts: Parts }[] } = { text: '', versions: [] };
  const copy = () => {
    const own = chosenVersions();
    const lines = chosenRows().map((row) => own.map((version) => cellText(store.session, version, row)).join('\t'));
    const text = [...(grid.whole ? [own.map(({ name }) => name).join('\t')] : []), ...lines].join('\n');
    copied = { text, versions: grid.whole ? own.map((version) => ({ name: version.name, parts: partsOf(version) })) : [] };
    void copyText(text);
    store.say(grid.whole ? `Copied: ${own.map(({ name }) => name).join(', ')}` : 'Copied.');
  };
  const paste = () => textCopied(copied.text).then(pasted);
  const pasted = (text: string) => {
    const after = versions[grid.columns.at(-1) ?? -1]?.id ?? null;
    if (copied.versions.length && text === copied.text) return add(after, copied.versions);
    const lines = text
      .replace(/\r?\n$/, '')
      .split(/\r?\n/)
      .map((line) => line.split('\t'));
    const single = lines.length === 1 && lines[0].length === 1;
    const from = { row: grid.rows[0], column: grid.columns[0] };
    const drafts = new Map<Version, Parts>();
    const set = (row: Row | undefined, version: Version | undefined, cell: string) => {
      const value = row && parseCell(cell, row);
      if (!row || !version || value === null || value === undefined) return;
      drafts.set(version, withCell(drafts.get(version) ?? partsOf(version), row, value));
    };
    if (single) for (const version of chosenVersions()) for (const row of chosenRows()) set(row, version, text);
    else lines.forEach((cells, y) => cells.forEach((cell, x) => set(rows[from.row + y], versions[from.column + x], cell)));
    const list = [...drafts].flatMap(([version, parts]) => setting(version, parts));
    if (drafts.size === 0) store.say('What was copied holds nothing for here. Copy cells of this sheet, or “in”, “out” and numbers.');
    else if (list.length) store.act(list);
  };

  const fills = (): MenuEntry[] => {
    const picked = chosenRows().flatMap(({ kind, id }) => (kind === 'stem' ? [id] : []));
    const some = picked.length > 0 && picked.length < stems.length;
    const names = picked.map(nameOf).join(', ');
    const wanted = new Set(picked);
    const none = versions.length === 0;
    return [
      {
        label: some ? `Only ${names}` : 'Only the stems selected',
        off: !some || none,
        run: () => fill(() => ({ stems: onlyStems(store.session, wanted) }))
      },
      {
        label: some ? `Without ${names}` : 'Without the stems selected',
        off: !some || none,
        run: () => fill(() => ({ stems: withoutStems(store.session, wanted) }))
      },
      { label: 'All stems in', off: none, run: () => fill(() => ({ stems: {} })) },
      { label: 'The chain as in the mix', off: none, run: () => fill(() => ({ inserts: {}, fader: true, fades: true })) },
      { label: 'All as in the mix', off: none, run: () => fill(() => AS_THE_MIX) }
    ];
  };

  return {
    grid,
    get versions() {
      return versions;
    },
    get rows() {
      return rows;
    },
    get stems() {
      return stems;
    },
    /** By version, what is strange about it; empty where nothing is. */
    get notes() {
      return notes;
    },
    /** Stems that go on sounding in others in versions that leave them out. */
    get left() {
      return left;
    },
    chosen: chosenVersions,
    put,
    add,
    remove,
    move,
    copy,
    paste,
    fills
  };
}

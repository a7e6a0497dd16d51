<!-- The Roster: taking stock. Every track with its recording, sorted and filtered for looking; batch work on the selection. -->
<script lang="ts">
  import { onMount, tick } from 'svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { COLOUR_NAMES, family } from '$lib/ui/colours';
  import { ROLES } from '$core/session/roles';
  import { inOrder } from '$core/session/select';
  import type { Taken } from '$core/commands/intake';
  import { defaultRules } from '$core/organise/defaultRules';
  import type { RuleBook } from '$core/organise/ruleBook';
  import { waitingTracks } from '$core/organise/pour';
  import { EVERYTHING } from '$core/session/filter';
  import { createAudition } from '$lib/state/audition.svelte';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import { rowKeys, type KeyedCommand } from '../rowKeys';
  import { dragRows } from '../ledger/dragRows';
  import { drawnRows } from '../ledger/drawnRows.svelte';
  import { rosterActions } from './actions';
  import BatchBar from './BatchBar.svelte';
  import BusListDialog from './BusListDialog.svelte';
  import PourDialog from './PourDialog.svelte';
  import RenameDialog from './RenameDialog.svelte';
  import RosterRow from './RosterRow.svelte';
  import { rosterItems, rosterRows, type Column, type Sorting } from './rosterRows';
  import RulesDialog from './RulesDialog.svelte';
  import SheetDialog from './SheetDialog.svelte';
  import SortDialog from './SortDialog.svelte';
  import TemplatesDialog from './TemplatesDialog.svelte';

  const ROW = 30;
  const CAPTION = 32;
  const HEAD = 30;
  const AUDIO = '.wav,.bwf,.aif,.aiff,.aifc,.flac,.ogg,.oga,.opus,.mp3,audio/*';

  const desk = useDesk();
  const { store, selection, importer } = desk;
  const audition = createAudition(store, () => desk.transport);
  let filter = $state({ ...EVERYTHING, kind: 'track' });
  let sorting = $state.raw<Sorting>({ by: 'order', down: false });
  let showHidden = $state(false);
  let body = $state<HTMLElement>();
  let search = $state<HTMLInputElement>();
  let chosen = $state<HTMLInputElement>();
  let poured = $state<HTMLInputElement>();
  let sheetFile = $state<HTMLInputElement>();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let dialog = $state<'rename' | 'sort' | 'sort selected' | 'rules' | 'buses' | 'templates' | null>(null);
  let sheet = $state.raw<{ name: string; text: string } | null>(null);
  let taken = $state.raw<readonly Taken[] | null>(null);
  let book = $state.raw<RuleBook>(defaultRules);
  let dropTarget = $state<string | null>(null);
  let dark = $state(document.documentElement.classList.contains('dark'));
  let keeping = $state<{ number: string; name: string } | null>(null);

  const rows = $derived.by(() => {
    store.watchRows();
    return rosterRows(store.session);
  });
  const items = $derived(rosterItems(store.session, rows, { filter, sorting, hidden: showHidden }));
  const order = $derived(items.flatMap(({ row }) => (row ? [row.channel.id] : [])));
  const hidden = $derived(rows.filter(({ channel }) => channel.hidden).length);
  const waiting = $derived(rows.length ? waitingTracks(store.session).length : 0);
  const sets = $derived([...(rows && store.session.showing.values())].sort((a, b) => a.number - b.number));
  const buses = $derived(rows.flatMap(({ channel }) => (channel.kind === 'track' ? [] : [channel])));
  const narrowed = $derived(Object.entries(filter).some(([field, value]) => value !== (field === 'kind' ? 'track' : '')));
  const drawn = drawnRows({
    element: () => body ?? null,
    items: () => items.map(({ key, divider }) => ({ key, height: divider ? CAPTION : ROW })),
    columns: () => [],
    head: () => HEAD,
    fixed: () => 0,
    kept: 0,
    column: 1,
    row: ROW
  });
  const actions = rosterActions(desk, () => order);

  onMount(() => {
    void ask<{ book: RuleBook }>('GET', '/api/rules').then((answer) => {
      if (answer.ok) book = answer.value.book;
    });
    const themed = new MutationObserver(() => (dark = document.documentElement.classList.contains('dark')));
    themed.observe(document.documentElement, { attributeFilter: ['class'] });
    return () => {
      themed.disconnect();
      audition.stop();
    };
  });

  const COLUMNS: readonly [Column, string, boolean?][] = [
    ['family', ''],
    ['order', 'Order'],
    ['name', 'Name'],
    ['file', 'File'],
    ['role', 'Role'],
    ['length', 'Length', true],
    ['rate', 'kHz', true],
    ['depth', 'Bit', true],
    ['channels', 'Ch', true],
    ['peak', 'Peak', true],
    ['loudness', 'LUFS', true],
    ['to', 'Goes to']
  ];
  const sortBy = (by: Column) => (sorting = { by, down: sorting.by === by ? !sorting.down : false });

  const onselect = (event: MouseEvent, id: string) =>
    selection.click(id, order, { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey });
  const at = (event: MouseEvent) => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    return { x: box.left, y: box.bottom + 2 };
  };
  const onroles = (event: MouseEvent, id: string) => (menu = { ...at(event), entries: actions.roleEntries(selection.around(id)) });
  const onmenu = (event: MouseEvent, id: string) => {
    event.preventDefault();
    if (!selection.has(id)) selection.set([id], id);
    menu = {
      x: event.clientX,
      y: event.clientY,
      entries: [
        { label: 'Rename…', keys: 'F2', run: () => (dialog = 'rename') },
        { label: 'Sort these by rule…', run: () => (dialog = 'sort selected') },
        { label: 'Pair two mono tracks', run: actions.pair },
        { label: 'Split into left and right', run: actions.split },
        { label: 'Hide or show', keys: 'h', run: actions.hide },
        { label: 'Rest or wake', run: actions.rest },
        { label: 'Remove', keys: 'Del', run: actions.remove }
      ]
    };
  };
  const dividerMenu = (event: MouseEvent, id: string, caption: string) => {
    event.preventDefault();
    menu = {
      x: event.clientX,
      y: event.clientY,
      entries: [
        { label: `Rename “${caption}”`, run: () => (editing = id) },
        { label: 'Remove divider', run: () => void store.act([{ do: 'dividers.remove', ids: [id] }]) }
      ]
    };
  };
  let editing = $state<string | null>(null);
  /** A dialog says that it is closed also where another one took its place. */
  const shut = (...names: readonly (typeof dialog)[]) => {
    if (names.includes(dialog)) dialog = null;
  };
  const focused = (input: HTMLInputElement) => {
    input.focus();
    input.select();
  };
  const ongrab = (event: PointerEvent, id: string) => {
    if (sorting.by !== 'order' || sorting.down) return;
    dragRows({
      ids: (one) => selection.around(one),
      bus: () => false,
      hover: (one) => (dropTarget = one),
      drop: (moved, target) => void store.act([{ do: 'channels.move', ids: moved, before: target.id }])
    })(event, id);
  };
  const hooks = { onselect, onmenu, onroles, ongrab };

  const stepTo = async (by: number, extend: boolean) => {
    const place = selection.last ? order.indexOf(selection.last) : -1;
    const id = order[Math.max(0, Math.min(order.length - 1, place + by))];
    if (!id) return;
    selection.set(extend ? [...selection.ids, id] : [id], id);
    drawn.showRow(items.findIndex(({ key }) => key === id));
    await tick();
    body?.querySelector<HTMLElement>(`[data-focus="${CSS.escape(id)}"]`)?.focus();
  };
  const renameOne = () => {
    if (selection.ids.size > 1) dialog = 'rename';
    else if (selection.last)
      body?.querySelector(`[data-focus="${CSS.escape(selection.last)}"]`)?.dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
  };
  const playOne = () => {
    if (audition.id) audition.stop();
    else if (selection.last) void audition.play(selection.last, 0);
  };
  const keepSet = () => {
    if (!keeping?.name.trim()) return;
    const shownAll = !narrowed;
    store.act([
      {
        do: 'showings.save',
        id: crypto.randomUUID(),
        number: Number(keeping.number),
        name: keeping.name.trim(),
        ...(shownAll ? { ids: inOrder(store.session).flatMap(({ id, hidden: gone }) => (gone ? [] : [id])) } : { filter: { ...filter } })
      }
    ]);
    keeping = null;
  };
  const freeNumber = () => String([1, 2, 3, 4, 5, 6, 7, 8, 9].find((n) => !sets.some(({ number }) => number === n)) ?? 9);
  const openSheet = async (file: File | undefined) => {
    if (file) sheet = { name: file.name, text: await file.text() };
    if (sheetFile) sheetFile.value = '';
  };
  const pour = async () => {
    const files = [...(poured?.files ?? [])];
    if (poured) poured.value = '';
    await importer.add(files, {
      then: (recordings) => {
        taken = recordings;
        importer.open = false;
        return true;
      }
    });
  };

  const some = () => selection.ids.size > 0;
  const list: readonly KeyedCommand[] = [
    { title: 'Import audio…', group: 'Session', run: () => chosen?.click() },
    { title: 'Sort all tracks by rule…', group: 'Organise', run: () => (dialog = 'sort') },
    { title: 'Sort selection by rule…', group: 'Organise', run: () => (dialog = 'sort selected'), when: some },
    { title: 'Sorting rules…', group: 'Organise', run: () => (dialog = 'rules') },
    { title: 'Many buses at once…', group: 'Organise', run: () => (dialog = 'buses') },
    { title: 'Templates…', group: 'Organise', run: () => (dialog = 'templates') },
    { title: 'Pour audio into waiting tracks…', group: 'Organise', run: () => poured?.click(), when: () => waiting > 0 },
    { title: 'Track sheet to a file', group: 'Organise', run: () => location.assign(`/api/sessions/${store.id}/sheet`) },
    { title: 'Track sheet from a file…', group: 'Organise', run: () => sheetFile?.click() },
    { title: 'Rename selection…', group: 'Selection', keys: 'F2', key: 'F2', run: renameOne, when: some },
    { title: 'Take off the shared parts of names', group: 'Selection', run: actions.strip, when: () => selection.ids.size > 1 },
    { title: 'Hide or show selection', group: 'Selection', keys: 'h', key: 'h', run: actions.hide, when: some },
    { title: 'Rest or wake selection', group: 'Selection', run: actions.rest, when: some },
    { title: 'Pair two mono tracks', group: 'Selection', run: actions.pair, when: some },
    { title: 'Split into left and right', group: 'Selection', run: actions.split, when: some },
    { title: 'Select all', group: 'Selection', keys: 'Ctrl+A', run: () => selection.set(order, selection.last) },
    {
      title: 'Invert selection',
      group: 'Selection',
      keys: 'i',
      key: 'i',
      run: () =>
        selection.set(
          order.filter((id) => !selection.has(id)),
          selection.last
        )
    },
    {
      title: 'Clear selection',
      group: 'Selection',
      keys: 'Esc',
      key: 'Escape',
      run: () => (audition.id ? audition.stop() : selection.clear())
    },
    { title: 'Remove selection', group: 'Selection', keys: 'Del', key: 'Delete', run: actions.remove, when: some },
    { title: 'Move rows up', group: 'Selection', keys: 'Alt+↑', run: () => actions.moveBy(-1), when: some },
    { title: 'Move rows down', group: 'Selection', keys: 'Alt+↓', run: () => actions.moveBy(1), when: some },
    { title: 'Hear this track alone', group: 'Playing', keys: 'p', key: 'p', run: playOne, when: () => selection.last !== null },
    { title: 'Find rows', group: 'Moving about', keys: '/', key: '/', run: () => search?.focus() },
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => void stepTo(-1, false) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => void stepTo(1, false) },
    { title: 'Show all rows', group: 'Moving about', run: () => void store.act([{ do: 'showings.recall' }]), when: () => hidden > 0 }
  ];
  onMount(() => desk.commands.add(list));
  const onkeydown = rowKeys({
    busy: () => menu !== null || dialog !== null || sheet !== null || taken !== null,
    commands: list,
    moveBy: actions.moveBy,
    extend: (by) => void stepTo(by, true),
    selectAll: () => selection.set(order, selection.last)
  });
</script>

<svelte:window {onkeydown} />

<section class="roster" aria-label="Roster">
  <div class="tools">
    <input
      bind:this={chosen}
      class="sr-only"
      type="file"
      multiple
      accept={AUDIO}
      tabindex="-1"
      aria-label="Audio files to import"
      onchange={() => void importer.add([...(chosen?.files ?? [])]).then(() => chosen && (chosen.value = ''))}
    />
    <input
      bind:this={poured}
      class="sr-only"
      type="file"
      multiple
      accept={AUDIO}
      tabindex="-1"
      aria-label="Audio files to pour"
      onchange={() => void pour()}
    />
    <input
      bind:this={sheetFile}
      class="sr-only"
      type="file"
      accept=".csv,text/csv"
      tabindex="-1"
      aria-label="Track sheet"
      onchange={() => void openSheet(sheetFile?.files?.[0])}
    />
    <button class="plain" onclick={() => chosen?.click()}>Import audio…</button>
    {#if waiting}<button class="plain" onclick={() => poured?.click()}>Pour audio…</button>{/if}
    <button class="plain strong" onclick={() => (dialog = 'sort')}>Sort by rule…</button>
    <button class="plain" onclick={() => (dialog = 'buses')}>Buses…</button>
    <button class="plain" onclick={() => (dialog = 'templates')}>Templates…</button>
    <button
      class="plain"
      onclick={(event) =>
        (menu = {
          ...at(event),
          entries: [
            { label: 'Track sheet to a file', run: () => location.assign(`/api/sessions/${store.id}/sheet`) },
            { label: 'Track sheet from a file…', run: () => sheetFile?.click() },
            { label: 'Sorting rules…', run: () => (dialog = 'rules') }
          ]
        })}>Sheet, rules</button
    >
    <span class="grow"></span>
    <input
      class="field search"
      bind:this={search}
      bind:value={filter.text}
      placeholder="Find: words, peak>-6, length<30"
      aria-label="Find rows by words or figures"
      onkeydown={(event) => event.key === 'Escape' && ((filter.text = ''), event.currentTarget.blur())}
    />
    <select class="field" aria-label="Kind" bind:value={filter.kind}>
      <option value="">all kinds</option><option value="track">tracks</option><option value="bus">buses</option><option value="return"
        >returns</option
      >
    </select>
    <select class="field" aria-label="Role" bind:value={filter.role}>
      <option value="">any role</option><option value="none">no role</option>
      {#each ROLES as { id, word } (id)}<option value={id}>{word}</option>{/each}
    </select>
    <select class="field" aria-label="Family colour" bind:value={filter.family}>
      <option value="">any colour</option>{#each COLOUR_NAMES as name, i (name)}<option value={String(i)}>{name}</option>{/each}
    </select>
    <select class="field to" aria-label="Destination" bind:value={filter.to}>
      <option value="">goes anywhere</option><option value="mix">MIX</option><option value="nowhere">nowhere</option>
      {#each buses as { id, name } (id)}<option value={id}>{name}</option>{/each}
    </select>
  </div>
  <div class="sets">
    <span class="muted">{order.length} of {rows.length} rows</span>
    {#if hidden}
      <label class="muted"><input type="checkbox" bind:checked={showHidden} /> {hidden} hidden</label>
      <button class="quiet" onclick={() => store.act([{ do: 'showings.recall' }])}>show all</button>
    {/if}
    {#if narrowed}<button class="quiet" onclick={() => (filter = { ...EVERYTHING, kind: 'track' })}>clear the filter</button>{/if}
    {#if sorting.by !== 'order'}<button class="quiet" onclick={() => (sorting = { by: 'order', down: false })}
        >back to the session’s order</button
      >{/if}
    <span class="grow"></span>
    {#each sets as set (set.id)}
      <button
        class="set"
        title="{set.filter ? 'Shows what its filter finds' : 'Shows these rows'}. Key {set.number}; right-click to forget."
        onclick={() => store.act([{ do: 'showings.recall', id: set.id }])}
        oncontextmenu={(event) => {
          event.preventDefault();
          menu = {
            x: event.clientX,
            y: event.clientY,
            entries: [{ label: `Forget “${set.name}”`, run: () => void store.act([{ do: 'showings.remove', ids: [set.id] }]) }]
          };
        }}><kbd>{set.number}</kbd>{set.name}</button
      >
    {/each}
    {#if keeping}
      <form
        onsubmit={(event) => {
          event.preventDefault();
          keepSet();
        }}
      >
        <select class="field" aria-label="Number of the set" bind:value={keeping.number}>
          {#each [1, 2, 3, 4, 5, 6, 7, 8, 9] as n (n)}<option value={String(n)}>{n}</option>{/each}
        </select>
        <input class="field" aria-label="Name of the set" placeholder="Name" maxlength="120" bind:value={keeping.name} use:focused />
        <button class="plain">Keep</button>
      </form>
    {/if}
    <button class="quiet" onclick={() => (keeping = keeping ? null : { number: freeNumber(), name: '' })}
      >{keeping ? 'cancel' : narrowed ? 'keep this filter as a set' : 'keep what is shown as a set'}</button
    >
  </div>
  {#if selection.ids.size}<BatchBar {actions} onrename={() => (dialog = 'rename')} onsort={() => (dialog = 'sort selected')} />{/if}
  <div class="scroll" role="grid" aria-label="Tracks in their order" aria-multiselectable="true" tabindex="-1" bind:this={body}>
    <div class="head" role="row">
      {#each COLUMNS as [by, word, right] (by)}
        <span role="columnheader" class:right aria-sort={sorting.by === by ? (sorting.down ? 'descending' : 'ascending') : 'none'}>
          <button
            class:by={sorting.by === by}
            aria-label={by === 'family' ? 'Sort by colour' : undefined}
            title="Sort for looking by {by}; the session’s order stays"
            onclick={() => sortBy(by)}
            >{#if by === 'family'}<span class="hues" style:background="linear-gradient({family(0)}, {family(4)}, {family(8)})"
              ></span>{:else}{word}{/if}{#if sorting.by === by && by !== 'order'}{sorting.down ? ' ↓' : ' ↑'}{/if}</button
          >
        </span>
      {/each}
    </div>
    <div class="rows" role="presentation" style:height="{drawn.height}px">
      {#each drawn.rows as { slot, index, start } (slot)}
        {@const item = items[index]}
        {#if item?.row}
          <RosterRow
            row={item.row}
            top={start - HEAD}
            tab={(selection.last ?? order[0]) === item.key}
            dropping={dropTarget === item.key}
            {dark}
            {audition}
            {hooks}
          />
        {:else if item?.divider}
          {@const divider = item.divider}
          <div
            class="caption caps"
            role="row"
            tabindex="-1"
            style:top="{start - HEAD}px"
            oncontextmenu={(event) => dividerMenu(event, divider.id, divider.caption)}
          >
            <span role="gridcell">
              {#if editing === divider.id}
                <NameEdit
                  value={divider.caption}
                  label="Caption"
                  onname={(caption) => store.act([{ do: 'dividers.set', id: divider.id, caption }])}
                  onclose={() => (editing = null)}
                />
              {:else}<button ondblclick={() => (editing = divider.id)} onclick={(event) => dividerMenu(event, divider.id, divider.caption)}
                  >{divider.caption}</button
                >{/if}
            </span>
          </div>
        {/if}
      {/each}
    </div>
    {#if rows.length === 0}
      <div class="empty">
        <p>Nothing here yet.</p>
        <p class="muted">Drop audio files anywhere on this page, or start from a template and pour audio into it.</p>
        <button class="plain strong" onclick={() => chosen?.click()}>Import audio…</button>
        <button class="plain" onclick={() => (dialog = 'templates')}>Templates…</button>
      </div>
    {:else if order.length === 0}
      <div class="empty">
        <p>No row is like that.</p>
        <button class="plain" onclick={() => (filter = { ...EVERYTHING, kind: '' })}>Clear the filter</button>
      </div>
    {/if}
  </div>
</section>

{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
{#if dialog === 'rename' && actions.ids().length}<RenameDialog ids={actions.ids()} onclose={() => shut('rename')} />{/if}
{#if dialog === 'sort' || dialog === 'sort selected'}
  <SortDialog
    {book}
    ids={dialog === 'sort' ? null : actions.ids()}
    onclose={() => shut('sort', 'sort selected')}
    onrules={() => (dialog = 'rules')}
  />
{/if}
{#if dialog === 'rules'}
  <RulesDialog {book} onclose={() => shut('rules')} onsaved={(next) => ((book = next), (dialog = 'sort'))} />
{/if}
{#if dialog === 'buses'}<BusListDialog onclose={() => shut('buses')} />{/if}
{#if dialog === 'templates'}<TemplatesDialog onclose={() => shut('templates')} />{/if}
{#if sheet}<SheetDialog {...sheet} onclose={() => (sheet = null)} />{/if}
{#if taken}<PourDialog {taken} {book} onclose={() => (taken = null)} />{/if}

<style>
  .roster {
    display: flex;
    flex-direction: column;
    height: 100%;
    --columns: 22px 130px minmax(150px, 1.3fr) minmax(110px, 1fr) 132px 62px 52px 48px 34px 62px 62px minmax(120px, 1fr);
  }
  .tools,
  .sets {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 7px 12px;
  }
  .sets {
    min-height: 32px;
    gap: 12px;
    padding-block: 0 5px;
    border-bottom: 1px solid var(--line);
    font-size: 12px;
  }
  .sets form {
    display: flex;
    gap: 5px;
  }
  .tools select {
    max-width: 108px;
  }
  .search {
    width: 216px;
  }
  .grow {
    flex: 1;
  }
  .muted {
    color: var(--muted);
  }
  .quiet {
    color: var(--kelp);
  }
  .quiet:hover {
    text-decoration: underline;
  }
  .set {
    display: flex;
    align-items: center;
    gap: 5px;
  }
  kbd {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    background: var(--sheet);
    font: 11px var(--font-mono);
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    overscroll-behavior: contain;
  }
  .head {
    position: sticky;
    top: 0;
    z-index: 3;
    display: grid;
    grid-template-columns: var(--columns);
    align-items: center;
    height: 30px;
    border-bottom: 1px solid var(--line);
    background: var(--paper);
    color: var(--muted);
    font-size: 12px;
  }
  .head button {
    white-space: nowrap;
  }
  .head span:last-child {
    padding-left: 14px;
  }
  .head > span:nth-child(3) {
    padding-left: 4px;
  }
  .head > span:nth-child(5) {
    padding-left: 6px;
  }
  .head span:last-child button {
    margin-left: 0;
  }
  .right {
    text-align: right;
  }
  .by {
    color: var(--ink);
    font-weight: 600;
  }
  .hues {
    display: block;
    box-sizing: border-box;
    width: 9px !important;
    height: 15px;
    margin-left: 6px;
    padding: 0 !important;
    border-radius: 3px;
  }
  .rows {
    position: relative;
  }
  .caption {
    position: absolute;
    left: 0;
    display: flex;
    align-items: end;
    width: 100%;
    height: 32px;
    padding: 0 12px 4px 6px;
    border-bottom: 1.5px solid var(--line);
    font-weight: 650;
  }
  .caption button {
    letter-spacing: inherit;
    text-transform: inherit;
  }
  .empty {
    display: grid;
    justify-items: center;
    gap: 10px;
    padding: 90px 20px;
    text-align: center;
  }
  .empty p {
    margin: 0;
  }
</style>

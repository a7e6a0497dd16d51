<!-- The Roster: taking stock. Every track with its recording, sorted and filtered for looking; batch work on the selection. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { onMount, tick } from 'svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { family } from '$lib/ui/colours';
  import type { Taken } from '$core/commands/intake';
  import { defaultRules } from '$core/organise/defaultRules';
  import type { RuleBook } from '$core/organise/ruleBook';
  import { waitingTracks } from '$core/organise/pour';
  import { EVERYTHING } from '$core/session/filter';
  import { createAudition } from '$lib/state/audition.svelte';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';
  import Empty from '$lib/ui/Empty.svelte';
  import FileInput from '$lib/ui/FileInput.svelte';
  import { rowKeys } from '../rowKeys';
  import { dragRows } from '../ledger/dragRows';
  import { drawnRows } from '../ledger/drawnRows.svelte';
  import { rosterActions } from './actions';
  import BatchBar from './BatchBar.svelte';
  import { rosterCommands, type RosterDialog } from './commands';
  import BusListDialog from './BusListDialog.svelte';
  import DividerRow from './DividerRow.svelte';
  import FilterFields from './FilterFields.svelte';
  import PourDialog from './PourDialog.svelte';
  import RenameDialog from './RenameDialog.svelte';
  import RosterRow from './RosterRow.svelte';
  import { rosterItems, rosterRows, type Column, type Sorting } from './rosterRows';
  import RulesDialog from './RulesDialog.svelte';
  import SheetDialog from './SheetDialog.svelte';
  import ShownSets from './ShownSets.svelte';
  import SortDialog from './SortDialog.svelte';
  import TemplatesDialog from './TemplatesDialog.svelte';

  const ROW = 30;
  const CAPTION = 32;
  const HEAD = 30;

  const desk = useDesk();
  const { store, selection, importer } = desk;
  const audition = createAudition(store, () => desk.transport);
  let filter = $state({ ...EVERYTHING, kind: 'track' });
  let sorting = $state.raw<Sorting>({ by: 'order', down: false });
  let showHidden = $state(false);
  let body = $state<HTMLElement>();
  let fields = $state<FilterFields>();
  let audio = $state<FileInput>();
  let poured = $state<FileInput>();
  let sheetFile = $state<FileInput>();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let dialog = $state<RosterDialog | null>(null);
  let sheet = $state.raw<{ name: string; text: string } | null>(null);
  let taken = $state.raw<readonly Taken[] | null>(null);
  let book = $state.raw<RuleBook>(defaultRules);
  let dropTarget = $state<string | null>(null);
  let dark = $state(document.documentElement.classList.contains('dark'));

  const rows = $derived.by(() => {
    store.watchRows();
    return rosterRows(store.session);
  });
  const items = $derived(rosterItems(store.session, rows, { filter, sorting, hidden: showHidden }));
  const order = $derived(items.flatMap(({ row }) => (row ? [row.channel.id] : [])));
  const hidden = $derived(rows.filter(({ channel }) => channel.hidden).length);
  const waiting = $derived(rows.length ? waitingTracks(store.session).length : 0);
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
  /** A dialog says that it is closed also where another one took its place. */
  const shut = (...names: readonly (typeof dialog)[]) => {
    if (names.includes(dialog)) dialog = null;
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
  const pour = (files: File[]) =>
    importer.add(files, {
      then: (recordings) => {
        taken = recordings;
        importer.open = false;
        return true;
      }
    });

  const list = rosterCommands(desk, actions, {
    order: () => order,
    hidden: () => hidden,
    waiting: () => waiting,
    audition,
    open: (name) => (dialog = name),
    choose: (what) => ({ audio, pour: poured, sheet: sheetFile })[what]?.choose(),
    find: () => fields?.focus(),
    stepTo: (by) => void stepTo(by, false),
    rename: renameOne
  });
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
    <FileInput bind:this={audio} label="Audio files to import" onfiles={(files) => void importer.add(files)} />
    <FileInput bind:this={poured} label="Audio files to pour" onfiles={(files) => void pour(files)} />
    <FileInput
      bind:this={sheetFile}
      label="Track sheet"
      accept=".csv,text/csv"
      multiple={false}
      onfiles={([file]) => void file.text().then((text) => (sheet = { name: file.name, text }))}
    />
    <Button color="alternative" onclick={() => audio?.choose()}>Import audio…</Button>
    {#if waiting}<Button color="alternative" onclick={() => poured?.choose()}>Pour audio…</Button>{/if}
    <Button onclick={() => (dialog = 'sort')}>Sort by rule…</Button>
    <Button color="alternative" onclick={() => (dialog = 'buses')}>Buses…</Button>
    <Button color="alternative" onclick={() => (dialog = 'templates')}>Templates…</Button>
    <Button
      color="alternative"
      onclick={(event: MouseEvent) =>
        (menu = {
          ...at(event),
          entries: [
            { label: 'Track sheet to a file', run: () => location.assign(`/api/sessions/${store.id}/sheet`) },
            { label: 'Track sheet from a file…', run: () => sheetFile?.choose() },
            { label: 'Sorting rules…', run: () => (dialog = 'rules') }
          ]
        })}>Sheet, rules</Button
    >
    <span class="grow"></span>
    <FilterFields bind:this={fields} bind:filter />
  </div>
  <ShownSets
    shown={order.length}
    total={rows.length}
    {hidden}
    {narrowed}
    sorted={sorting.by !== 'order'}
    bind:filter
    bind:showHidden
    onunsort={() => (sorting = { by: 'order', down: false })}
    onmenu={(at) => (menu = at)}
  />
  {#if selection.ids.size}<BatchBar {actions} onrename={() => (dialog = 'rename')} onsort={() => (dialog = 'sort selected')} />{/if}
  <div class="scroll" role="grid" aria-label="Tracks in their order" aria-multiselectable="true" tabindex="-1" bind:this={body}>
    <div class="head" role="row">
      {#each COLUMNS as [by, word, right] (by)}
        <span role="columnheader" class:right aria-sort={sorting.by === by ? (sorting.down ? 'descending' : 'ascending') : 'none'}>
          <button
            class:by={sorting.by === by}
            aria-label={by === 'family' ? 'Sort by colour' : undefined}
            data-hint="Sort for looking by {by}; the session’s order stays"
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
        {:else if item?.divider}<DividerRow divider={item.divider} top={start - HEAD} onmenu={(at) => (menu = at)} />
        {/if}
      {/each}
    </div>
    {#if rows.length === 0}
      <Empty says="Nothing here yet." hint="Drop audio files anywhere on this page, or start from a template and pour audio into it.">
        <Button onclick={() => audio?.choose()}>Import audio…</Button>
        <Button color="alternative" onclick={() => (dialog = 'templates')}>Templates…</Button>
      </Empty>
    {:else if order.length === 0}
      <Empty says="No row is like that.">
        <Button color="alternative" onclick={() => (filter = { ...EVERYTHING, kind: '' })}>Clear the filter</Button>
      </Empty>
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
  .tools {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    padding: 7px 12px;
  }
  .grow {
    flex: 1;
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
</style>

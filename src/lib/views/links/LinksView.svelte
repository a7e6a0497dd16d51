<!-- Links: VCAs and link groups as columns over the Ledger's rows; a tick puts a channel in. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { onMount, tick as settled, untrack } from 'svelte';
  import { Badge, Button } from 'flowbite-svelte';
  import Empty from '$lib/ui/Empty.svelte';
  import { dbText } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import { rowKeys, type KeyedCommand } from '../rowKeys';
  import { ledgerActions } from '../ledger/actions';
  import Asking from '../ledger/Asking.svelte';
  import type { Asked } from '../ledger/asked';
  import { drawnRows } from '../ledger/drawnRows.svelte';
  import Pickers, { type Picking } from '../ledger/Pickers.svelte';
  import { pinnedLine, sectionsOf } from '../ledger/rows';
  import { COLUMN, FIXED, tick, tickOf } from './columns';
  import LinkSheet from './LinkSheet.svelte';
  import LinksHead from './LinksHead.svelte';
  import LinksRow from './LinksRow.svelte';
  import VcaSheet from './VcaSheet.svelte';

  const ROW = 28;
  const HEAD = 128;
  const desk = useDesk();
  const { store, selection, folding, linking } = desk;
  const actions = ledgerActions(desk);
  let body = $state<HTMLElement>();
  let picking = $state.raw<Picking | null>(null);
  let asked = $state.raw<Asked | null>(null);
  let wanted = $state<string | null>(null);

  const vcas = $derived(store.vcas.map(({ id }) => id));
  const groups = $derived([...vcas, ...store.links.map(({ id }) => id)]);
  const chosen = $derived(wanted !== null && groups.includes(wanted) ? wanted : (groups[0] ?? null));
  const link = $derived(store.links.find(({ id }) => id === chosen));
  const vca = $derived(chosen !== null && vcas.includes(chosen) ? store.channel(chosen) : undefined);
  const lines = $derived([...vcas.map(pinnedLine), ...sectionsOf(store.tree, folding.ids).flatMap(({ lines: each }) => each)]);
  const order = $derived(lines.map(({ id }) => id));
  const drawn = drawnRows({
    element: () => body ?? null,
    items: () => lines.map(({ id }) => ({ key: id, height: ROW })),
    columns: () => groups,
    head: () => HEAD,
    fixed: () => FIXED,
    kept: FIXED,
    column: COLUMN,
    row: ROW
  });

  type Cell = { readonly row: string; readonly group: string };
  const cellOf = (target: EventTarget | null): Cell | null => {
    const cross = (target as Element | null)?.closest<HTMLElement>('[data-cross]')?.dataset.cross?.split(' ');
    return cross ? { row: cross[0], group: cross[1] } : null;
  };
  /** A stretch of ticks being painted: what it makes of each cell it comes over, as one undo entry. */
  let painting: { readonly into: boolean; readonly gesture: string; readonly done: Set<string> } | null = null;
  const paint = ({ row, group }: Cell, rows: readonly string[] = [row]) => {
    if (!painting) return;
    const { into, gesture, done } = painting;
    const now = rows.filter((id) => !done.has(`${id} ${group}`) && tickOf(store.session, id, group) === (into ? 'out' : 'in'));
    for (const id of rows) done.add(`${id} ${group}`);
    if (now.length) store.act([tick(store.session, now, group, into)], gesture);
  };
  const begin = (cell: Cell) => {
    const is = tickOf(store.session, cell.row, cell.group);
    if (is === 'cannot') return;
    painting = { into: is === 'out', gesture: uuid(), done: new Set() };
    paint(cell);
  };
  const onpointerdown = (event: PointerEvent) => {
    const cell = cellOf(event.target);
    if (!cell || event.button !== 0) return;
    (event.target as Element).closest<HTMLElement>('[data-cross]')!.focus({ preventScroll: true });
    event.preventDefault();
    if (event.pointerType !== 'mouse') (event.target as Element).releasePointerCapture(event.pointerId);
    wanted = cell.group;
    begin(cell);
  };
  const onpointerover = (event: PointerEvent) => {
    const cell = painting && cellOf(event.target);
    if (cell) paint(cell);
  };

  const STEPS: Record<string, readonly [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  async function go({ row, group }: Cell, [dx, dy]: readonly [number, number]) {
    const to = Math.max(0, Math.min(order.length - 1, order.indexOf(row) + dy));
    const column = Math.max(0, Math.min(groups.length - 1, groups.indexOf(group) + dx));
    const focus = () =>
      body
        ?.querySelector<HTMLElement>(`[data-cross="${CSS.escape(order[to])} ${CSS.escape(groups[column])}"]`)
        ?.focus({ preventScroll: true });
    focus();
    drawn.showRow(to);
    drawn.showColumn(column);
    await settled();
    requestAnimationFrame(focus);
  }
  /** In the grid: arrows go from cell to cell, with Shift they take the tick along, Space turns it, in all selected rows if this is one. */
  const incells = (event: KeyboardEvent) => {
    const cell = cellOf(event.target);
    if (!cell || event.ctrlKey || event.metaKey || event.altKey) return;
    const step = STEPS[event.key];
    if (step) void go(cell, step);
    else if (event.key === ' ') {
      begin(cell);
      paint(cell, selection.around(cell.row));
      painting = null;
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  /** From the rows into the grid. */
  const enter = () => {
    const row = selection.last && order.includes(selection.last) ? selection.last : order[0];
    if (row && groups.length) void go({ row, group: chosen ?? groups[0] }, [0, 0]);
  };
  const stepTo = (by: number, extend: boolean) => {
    const at = selection.last ? order.indexOf(selection.last) : -1;
    const index = Math.max(0, Math.min(order.length - 1, at + by));
    const id = order[index];
    if (!id) return;
    selection.set(extend ? [...selection.ids, id] : [id], id);
    drawn.showRow(index);
  };
  const some = () => selection.ids.size > 0;
  const ids = () => [...selection.ids];
  const name = (what: 'vca' | 'link') => (picking = { kind: 'name', what });
  const remove = () => {
    if (!vca) return;
    if (actions.offsets(vca.id)) asked = { kind: 'fold', ids: [vca.id], vcas: [vca.id] };
    else store.act([{ do: 'vcas.remove', ids: [vca.id], fold: true }]);
  };
  const list: readonly KeyedCommand[] = [
    { title: 'New VCA over selection…', group: 'Links', keys: 'c', key: 'c', run: () => name('vca') },
    { title: 'New link group from selection…', group: 'Links', keys: 'k', key: 'k', run: () => name('link') },
    { title: 'Into the grid', group: 'Moving about', keys: 'Enter', key: 'Enter', run: enter },
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => stepTo(-1, false) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => stepTo(1, false) },
    { title: 'Mute', group: 'Levels', keys: 'm', key: 'm', run: () => actions.toggle('mute', ids()), when: some },
    { title: 'Solo', group: 'Levels', keys: 's', key: 's', run: () => actions.toggle('solo', ids()), when: some },
    { title: 'Clear selection', group: 'Selection', keys: 'Esc', key: 'Escape', run: () => selection.clear() },
    { title: 'Select all', group: 'Selection', keys: 'Ctrl+A', run: () => selection.set(order.slice(vcas.length), selection.last) }
  ];
  onMount(() => desk.commands.add(list));
  const onkeydown = rowKeys({
    busy: () => picking !== null || asked !== null,
    commands: list,
    moveBy: () => undefined,
    extend: (by) => stepTo(by, true),
    selectAll: () => selection.set(order.slice(vcas.length), selection.last)
  });
  /** What was made last is shown. */
  let known: ReadonlySet<string> | null = null;
  $effect(() => {
    const now = new Set(groups);
    const made = known && groups.find((id) => !known!.has(id));
    known = now;
    if (made) untrack(() => (wanted = made));
  });
  const close = () => (picking = null);
  const SWITCHES = [
    ['mute', 'Muted', 'Mute'],
    ['solo', 'Soloed', 'Solo']
  ] as const;
</script>

<svelte:window {onkeydown} onpointerup={() => (painting = null)} onpointercancel={() => (painting = null)} />

<div class="links">
  <section class="main" aria-label="Links">
    <div class="tools">
      <Button color="alternative" data-hint="Over the selected channels (c)" onclick={() => name('vca')}>New VCA from selection</Button>
      <Button color="alternative" data-hint="Of the selected channels (k)" onclick={() => name('link')}>New link group</Button>
      <Button
        color="alternative"
        disabled={!store.links.length}
        aria-pressed={store.settings.linksPaused}
        data-hint="Pause all link groups, or take them up again (l)"
        onclick={() => store.act([{ do: 'links.pause', on: !store.settings.linksPaused }])}
        >{store.settings.linksPaused ? 'Take up' : 'Pause all'}</Button
      >
      <span class="grow"></span>
      <span class="hint">
        {#if linking.count}Shaded: the {linking.count} that would move with it.{:else}Hold <kbd>n</kbd> to move one alone.{/if}
      </span>
    </div>
    {#if groups.length}
      <div
        class="scroll"
        role="treegrid"
        tabindex="-1"
        aria-label="Channels by VCAs and link groups"
        aria-multiselectable="true"
        bind:this={body}
        {onpointerdown}
        {onpointerover}
        onkeydown={incells}
      >
        <div class="top" role="presentation" style:width="max(100%, {FIXED + groups.length * COLUMN + 8}px)">
          <LinksHead columns={drawn.columns} rows={lines.length - vcas.length} {chosen} {actions} onchoose={(id) => (wanted = id)} />
        </div>
        <div
          class="rows"
          role="presentation"
          style:height="{drawn.height}px"
          style:width="max(100%, {FIXED + groups.length * COLUMN + 8}px)"
        >
          {#each drawn.rows as { slot, index, start } (slot)}
            {@const line = lines[index]}
            {#if line}<LinksRow {line} top={start - HEAD} columns={drawn.columns} {order} {actions} {chosen} />{/if}
          {/each}
        </div>
      </div>
    {:else}
      <Empty
        says="No VCAs and no link groups yet."
        hint="A VCA is a fader over many faders: what it holds goes up and down with it, and so do sends behind their faders. A link group moves its members’ values together. Select channels in the Ledger or the Roster first, if you like."
      >
        <Button onclick={() => name('vca')}>New VCA from selection</Button>
        <Button color="alternative" onclick={() => name('link')}>New link group</Button>
      </Empty>
    {/if}
  </section>
  <aside aria-label="Group">
    {#if link}
      {#key link.id}<LinkSheet {link} />{/key}
    {:else if vca}
      <header>
        <Badge class="badge vca">VCA</Badge>
        <h2>{vca.name}</h2>
        <span class="num">{dbText(desk.now.fader(vca.id) ?? vca.faderDb)}</span>
      </header>
      <div class="switches">
        {#each SWITCHES as [what, on, off] (what)}
          <Button
            color="alternative"
            class={vca[what] ? 'border-ink! bg-ink! text-paper!' : ''}
            data-moves={what}
            data-of={vca.id}
            aria-pressed={vca[what]}
            onclick={() => actions.toggle(what, [vca.id])}>{vca[what] ? on : off}</Button
          >
        {/each}
      </div>
      <VcaSheet {vca} />
      <div class="end"><Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={remove}>Remove VCA…</Button></div>
    {:else}
      <p class="hint">What is made here is shown here: what it holds or links, and how.</p>
    {/if}
  </aside>
</div>

{#if picking}<Pickers {picking} {actions} onclose={close} onfind={close} />{/if}
{#if asked}<Asking {asked} {actions} onclose={() => (asked = null)} />{/if}

<style>
  .links {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr) 300px;
    height: 100%;
  }
  .main {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
  }
  .tools {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 7px 12px;
    border-bottom: 1px solid var(--line);
  }
  .grow {
    flex: 1;
  }
  .hint {
    color: var(--muted);
    font-size: 12.5px;
  }
  .scroll {
    overflow: auto;
    overscroll-behavior: contain;
    outline: none;
  }
  .top {
    position: sticky;
    top: 0;
    z-index: 3;
  }
  .rows {
    position: relative;
    user-select: none;
  }
  aside {
    overflow: auto;
    padding: 14px 14px 20px;
    border-left: 1px solid var(--line);
    background: var(--sheet);
  }
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  h2 {
    flex: 1;
    margin: 0;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .switches {
    display: flex;
    gap: 6px;
    margin: 12px 0 4px;
  }
  .end {
    margin-top: 16px;
  }
  kbd {
    padding: 0 4px;
    border: 1px solid var(--line);
    border-radius: 3px;
    font: 11px var(--font-mono);
  }
</style>

<!-- The Ledger: the routing as a tree table, levels beside it, one column per return and cue. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { onMount, tick } from 'svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import Empty from '$lib/ui/Empty.svelte';
  import FileInput from '$lib/ui/FileInput.svelte';
  import { copyText, textCopied } from '$lib/ui/clipboard';
  import { useDesk } from '$lib/state/desk';
  import { ledgerActions } from './actions';
  import { sounds } from '$core/session/vcas';
  import { rowKeys } from '../rowKeys';
  import { drawArrivals } from './arrivals';
  import type { Asked, Naming } from './asked';
  import Asking from './Asking.svelte';
  import { createBlock } from './block.svelte';
  import { ledgerCommands } from './commands';
  import LedgerHead, { COLUMN } from './LedgerHead.svelte';
  import LedgerRow from './LedgerRow.svelte';
  import { dragRows } from './dragRows';
  import { columnMenu, crossMenu, rowMenu } from './menus';
  import Pickers, { type Picking } from './Pickers.svelte';
  import { dividersAbove, pinnedLine, sectionsOf } from './rows';
  import { drawnRows } from './drawnRows.svelte';
  import SideSheet from './SideSheet.svelte';
  import SoloState from './SoloState.svelte';

  const ROW = 30;
  const CAPTION = 36;
  const CAPTIONED = 22;
  const HEAD = 74;
  /** Widths of the columns that every row has, of the name, which stays where it is, and of an opened column's lane. */
  const FIXED = 638;
  const NAME = 220;
  const LANE = 190;

  const desk = useDesk();
  const { store, selection, importer, transport, folding } = desk;
  const actions = ledgerActions(desk);
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let picking = $state.raw<Picking | null>(null);
  let asked = $state.raw<Asked | null>(null);
  let opened = $state<string | null>(null);
  let dropTarget = $state<string | null>(null);
  let sheet = $state(localStorage.getItem('side sheet') !== 'closed');
  let audio = $state<FileInput>();
  let body = $state<HTMLElement>();

  const sections = $derived(sectionsOf(store.tree, folding.ids));
  const hidden = $derived(store.channels.filter((channel) => channel.hidden).length);
  const vcas = $derived(store.vcas.filter(({ hidden: left }) => !left).map(({ id }) => id));
  let vcasOpen = $state(localStorage.getItem('VCA rows') !== 'closed');
  const openVcas = (open: boolean) => {
    vcasOpen = open;
    localStorage.setItem('VCA rows', open ? 'open' : 'closed');
  };
  const shownVcas = $derived(vcasOpen ? vcas : []);
  const order = $derived([...shownVcas, ...sections.flatMap(({ lines }) => lines.map(({ id }) => id))]);
  const returns = $derived(store.columns.map(({ id }) => id));
  const lane = $derived(opened !== null && returns.includes(opened) ? opened : null);
  const fixed = $derived(FIXED + (lane ? LANE : 0));
  const columns = $derived(
    `minmax(220px, 1fr) minmax(204px, 1.4fr) 54px 80px 80px ${lane ? `${LANE}px ` : ''}${returns.length * COLUMN}px 8px`
  );
  /** What is always in view: VCAs, under their caption, then pinned rows. */
  const pinned = $derived([...shownVcas, ...store.pinned.filter(sounds).map(({ id }) => id)]);
  const captioned = $derived(vcas.length ? CAPTIONED : 0);
  const dividers = $derived.by(() => {
    void store.tree;
    return dividersAbove(store.session, order);
  });
  /** Captions and rows one after another; only those on screen, and a few around them, are drawn. */
  const items = $derived(
    sections.flatMap(({ key, caption, lines }) => [
      ...(caption ? [{ key, caption, line: null }] : []),
      ...lines.flatMap((line) => [
        ...(dividers.get(line.id) ?? []).map(({ id, caption: text }) => ({ key: `divider ${id}`, caption: text, line: null })),
        { key: line.id, caption: '', line }
      ])
    ])
  );
  const above = $derived(HEAD + captioned + pinned.length * ROW);
  const drawn = drawnRows({
    element: () => body ?? null,
    items: () => items.map(({ key, caption }) => ({ key, height: caption ? CAPTION : ROW })),
    columns: () => returns,
    head: () => above,
    fixed: () => fixed,
    kept: NAME,
    column: COLUMN,
    row: ROW
  });
  const block = createBlock(
    store.session,
    () => order,
    () => returns
  );
  const crossing = $derived({ count: returns.length, columns: drawn.columns, block, onmove, onmenu: oncrossmenu, onclip });
  const total = $derived(store.channels.length);

  const fold = folding.turn;
  const ids = () => [...selection.ids];

  const askRemoval = () => {
    const going = ids().filter((id) => store.session.channel.get(id)?.kind !== 'mix');
    const orphans = actions.orphans(going).map(({ id }) => id);
    const heard = going.filter((id) => actions.offsets(id));
    if (heard.length) return void (asked = { kind: 'fold', ids: going, vcas: heard });
    if (orphans.length) asked = { kind: 'remove', ids: going, orphans };
    else actions.remove(ids());
  };
  const rename = () => {
    const id = selection.last;
    if (id) body?.querySelector(`[data-focus="${CSS.escape(id)}"]`)?.dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
  };
  const name = (what: Naming) => (picking = { kind: 'name', what });
  const pick = (what: 'route' | 'send' | 'find' | 'copyInsert' | 'intoVca' | 'intoLink') => (picking = { kind: what });
  const ask = (what: Asked) => (asked = what);

  const onmenu = (event: MouseEvent, id: string) => {
    event.preventDefault();
    if (!selection.has(id)) selection.set([id], id);
    menu = { x: event.clientX, y: event.clientY, entries: rowMenu(desk, actions, { pick, name, ask, rename, askRemoval }, id) };
  };
  /** The crosspoints that a command on one acts on: the rectangle it is in, else its column in the selected rows. */
  const cellsAt = (source: string, target: string) => {
    if (block.has(source, target)) return block.cells();
    return selection
      .around(source)
      .filter((id) => id !== target && !['mix', 'cue', 'key', 'vca'].includes(store.session.channel.get(id)?.kind ?? ''))
      .map((id) => ({ source: id, target }));
  };
  function onclip(what: 'copy' | 'paste', source: string, target: string) {
    if (what === 'copy') {
      const text = block.text({ source, target });
      clip = text;
      void copyText(text);
      return;
    }
    const put = (text: string) => {
      const list = block.paste(text, { source, target });
      if (list?.length) store.act(list);
      else store.say('What was copied holds no levels. Copy crosspoints, or numbers from a spreadsheet.');
    };
    void textCopied(clip).then(put);
  }
  let clip = '';
  function oncrossmenu(event: MouseEvent, source: string, target: string) {
    event.preventDefault();
    event.stopPropagation();
    const at = { source, target };
    const hands = { copy: () => onclip('copy', source, target), paste: () => onclip('paste', source, target), level: () => undefined };
    menu = { x: event.clientX, y: event.clientY, entries: crossMenu(desk, actions, cellsAt(source, target), at, hands) };
  }
  const oncolumnmenu = (id: string, at: { x: number; y: number }) => {
    const hands = { ask, opened: lane === id, open: () => (opened = lane === id ? null : id) };
    menu = { ...at, entries: columnMenu(desk, actions, id, hands) };
  };
  const newMenu = (event: MouseEvent & { currentTarget: HTMLElement }) => {
    const box = event.currentTarget.getBoundingClientRect();
    menu = {
      x: box.left,
      y: box.bottom + 4,
      entries: [
        { label: 'Bus from selection…', keys: 'b', run: () => name('bus') },
        { label: 'Return…', run: () => name('return') },
        { label: 'Parallel return from selection…', run: () => name('parallel'), off: selection.ids.size === 0 },
        { label: 'Cue…', run: () => ask({ kind: 'cue' }) },
        { label: 'Click for players…', run: () => name('click') },
        { label: 'Key track…', run: () => name('key') },
        { label: 'VCA over selection…', run: () => name('vca') },
        { label: 'Link group from selection…', run: () => name('link'), off: selection.ids.size === 0 },
        { label: 'Stage of the mix chain…', run: () => name('stage') }
      ]
    };
  };
  const ongrab = dragRows({
    ids: (id) => selection.around(id),
    bus: (id) => ['bus', 'mix', 'return', 'vca'].includes(store.session.channel.get(id)?.kind ?? ''),
    hover: (id) => (dropTarget = id),
    drop: (moved, target) => {
      const onto = store.session.channel.get(target.id)!.kind;
      if (onto === 'vca') {
        // Among VCAs the upper edge puts one before another; otherwise it takes in what is dropped on it.
        const vcasOnly = moved.every((id) => store.session.channel.get(id)?.kind === 'vca');
        if (vcasOnly && !target.into) store.act([{ do: 'channels.move', ids: moved, before: target.id }]);
        else actions.intoVca(target.id, moved);
      } else if (target.into) actions.route(moved, target.id);
      else {
        const { outputId, outputPair } = store.session.channel.get(target.id)!;
        store.act([
          { do: 'channels.move', ids: moved, before: target.id },
          ...(moved.some((id) => store.session.channel.get(id)?.outputId !== outputId)
            ? ([{ do: 'channels.route', ids: moved, to: outputId, pair: outputPair }] as const)
            : [])
        ]);
      }
    }
  });

  const reveal = (id: string) => {
    const index = items.findIndex(({ line }) => line?.id === id);
    if (index >= 0) drawn.showRow(index);
  };
  /** What was made is seen: its row may lie far down, with all that goes nowhere. */
  const picked = () => {
    const made = picking?.kind === 'name';
    picking = null;
    if (made) void tick().then(() => selection.last && reveal(selection.last));
  };
  /** From one crosspoint to another, as in a spreadsheet: by so many columns and rows, over rows that have none. */
  async function onmove(source: string, target: string, dx: number, dy: number, extend = false) {
    const column = Math.max(0, Math.min(returns.length - 1, returns.indexOf(target) + dx));
    let row = order.indexOf(source) + dy;
    const free = (id: string | undefined) => id !== undefined && id !== returns[column] && store.session.channel.get(id)?.kind !== 'mix';
    while (row >= 0 && row < order.length && !free(order[row])) row += dy || 1;
    if (!free(order[row])) return;
    if (extend) block.extend({ source, target }, { source: order[row], target: returns[column] });
    else block.clear();
    const focus = () => {
      const cell = body?.querySelector<HTMLElement>(`[data-cross="${CSS.escape(order[row])} ${CSS.escape(returns[column])}"]`);
      if (!cell?.contains(document.activeElement) || document.activeElement === cell)
        (cell?.querySelector<HTMLElement>('button.num') ?? cell)?.focus({ preventScroll: true });
    };
    // Where it is drawn already the focus goes there at once: keys may come faster than frames.
    focus();
    reveal(order[row]);
    drawn.showColumn(column);
    await tick();
    requestAnimationFrame(focus);
  }

  const focusRow = async (id: string) => {
    reveal(id);
    // A row far away is drawn some frames later.
    for (let frames = 0; frames < 20; frames++) {
      await tick();
      const label = body?.querySelector<HTMLElement>(`:is(.rows, .pins) [data-focus="${CSS.escape(id)}"]`);
      if (label) return label.focus();
      await new Promise(requestAnimationFrame);
    }
  };
  const jump = async (id: string) => {
    // What is folded away is unfolded on the way.
    const path = new Set<string>();
    for (let at = store.session.channel.get(id)?.outputId ?? null; at; at = store.session.channel.get(at)?.outputId ?? null) path.add(at);
    folding.open(path);
    if (store.session.channel.get(id)?.hidden) store.say(`${store.session.channel.get(id)!.name} is hidden. Show it in the Roster.`);
    if (store.session.channel.get(id)?.kind === 'vca') openVcas(true);
    selection.set([id], id);
    await tick();
    await focusRow(id);
  };
  const stepTo = (by: number, extend: boolean) => {
    const at = selection.last ? order.indexOf(selection.last) : -1;
    const id = order[Math.max(0, Math.min(order.length - 1, at + by))];
    if (!id) return;
    if (extend) selection.set([...selection.ids, id], id);
    else selection.set([id], id);
    void focusRow(id);
  };

  const toggleSheet = () => {
    sheet = !sheet;
    localStorage.setItem('side sheet', sheet ? 'open' : 'closed');
  };
  const { list, moveBy } = ledgerCommands(desk, actions, {
    importFiles: () => audio?.choose(),
    pick,
    name,
    ask,
    order: () => order.slice(shownVcas.length),
    folded: folding.has,
    fold,
    stepTo,
    toggleSheet,
    rename: () => rename(),
    askRemoval: () => askRemoval()
  });
  onMount(() => desk.commands.add(list));
  onMount(() => drawArrivals(store.session, transport));
  onMount(() => {
    // Another view may have asked for a row: it is brought into view.
    if (selection.last) void focusRow(selection.last);
  });
  const onkeydown = rowKeys({
    busy: () => menu !== null || picking !== null || asked !== null,
    commands: list,
    moveBy,
    extend: (by) => stepTo(by, true),
    // VCAs apart: with what they hold they would do everything twice.
    selectAll: () => selection.set(order.slice(shownVcas.length), selection.last)
  });
</script>

<svelte:window {onkeydown} />

<div class="ledger" class:wide={!sheet}>
  <section class="main" aria-label="Ledger">
    <div class="tools">
      <FileInput bind:this={audio} label="Audio files to import" onfiles={(files) => void importer.add(files)} />
      <Button color="alternative" onclick={() => audio?.choose()}>Import audio…</Button>
      <span class="gap"></span>
      <Button
        color="alternative"
        onclick={() => name('bus')}
        data-hint="{selection.ids.size ? 'From the selection' : 'With nothing in it yet'} (b)">New bus</Button
      >
      <Button color="alternative" onclick={() => name('return')}>New return</Button>
      <Button color="alternative" aria-haspopup="menu" onclick={newMenu}>New…</Button>
      <Button
        color="alternative"
        disabled={!selection.ids.size}
        onclick={() => pick('route')}
        data-hint="The selection, into a bus or nowhere (r)">Route…</Button
      >
      <Button
        color="alternative"
        disabled={!selection.ids.size}
        onclick={() => pick('send')}
        data-hint="The selection, to a return or a cue (e)">Send to…</Button
      >
      <Button color="alternative" disabled={!selection.ids.size} onclick={askRemoval}>Remove</Button>
      <span class="grow"></span>
      {#if hidden}<Button color="alternative" data-hint="Show them again" onclick={() => store.act([{ do: 'showings.recall' }])}
          >{hidden} hidden</Button
        >{/if}
      <span class="muted chosen">{selection.ids.size > 1 ? `${selection.ids.size} selected` : ''}</span>
      <SoloState />
      <Button color="alternative" aria-pressed={sheet} data-hint="Show or hide the side sheet (v)" onclick={toggleSheet}>Sheet</Button>
    </div>
    <div
      class="scroll"
      role="treegrid"
      aria-label="Channels by where they go"
      aria-multiselectable="true"
      bind:this={body}
      style:--columns={columns}
      style:--whole="{fixed + returns.length * COLUMN + 8}px"
    >
      <div class="top" role="presentation">
        <LedgerHead columns={drawn.columns} count={returns.length} {lane} onlane={(id) => (opened = id)} onmenu={oncolumnmenu} />
        {#if captioned}
          <div class="vcas caps" role="row">
            <span role="rowheader"
              ><button
                aria-expanded={vcasOpen}
                data-hint="{vcasOpen ? 'Fold' : 'Unfold'} the rows of VCAs"
                onclick={() => openVcas(!vcasOpen)}>{vcasOpen ? '▾' : '▸'} VCAs · {vcas.length}</button
              ></span
            >
          </div>
        {/if}
        {#if pinned.length}
          <div class="pins" role="presentation" style:height="{pinned.length * ROW}px">
            {#each pinned as id, i (id)}
              <LedgerRow
                line={pinnedLine(id)}
                top={i * ROW}
                {lane}
                {crossing}
                {order}
                {actions}
                dropping={dropTarget === id}
                onfold={fold}
                {onmenu}
                {ongrab}
              />
            {/each}
          </div>
        {/if}
      </div>
      <div class="rows" role="presentation" style:height="{drawn.height}px">
        {#each drawn.rows as { slot, index, start } (slot)}
          {@const item = items[index]}
          {#if item?.line}
            <LedgerRow
              line={item.line}
              top={start - above}
              {lane}
              {crossing}
              {order}
              {actions}
              dropping={dropTarget === item.line.id}
              onfold={fold}
              {onmenu}
              {ongrab}
            />
          {:else if item}
            <div class="caption caps" role="row" style:top="{start - above}px">
              <span role="rowheader">{item.caption}</span>
            </div>
          {/if}
        {/each}
      </div>
      {#if total === 1}
        <Empty
          says="Nothing here yet."
          hint="Drop audio files anywhere on this page, or choose them: WAV, AIFF, FLAC, Ogg or MP3. They become tracks going to the mix bus."
        >
          <Button onclick={() => audio?.choose()}>Import audio…</Button>
        </Empty>
      {/if}
    </div>
  </section>
  {#if sheet}<SideSheet {actions} oncopy={(id) => (picking = { kind: 'copyInsert', insert: id })} />{/if}
</div>

{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
{#if picking}<Pickers {picking} {actions} onclose={picked} onfind={(id) => void jump(id)} />{/if}
{#if asked}<Asking {asked} {actions} onclose={() => (asked = null)} />{/if}

<style>
  .ledger {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr) 296px;
    height: 100%;
  }
  .wide {
    grid-template-columns: minmax(0, 1fr);
  }
  .main {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
  }
  .tools {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    padding: 7px 12px;
    border-bottom: 1px solid var(--line);
  }
  .gap {
    width: 10px;
  }
  .grow {
    flex: 1;
  }
  .muted {
    color: var(--muted);
  }
  .chosen {
    white-space: nowrap;
  }
  .rows {
    position: relative;
    width: max(100%, var(--whole));
  }
  .scroll {
    overflow: auto;
    overscroll-behavior: contain;
  }
  .top {
    position: sticky;
    top: 0;
    z-index: 3;
    width: max(100%, var(--whole));
  }
  .pins {
    position: relative;
    border-bottom: 2px solid var(--line);
  }
  .vcas {
    display: flex;
    align-items: end;
    height: 22px;
    padding: 0 12px 2px;
    border-bottom: 1px solid var(--hair);
    background: var(--paper);
  }
  .vcas span {
    position: sticky;
    left: 12px;
  }
  .vcas button {
    font: inherit;
    letter-spacing: inherit;
  }
  .caption {
    position: absolute;
    top: 0;
    width: 100%;
    height: 36px;
    padding: 14px 12px 5px;
    border-bottom: 1px solid var(--hair);
  }
</style>

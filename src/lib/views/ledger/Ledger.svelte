<!-- The Ledger: the routing as a tree table, levels beside it, one column per return. -->
<script lang="ts">
  import { onMount, tick, untrack } from 'svelte';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { Button, Modal } from 'flowbite-svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import Picker, { type Choice } from '$lib/ui/Picker.svelte';
  import { family } from '$lib/ui/colours';
  import { MARKS, railAt } from '$lib/ui/scale';
  import { processors } from '$core/dsp/params';
  import type { InsertType } from '$core/session/entities';
  import type { PageCommand } from '$lib/state/commands.svelte';
  import { useDesk } from '$lib/state/desk';
  import { ledgerActions } from './actions';
  import LedgerRow from './LedgerRow.svelte';
  import { dragRows } from './dragRows';
  import { sectionsOf } from './rows';
  import SideSheet from './SideSheet.svelte';

  const ROW = 30;
  const CAPTION = 36;
  const HEAD = 46;
  const COLUMN = 66;
  /** Widths of the columns that every row has, and of the name, which stays where it is. */
  const FIXED = 638;
  const NAME = 220;

  const desk = useDesk();
  const { store, selection, importer } = desk;
  const actions = ledgerActions(desk);
  let folded = $state.raw<ReadonlySet<string>>(new Set());
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let picker = $state.raw<'route' | 'send' | 'bus' | 'return' | null>(null);
  let removing = $state.raw<{ ids: string[]; orphans: string[] } | null>(null);
  let dropTarget = $state<string | null>(null);
  let chosen = $state<HTMLInputElement>();
  let body = $state<HTMLElement>();

  const sections = $derived(sectionsOf(store.tree, folded));
  const order = $derived(sections.flatMap(({ lines }) => lines.map(({ id }) => id)));
  const returns = $derived(store.channels.filter(({ kind }) => kind === 'return').map(({ id }) => id));
  const columns = $derived(`minmax(220px, 1fr) minmax(204px, 1.4fr) 54px 80px 80px repeat(${returns.length}, ${COLUMN}px) 8px`);
  /** Captions and rows one after another; only those on screen, and a few around them, are drawn. */
  const items = $derived(
    sections.flatMap(({ key, caption, lines }) => [
      ...(caption ? [{ key, caption, line: null }] : []),
      ...lines.map((line) => ({ key: line.id, caption: '', line }))
    ])
  );
  const down = createVirtualizer<HTMLElement, HTMLElement>({ count: 0, getScrollElement: () => body ?? null, estimateSize: () => ROW });
  const across = createVirtualizer<HTMLElement, HTMLElement>({
    count: 0,
    getScrollElement: () => body ?? null,
    estimateSize: () => COLUMN
  });
  $effect(() => {
    const list = items;
    const element = body ?? null;
    untrack(() =>
      $down.setOptions({
        count: list.length,
        getScrollElement: () => element,
        estimateSize: (i) => (list[i]?.caption ? CAPTION : ROW),
        getItemKey: (i) => list[i]?.key ?? i,
        scrollMargin: HEAD,
        scrollPaddingStart: HEAD,
        overscan: 3
      })
    );
  });
  $effect(() => {
    const count = returns.length;
    const element = body ?? null;
    untrack(() =>
      $across.setOptions({
        count,
        horizontal: true,
        getScrollElement: () => element,
        estimateSize: () => COLUMN,
        scrollMargin: FIXED,
        scrollPaddingStart: NAME,
        overscan: 1
      })
    );
  });
  /** Which columns are on screen, as "first last": a string, so that scrolling by a few pixels wakes nothing. */
  const columnSpan = $derived.by(() => {
    const found = $across.getVirtualItems();
    return `${found[0]?.index ?? 0} ${found.at(-1)?.index ?? -1}`;
  });
  const shownColumns = $derived.by(() => {
    const [first, last] = columnSpan.split(' ').map(Number);
    return returns.slice(first, last + 1).map((id, i) => ({ id, index: first + i }));
  });
  const total = $derived(store.channels.length);

  const fold = (id: string) => {
    const next = new Set(folded);
    if (!next.delete(id)) next.add(id);
    folded = next;
  };
  const ids = () => [...selection.ids];
  const choices = (kinds: readonly string[]): Choice[] =>
    [...store.session.channel.values()]
      .filter(({ kind, id }) => kinds.includes(kind) && !selection.has(id))
      .sort((a, b) => a.position - b.position)
      .map(({ id, name, kind, colour, outputId }) => ({
        id,
        name,
        detail: kind === 'mix' ? 'mix bus' : `${kind}${outputId ? ` in ${store.session.channel.get(outputId)?.name}` : ''}`,
        colour: family(colour)
      }));
  const NOWHERE = 'nowhere';

  const askRemoval = () => {
    const going = ids().filter((id) => store.session.channel.get(id)?.kind !== 'mix');
    const orphans = actions.orphans(going).map(({ id }) => id);
    if (orphans.length) removing = { ids: going, orphans };
    else actions.remove(ids());
  };
  const rename = () => {
    const id = selection.last;
    if (id) body?.querySelector(`[data-focus="${CSS.escape(id)}"]`)?.dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
  };

  const onmenu = (event: MouseEvent, id: string) => {
    event.preventDefault();
    if (!selection.has(id)) selection.set([id], id);
    menu = {
      x: event.clientX,
      y: event.clientY,
      entries: [
        { label: 'New bus from selection', keys: 'b', run: () => (picker = 'bus') },
        { label: 'Route to…', keys: 'r', run: () => (picker = 'route') },
        { label: 'Send to…', keys: 'e', run: () => (picker = 'send') },
        { label: 'Select this branch', run: () => selection.set(actions.branch(id), id) },
        { label: 'Mute', keys: 'm', run: () => actions.toggle('mute', ids()) },
        { label: 'Solo', keys: 's', run: () => actions.toggle('solo', ids()) },
        { label: 'Solo-safe', keys: 'f', run: () => actions.toggle('soloSafe', ids()) },
        { label: 'Unity', keys: '0', run: () => actions.setFaders(ids(), 0) },
        { label: 'Rename', keys: 'F2', run: rename },
        { label: 'Remove', keys: 'Del', run: askRemoval }
      ]
    };
  };
  const oncrossmenu = (event: MouseEvent, source: string, target: string) => {
    event.preventDefault();
    event.stopPropagation();
    const sources = selection.around(source).filter((id) => id !== target && store.session.channel.get(id)?.kind !== 'mix');
    const send = store.session.send.get(`${source}\n${target}`);
    const set = (fields: object) => store.act([{ do: 'sends.set', sends: sources.map((id) => ({ source: id, target, ...fields })) }]);
    menu = {
      x: event.clientX,
      y: event.clientY,
      entries: send
        ? [
            { label: send.on ? 'Send off' : 'Send on', keys: 'o', run: () => set({ on: !send.on }) },
            {
              label: send.tap === 'post' ? 'Take before the fader' : 'Take after the fader',
              keys: 't',
              run: () => set({ tap: send.tap === 'post' ? 'pre' : 'post' })
            },
            { label: 'Send level to −∞', run: () => set({ level: -Infinity }) },
            { label: 'Remove send', keys: 'Del', run: () => store.act([{ do: 'sends.remove', sources, target }]) }
          ]
        : [{ label: 'New send at −∞', run: () => set({}) }]
    };
  };
  const ongrab = dragRows({
    ids: (id) => selection.around(id),
    bus: (id) => ['bus', 'mix', 'return'].includes(store.session.channel.get(id)?.kind ?? ''),
    hover: (id) => (dropTarget = id),
    drop: (moved, target) => {
      if (target.into) actions.route(moved, target.id);
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
    if (index >= 0) $down.scrollToIndex(index, { align: 'auto' });
  };
  /** From one crosspoint to another, as in a spreadsheet: by so many columns and rows, over rows that have none. */
  const onmove = async (source: string, target: string, dx: number, dy: number) => {
    const column = Math.max(0, Math.min(returns.length - 1, returns.indexOf(target) + dx));
    let row = order.indexOf(source) + dy;
    const free = (id: string | undefined) => id !== undefined && id !== returns[column] && store.session.channel.get(id)?.kind !== 'mix';
    while (row >= 0 && row < order.length && !free(order[row])) row += dy || 1;
    if (!free(order[row])) return;
    const cell = () =>
      body?.querySelector<HTMLElement>(`[data-cross="${CSS.escape(order[row])} ${CSS.escape(returns[column])}"] button.num`);
    // Where it is drawn already the focus goes there at once: keys may come faster than frames.
    cell()?.focus({ preventScroll: true });
    reveal(order[row]);
    $across.scrollToIndex(column, { align: 'auto' });
    await tick();
    requestAnimationFrame(() => cell()?.focus({ preventScroll: true }));
  };

  const focusRow = async (id: string) => {
    reveal(id);
    await tick();
    body?.querySelector<HTMLElement>(`[data-focus="${CSS.escape(id)}"]`)?.focus();
  };
  const stepTo = (by: number, extend: boolean) => {
    const at = selection.last ? order.indexOf(selection.last) : -1;
    const id = order[Math.max(0, Math.min(order.length - 1, at + by))];
    if (!id) return;
    if (extend) selection.set([...selection.ids, id], id);
    else selection.set([id], id);
    void focusRow(id);
  };

  /** Moves the selection among its neighbours in the same branch: the keyboard's way of dragging rows. */
  const moveBy = (by: 1 | -1) => {
    const first = store.session.channel.get([...selection.ids][0] ?? '');
    if (!first) return;
    const siblings = store.channels
      .filter(({ outputId, kind }) => outputId === first.outputId && kind !== 'mix')
      .toSorted((a, b) => a.position - b.position);
    const places = siblings.flatMap(({ id }, i) => (selection.has(id) ? [i] : []));
    const before = by < 0 ? siblings[Math.min(...places) - 1] : siblings[Math.max(...places) + 2];
    const last = Math.max(...places) === siblings.length - 1;
    if (places.length && (by > 0 ? !last : before))
      store.act([{ do: 'channels.move', ids: places.map((i) => siblings[i].id), before: before?.id ?? null }]);
  };

  const some = () => selection.ids.size > 0;
  const addInsert = (type: InsertType) => {
    const channelId = selection.last;
    if (channelId) store.act([{ do: 'inserts.add', id: crypto.randomUUID(), channelId, type }]);
  };
  type LedgerCommand = PageCommand & { readonly key?: string };
  const list: readonly LedgerCommand[] = [
    { title: 'Import audio…', group: 'Session', run: () => chosen?.click() },
    { title: 'New bus from selection', group: 'Routing', keys: 'b', key: 'b', run: () => (picker = 'bus') },
    { title: 'New return', group: 'Routing', run: () => (picker = 'return') },
    { title: 'Route selection…', group: 'Routing', keys: 'r', key: 'r', run: () => (picker = 'route'), when: some },
    { title: 'Send selection to…', group: 'Routing', keys: 'e', key: 'e', run: () => (picker = 'send'), when: some },
    { title: 'Route nowhere', group: 'Routing', run: () => actions.route(ids(), null), when: some },
    { title: 'Mute', group: 'Levels', keys: 'm', key: 'm', run: () => actions.toggle('mute', ids()), when: some },
    { title: 'Solo', group: 'Levels', keys: 's', key: 's', run: () => actions.toggle('solo', ids()), when: some },
    { title: 'Solo-safe', group: 'Levels', keys: 'f', key: 'f', run: () => actions.toggle('soloSafe', ids()), when: some },
    { title: 'Faders to unity', group: 'Levels', keys: '0', key: '0', run: () => actions.setFaders(ids(), 0), when: some },
    { title: 'Faders to −∞', group: 'Levels', keys: '-', key: '-', run: () => actions.setFaders(ids(), -Infinity), when: some },
    { title: 'Centre pan', group: 'Levels', run: () => actions.pans(ids(), 0), when: some },
    {
      title: 'Turn polarity',
      group: 'Levels',
      run: () => store.act([{ do: 'polarities.set', ids: ids(), on: !store.session.channel.get(ids()[0])?.polarity }]),
      when: some
    },
    ...(Object.keys(processors) as InsertType[]).map((type): LedgerCommand => ({
      title: `Add ${processors[type].title}`,
      group: 'Inserts',
      run: () => addInsert(type),
      when: () => selection.last !== null
    })),
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => stepTo(-1, false) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => stepTo(1, false) },
    {
      title: 'Fold branch',
      group: 'Moving about',
      keys: '←',
      key: 'ArrowLeft',
      run: () => selection.last && !folded.has(selection.last) && fold(selection.last)
    },
    {
      title: 'Unfold branch',
      group: 'Moving about',
      keys: '→',
      key: 'ArrowRight',
      run: () => selection.last && folded.has(selection.last) && fold(selection.last)
    },
    { title: 'Move rows up', group: 'Selection', keys: 'Alt+↑', run: () => moveBy(-1), when: some },
    { title: 'Move rows down', group: 'Selection', keys: 'Alt+↓', run: () => moveBy(1), when: some },
    { title: 'Select all', group: 'Selection', keys: 'Ctrl+A', run: () => selection.set(order, selection.last) },
    {
      title: 'Select this branch',
      group: 'Selection',
      run: () => selection.last && selection.set(actions.branch(selection.last), selection.last),
      when: some
    },
    {
      title: 'Invert selection',
      group: 'Selection',
      run: () =>
        selection.set(
          order.filter((id) => !selection.has(id)),
          selection.last
        )
    },
    { title: 'Clear selection', group: 'Selection', keys: 'Esc', key: 'Escape', run: () => selection.clear() },
    { title: 'Rename', group: 'Selection', keys: 'F2', key: 'F2', run: rename, when: some },
    { title: 'Remove', group: 'Selection', keys: 'Del', key: 'Delete', run: askRemoval, when: some }
  ];
  onMount(() => desk.commands.add(list));
  const onkeydown = (event: KeyboardEvent) => {
    const from = event.target as HTMLElement;
    if (menu || picker || removing || from.closest('input, textarea, select, [role=dialog]')) return;
    if (event.altKey) {
      if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return;
      moveBy(event.key === 'ArrowUp' ? -1 : 1);
    } else if (event.shiftKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) stepTo(event.key === 'ArrowUp' ? -1 : 1, true);
    else if ((event.ctrlKey || event.metaKey) && event.key === 'a') selection.set(order, selection.last);
    else {
      const command = event.ctrlKey || event.metaKey ? undefined : list.find(({ key }) => key === event.key);
      if (!command || (command.when && !command.when())) return;
      command.run();
    }
    event.preventDefault();
  };
</script>

<svelte:window {onkeydown} />

<div class="ledger">
  <section class="main" aria-label="Ledger">
    <div class="tools">
      <input
        bind:this={chosen}
        class="sr-only"
        type="file"
        multiple
        accept=".wav,.bwf,.aif,.aiff,.aifc,.flac,.ogg,.oga,.opus,.mp3,audio/*"
        tabindex="-1"
        aria-label="Audio files to import"
        onchange={() => void importer.add([...(chosen?.files ?? [])]).then(() => chosen && (chosen.value = ''))}
      />
      <button class="plain" onclick={() => chosen?.click()}>Import audio…</button>
      <span class="gap"></span>
      <button class="plain" onclick={() => (picker = 'bus')} title="b">New bus{selection.ids.size ? ' from selection' : ''}</button>
      <button class="plain" onclick={() => (picker = 'return')}>New return</button>
      <button class="plain" disabled={!selection.ids.size} onclick={() => (picker = 'route')} title="r">Route…</button>
      <button class="plain" disabled={!selection.ids.size} onclick={() => (picker = 'send')} title="e">Send to…</button>
      <button class="plain" disabled={!selection.ids.size} onclick={askRemoval}>Remove</button>
      <span class="grow"></span>
      <span class="muted">{selection.ids.size > 1 ? `${selection.ids.size} selected` : ''}</span>
    </div>
    <div
      class="scroll"
      role="treegrid"
      aria-label="Channels by where they go"
      aria-multiselectable="true"
      bind:this={body}
      style:--columns={columns}
      style:--whole="{FIXED + returns.length * COLUMN + 8}px"
    >
      <div class="head" role="row">
        <span role="columnheader" class="muted">{total} channel{total === 1 ? '' : 's'}</span>
        <span role="columnheader" class="scale num" aria-label="Level in dB">
          {#each MARKS as mark (mark)}<i style:left="{railAt(mark) * 100}%">{mark > 0 ? `+${mark}` : mark < 0 ? `−${-mark}` : 0}</i>{/each}
        </span>
        <span role="columnheader" class="right muted">dB</span>
        <span role="columnheader" class="muted pan">Pan</span>
        <span role="columnheader"><span class="sr-only">Mute, solo, solo-safe</span></span>
        {#each shownColumns as { id, index } (id)}
          {@const channel = store.channel(id)}
          {#if channel}
            <span role="columnheader" class="return" style:grid-column={index + 6}>
              <button title="Select {channel.name}" onclick={() => selection.set([id], id)}>{channel.name}</button>
              <span class="stripe" style:background={family(channel.colour)}></span>
            </span>
          {/if}
        {/each}
      </div>
      <div class="rows" role="presentation" style:height="{$down.getTotalSize()}px">
        {#each $down.getVirtualItems() as { key, index, start } (key)}
          {@const item = items[index]}
          {#if item?.line}
            <LedgerRow
              line={item.line}
              top={start - HEAD}
              columns={shownColumns}
              {order}
              {actions}
              dropping={dropTarget === item.line.id}
              onfold={fold}
              {onmenu}
              {oncrossmenu}
              {ongrab}
              {onmove}
            />
          {:else if item}
            <div class="caption caps" role="row" style:transform="translateY({start - HEAD}px)">
              <span role="rowheader">{item.caption}</span>
            </div>
          {/if}
        {/each}
      </div>
      {#if total === 1}
        <div class="empty">
          <p>Nothing here yet.</p>
          <p class="muted">
            Drop audio files anywhere on this page, or choose them: WAV, AIFF, FLAC, Ogg or MP3. They become tracks going to the mix bus.
          </p>
          <button class="plain strong" onclick={() => chosen?.click()}>Import audio…</button>
        </div>
      {/if}
    </div>
  </section>
  <SideSheet {actions} />
</div>

{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
{#if picker === 'route'}
  <Picker
    title="Route {ids().length === 1 ? store.channel(ids()[0])?.name : `${ids().length} channels`} to"
    choices={[...choices(['mix', 'bus', 'return']), { id: NOWHERE, name: 'Nowhere', detail: 'no output' }]}
    makes={['bus']}
    onpick={(id) => {
      picker = null;
      actions.route(ids(), id === NOWHERE ? null : id);
    }}
    onmake={(_, name) => {
      picker = null;
      actions.newBus(name, ids());
    }}
    onclose={() => (picker = null)}
  />
{:else if picker === 'send'}
  <Picker
    title="Send {ids().length === 1 ? store.channel(ids()[0])?.name : `${ids().length} channels`} to"
    choices={choices(['return', 'bus'])}
    makes={['return']}
    onpick={(id) => {
      picker = null;
      actions.sendTo(ids(), id);
    }}
    onmake={(_, name) => {
      picker = null;
      actions.newReturn(name, ids());
    }}
    onclose={() => (picker = null)}
  />
{:else if picker}
  <Picker
    title={picker === 'bus' ? (selection.ids.size ? `New bus from ${selection.ids.size} selected` : 'New bus') : 'New return'}
    choices={[]}
    makes={[picker]}
    onpick={() => undefined}
    onmake={(what, name) => {
      picker = null;
      if (what === 'bus') actions.newBus(name, ids());
      else actions.newReturn(name, []);
    }}
    onclose={() => (picker = null)}
  />
{/if}
<Modal open={removing !== null} onclose={() => (removing = null)} size="sm" title="Where do its members go?">
  {#if removing}
    {@const one = removing}
    <p>{one.orphans.length} channel{one.orphans.length === 1 ? '' : 's'} go into what you are removing.</p>
    <div class="choices">
      <Button size="sm" onclick={() => (actions.remove(one.ids), (removing = null))}>One level up</Button>
      <Button size="sm" color="alternative" onclick={() => (actions.remove(one.ids, null), (removing = null))}>Nowhere</Button>
      <Button
        size="sm"
        color="alternative"
        onclick={() => (actions.remove([...one.ids, ...one.orphans.flatMap((id) => actions.branch(id))]), (removing = null))}
        >Remove them too</Button
      >
    </div>
  {/if}
</Modal>

<style>
  .ledger {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr) 296px;
    height: 100%;
  }
  .main {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    min-width: 0;
  }
  .tools {
    display: flex;
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
  .rows {
    position: relative;
    width: max(100%, var(--whole));
  }
  .scroll {
    overflow: auto;
    overscroll-behavior: contain;
  }
  .head {
    position: sticky;
    top: 0;
    z-index: 3;
    display: grid;
    grid-template-columns: var(--columns);
    width: max(100%, var(--whole));
    align-items: end;
    height: 46px;
    padding-bottom: 6px;
    border-bottom: 1px solid var(--line);
    background: var(--paper);
    font-size: 12px;
  }
  .head > span:first-child {
    position: sticky;
    left: 0;
    z-index: 1;
    align-self: stretch;
    padding: 25px 0 0 12px;
    background: var(--paper);
  }
  .scale {
    position: relative;
    height: 14px;
    margin: 0 8px 0 4px;
    color: var(--muted);
    font-size: 10.5px;
  }
  .scale i {
    position: absolute;
    font-style: normal;
    transform: translateX(-50%);
  }
  .scale i:last-child {
    transform: translateX(-85%);
  }
  .right {
    padding-right: 8px;
    text-align: right;
  }
  .pan {
    padding-left: 6px;
  }
  .return {
    display: grid;
    align-content: end;
    height: 40px;
    margin-bottom: -6px;
    padding: 0 4px 5px 6px;
    border-left: 1px solid var(--hair);
  }
  .return button {
    overflow: hidden;
    font-size: 11.5px;
    font-weight: 600;
    line-height: 1.1;
    text-align: left;
    overflow-wrap: anywhere;
  }
  .stripe {
    height: 3.5px;
    margin-top: 3px;
    border-radius: 2px;
  }
  .caption {
    position: absolute;
    top: 0;
    width: 100%;
    height: 36px;
    padding: 14px 12px 5px;
    border-bottom: 1px solid var(--hair);
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
  .choices {
    display: flex;
    gap: 8px;
  }
</style>

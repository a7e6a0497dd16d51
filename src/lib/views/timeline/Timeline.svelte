<!-- Timeline: the Ledger's rows with their clips in time; cut, moved, faded, cleaned of bleed; markers and ranges above. -->
<script lang="ts">
  import { Button, Select } from 'flowbite-svelte';
  import { onMount, tick as settled, untrack } from 'svelte';
  import { SNAPS, type Snap } from '$core/clips/snap';
  import { endOf } from '$core/session/select';
  import { createAudition } from '$lib/state/audition.svelte';
  import { useDesk } from '$lib/state/desk';
  import { peaksNow } from '$lib/state/peaks';
  import { createSampleBlocks } from '$lib/state/samples';
  import Empty from '$lib/ui/Empty.svelte';
  import Menu from '$lib/ui/Menu.svelte';
  import { ledgerActions } from '../ledger/actions';
  import Pickers from '../ledger/Pickers.svelte';
  import { drawnRows } from '../ledger/drawnRows.svelte';
  import { sectionsOf, type Line } from '../ledger/rows';
  import { rowKeys } from '../rowKeys';
  import BleedSheet from './BleedSheet.svelte';
  import { createBleedSearch } from './bleed.svelte';
  import ClipSheet from './ClipSheet.svelte';
  import { timelineCommands } from './commands';
  import { createEdits } from './edits.svelte';
  import { createHands } from './hands.svelte';
  import LaneRow from './LaneRow.svelte';
  import LaneSheet from './LaneSheet.svelte';
  import { createLanes, LANE_HEIGHT } from './lanes.svelte';
  import { clipMenu } from './menus';
  import NewLane from './NewLane.svelte';
  import { rulerLines } from './picture';
  import PlacesSheet from './PlacesSheet.svelte';
  import Ruler from './Ruler.svelte';
  import { createSpan } from './span.svelte';
  import SpanBar from './SpanBar.svelte';
  import { sumOf } from './sums';
  import TimeRow from './TimeRow.svelte';

  const NAMES = 208;
  const HEAD = 40;
  const HEIGHTS = [30, 46, 72, 120];
  type Item = { key: string; height: number } & ({ line: Line; lane?: undefined } | { line?: undefined; lane: string });
  const desk = useDesk();
  const { store, selection, folding, transport } = desk;
  const actions = ledgerActions(desk);
  const span = createSpan(store);
  const edits = createEdits(desk);
  const bleed = createBleedSearch(store);
  const lanes = createLanes(desk);
  const audition = createAudition(store, () => transport);
  let body = $state<HTMLElement>();
  let menu = $state.raw<{ x: number; y: number } | null>(null);
  let named = $state<string | null>(null);
  let finding = $state(false);
  let picking = $state(false);
  let follow = $state(true);
  let dark = $state(document.documentElement.classList.contains('dark'));
  /** By channel, which of the heights its row has, where that is not its kind's own. */
  let tall = $state.raw<ReadonlyMap<string, number>>(new Map());

  // Pictures get better as peaks and samples arrive: rows draw again, once a frame.
  let arrivals = $state(0);
  let waiting = false;
  const arrived = () => {
    if (waiting) return;
    waiting = true;
    requestAnimationFrame(() => {
      waiting = false;
      arrivals++;
    });
  };
  const samples = createSampleBlocks(arrived);

  const tree = $derived(sectionsOf(store.tree, folding.ids).flatMap(({ lines: each }) => each));
  /** Whether only rows with lanes are shown. */
  let automated = $state(false);
  const lines = $derived(automated ? tree.filter(({ id }) => store.lanes(id).length > 0) : tree);
  const order = $derived(lines.map(({ id }) => id));
  const kindOf = (id: string) => store.session.channel.get(id)?.kind;
  const heightOf = (id: string) => HEIGHTS[tall.get(id) ?? (kindOf(id) === 'track' || kindOf(id) === 'key' ? 1 : 0)];
  /** Rows with their lanes beneath, and behind all of them those of VCAs, which have no rows. */
  const items = $derived.by((): readonly Item[] => {
    const beneath = (id: string) => store.lanes(id).map((lane): Item => ({ key: `lane ${lane.id}`, height: LANE_HEIGHT, lane: lane.id }));
    return [
      ...lines.flatMap((line): Item[] => [
        { key: line.id, height: heightOf(line.id), line },
        ...(lanes.isOpen(line.id) ? beneath(line.id) : [])
      ]),
      ...store.vcas.flatMap(({ id }) => beneath(id))
    ];
  });
  const indexOf = (id: string) => items.findIndex(({ key }) => key === id);
  const drawn = drawnRows({
    element: () => body ?? null,
    items: () => items,
    columns: () => [],
    head: () => HEAD,
    fixed: () => NAMES,
    kept: NAMES,
    column: 100,
    row: HEIGHTS[1]
  });
  const hands = createHands({ desk, edits, span, body: () => body ?? null, order: () => order });
  const empty = $derived.by(() => {
    store.watchClips();
    return endOf(store.session) === 0 && store.allLanes.length === 0;
  });

  const ruler = $derived(rulerLines(store.settings, span.from, span.perPixel, span.width));
  const grid = $derived(ruler.map(({ frame }) => frame));

  // What flows into buses, a moment after the last change.
  let sums = $state.raw<ReadonlyMap<string, Float32Array>>(new Map());
  let pending: ReturnType<typeof setTimeout> | undefined;
  $effect(() => {
    store.watchClips();
    const buses = lines.filter(({ id }) => kindOf(id) !== 'track' && kindOf(id) !== 'key').map(({ id }) => id);
    const whole = span.whole;
    void arrivals;
    clearTimeout(pending);
    pending = setTimeout(() => {
      sums = new Map(buses.map((id) => [id, sumOf(store.session, id, whole, (sha256) => peaksNow(sha256, arrived))]));
    }, 200);
    return () => clearTimeout(pending);
  });

  const proposals = $derived((bleed.found?.proposals ?? []).map(({ from, to }) => ({ from, to, chosen: bleed.chosen(from) })));
  const NONE: readonly never[] = [];
  const findBleed = (id?: string) => {
    const track =
      id ?? (selection.last && kindOf(selection.last) === 'track' ? selection.last : edits.rows().find((each) => kindOf(each) === 'track'));
    if (!track) return store.say('Select a track first: its bleed is looked for.');
    if (!selection.has(track)) selection.set([track], track);
    void bleed.open(track);
  };
  const showSpan = (from: number, to: number) => {
    span.show(Math.max(0, from - (to - from) * 2), to + (to - from) * 2);
    transport.locate(from);
  };
  const rowBy = (by: number, extend = false) => {
    const at = selection.last ? order.indexOf(selection.last) : -1;
    const index = Math.max(0, Math.min(order.length - 1, at + by));
    const id = order[index];
    if (!id) return;
    selection.set(extend ? [...selection.ids, id] : [id], id);
    drawn.showRow(indexOf(id));
  };
  const zoom = (factor: number) => {
    const x = span.xOf(transport.position);
    span.zoom(factor, x >= 0 && x <= span.width ? x : span.width / 2);
  };
  /** Shows a channel's row, whatever was folded over it. */
  const jump = async (id: string) => {
    finding = false;
    const way = new Set<string>();
    for (let at = store.session.channel.get(id)?.outputId; at && !way.has(at); at = store.session.channel.get(at)?.outputId) way.add(at);
    folding.open(way);
    selection.set([id], id);
    await settled();
    const index = indexOf(id);
    if (index >= 0) drawn.showRow(index);
    else store.say('It is hidden, or has no row here.');
  };
  /** Shows a lane's row, and chooses it. */
  const showLane = async (id: string) => {
    const lane = store.session.lane.get(id);
    if (!lane) return;
    lanes.open(lane.channelId);
    if (kindOf(lane.channelId) !== 'vca') await jump(lane.channelId);
    lanes.choose(id);
    const index = indexOf(`lane ${id}`);
    if (index >= 0) drawn.showRow(index);
  };
  const toRow = (direction: -1 | 1) => edits.toRow(direction, order);
  const heights = (by: 1 | -1) => {
    const next = new Map(tall);
    for (const id of selection.ids.size ? selection.ids : order) {
      const now = HEIGHTS.indexOf(heightOf(id));
      next.set(id, Math.max(0, Math.min(HEIGHTS.length - 1, now + by)));
    }
    tall = next;
  };
  const list = timelineCommands({
    ...{ edits, span, rowBy, toRow, heights, zoom },
    findBleed: () => findBleed(),
    newLane: () => (picking = true),
    find: () => (finding = true),
    hasRows: () => selection.ids.size > 0,
    toggle: (what) => actions.toggle(what, [...selection.ids])
  });
  onMount(() => desk.commands.add(list));
  onMount(() => {
    const themed = new MutationObserver(() => (dark = document.documentElement.classList.contains('dark')));
    themed.observe(document.documentElement, { attributeFilter: ['class'] });
    return () => {
      themed.disconnect();
      audition.stop();
    };
  });
  onMount(() =>
    store.onChanges((changes) => {
      const gone = changes.flatMap(({ table, key, after }) => (table === 'clip' && after === null ? [key] : []));
      if (gone.length) edits.forget(new Set(gone));
      lanes.forget(new Set(changes.flatMap(({ table, key, after }) => (table === 'lane' && after === null ? [key] : []))));
    })
  );
  const keys = rowKeys({
    busy: () => menu !== null || finding || picking,
    commands: list,
    moveBy: (by) => edits.some() && toRow(by),
    extend: (by) => rowBy(by, true),
    selectAll: () => selection.set(order, selection.last)
  });
  const onkeydown = (event: KeyboardEvent) => {
    const from = event.target as HTMLElement;
    const sideways = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : null;
    const within = from.closest('input, textarea, select, dialog, [role=dialog], [role=menu], [role=slider], [role=scrollbar]');
    if (sideways && !within && !event.ctrlKey && !event.metaKey && (event.shiftKey || event.altKey)) {
      edits.stepPlayhead(sideways, event.altKey ? 'frame' : 'ms');
      return event.preventDefault();
    }
    if (event.key === 'Escape' && hands.dragging) return hands.cancel();
    if (event.key === 'Escape' && lanes.chosen && !within) return lanes.choose(null);
    if (event.key === 'Escape' && bleed.channelId && !within && !edits.some()) return bleed.close();
    keys(event);
  };
  const onwheel = (event: WheelEvent) => {
    const across = event.shiftKey ? event.deltaY || event.deltaX : event.deltaX;
    if (event.ctrlKey || event.metaKey)
      span.zoom(Math.exp(-event.deltaY * 0.002), event.clientX - body!.getBoundingClientRect().left - NAMES);
    else if (Math.abs(across) > Math.abs(event.shiftKey ? 0 : event.deltaY)) span.move(across);
    else return;
    event.preventDefault();
  };
  // The page turns as the playhead leaves it.
  $effect(() => {
    const at = transport.position;
    if (!transport.playing || !follow) return;
    untrack(() => !hands.dragging && span.reveal(at));
  });
  const oncontextmenu = (event: MouseEvent) => {
    event.preventDefault();
    hands.choose(event);
    menu = { x: event.clientX, y: event.clientY };
  };
  const SNAP_WORDS: Record<Snap, string> = {
    ...{ off: 'nothing', bar: 'bars', '1/4': '1/4', '1/8': '1/8', '1/16': '1/16' },
    ...{ edges: 'clip edges', markers: 'markers', playhead: 'playhead' }
  };
  const head = $derived(span.xOf(transport.position));
</script>

<svelte:window {onkeydown} />

<div class="timeline" style:--names="{NAMES}px">
  <section class="main" aria-label="Timeline">
    <div class="tools">
      <Button color="alternative" data-hint="At the playhead, or at both ends of the range (k)" onclick={edits.cut}>Cut</Button>
      <Button color="alternative" disabled={!edits.clips.ids.size} data-hint="Up to the playhead (i)" onclick={() => edits.fadeTo('in')}
        >Fade in</Button
      >
      <Button color="alternative" disabled={!edits.clips.ids.size} data-hint="From the playhead (o)" onclick={() => edits.fadeTo('out')}
        >Fade out</Button
      >
      <Button color="alternative" data-hint="Of the selected track (b)" onclick={() => findBleed()}>Find bleed…</Button>
      <Button color="alternative" data-hint="Of the selected row (a)" onclick={() => (picking = true)}>New lane…</Button>
      <Button
        color="alternative"
        aria-pressed={automated}
        data-hint="Shows rows that have lanes, and no others"
        onclick={() => (automated = !automated)}>Automated</Button
      >
      <span class="word" class:bad={hands.problem !== null}>{hands.problem ?? hands.word ?? ''}</span>
      <label class="snap"
        >snap to
        <Select placeholder="" value={edits.snap} onchange={(event) => edits.setSnap(event.currentTarget.value as Snap)}>
          {#each SNAPS as each (each)}<option value={each}>{SNAP_WORDS[each]}</option>{/each}
        </Select></label
      >
      <Button
        color="alternative"
        aria-pressed={follow}
        data-hint="Turns the page as the playhead leaves it"
        onclick={() => (follow = !follow)}>Follow</Button
      >
      <span class="zoom">
        <Button color="alternative" aria-label="Farther" data-hint="Farther (−)" onclick={() => zoom(1 / 1.6)}>−</Button>
        <Button color="alternative" aria-label="Closer" data-hint="Closer (+)" onclick={() => zoom(1.6)}>+</Button>
        <Button color="alternative" data-hint="All of the song (0)" onclick={span.all}>All</Button>
      </span>
    </div>
    {#if empty}
      <Empty says="No clips yet." hint="Drop audio anywhere to import it: each recording becomes a clip on a track of its own." />
    {:else}
      <div class="frame">
        <div
          class="scroll"
          role="presentation"
          tabindex="-1"
          bind:this={body}
          {onwheel}
          {oncontextmenu}
          onpointerdown={(event) => {
            lanes.choose(null);
            hands.press(event);
          }}
          onpointermove={hands.hover}
          style:cursor={hands.cursor}
        >
          <div class="head" role="presentation" style:height="{HEAD}px">
            <span class="count caps">{lines.length} of {store.channels.filter(({ kind }) => kind !== 'vca').length} channels</span>
            <div class="across" bind:clientWidth={() => span.width, span.setWidth}>
              <Ruler {span} lines={ruler} {edits} />
            </div>
          </div>
          <div
            class="rows"
            id="timeline-rows"
            role="treegrid"
            tabindex="-1"
            aria-label="Channels and their clips"
            aria-multiselectable="true"
            style:height="{drawn.height}px"
          >
            {#each drawn.rows as { slot, index, start } (slot)}
              {@const item = items[index]}
              {@const line = item?.line}
              {#if item?.lane}
                <LaneRow id={item.lane} top={start - HEAD} height={item.height} {...{ span, grid, lanes, edits, dark }} />
              {:else if line}
                <TimeRow
                  {line}
                  top={start - HEAD}
                  height={item.height}
                  {...{ span, grid, samples, arrived, arrivals, order, lanes }}
                  preview={hands.preview?.get(line.id)}
                  chosen={edits.clips.ids}
                  range={edits.range}
                  proposals={bleed.channelId === line.id ? proposals : NONE}
                  sum={sums.get(line.id)}
                  {dark}
                />
              {/if}
            {/each}
          </div>
        </div>
        <div class="over" aria-hidden="true">
          {#if head >= 0 && head <= span.width}<span class="playhead" style:transform="translateX({head}px)"></span>{/if}
        </div>
      </div>
      <SpanBar {span} />
    {/if}
  </section>
  <aside aria-label="Clip">
    {#if lanes.chosen && store.lane(lanes.chosen)}
      <LaneSheet {lanes} {edits} onnew={() => (picking = true)} />
    {:else if bleed.channelId}
      <BleedSheet {bleed} {audition} onshow={showSpan} />
    {:else if edits.clips.ids.size}
      <ClipSheet {edits} />
    {:else}
      <PlacesSheet {edits} {lanes} onbleed={findBleed} onlane={showLane} onnew={() => (picking = true)} bind:named />
    {/if}
  </aside>
</div>
{#if finding}<Pickers picking={{ kind: 'find' }} {actions} onclose={() => (finding = false)} onfind={(id) => void jump(id)} />{/if}
{#if picking}<NewLane {lanes} onclose={() => (picking = false)} />{/if}
{#if menu}<Menu {...menu} entries={clipMenu(edits, () => findBleed())} onclose={() => (menu = null)} />{/if}

<style>
  .timeline {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: minmax(0, 1fr) 300px;
    height: 100%;
  }
  .main {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
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
  .word {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    color: var(--muted);
    font-size: 12.5px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .bad {
    color: var(--persimmon);
  }
  .snap {
    display: flex;
    align-items: center;
    gap: 6px;
    color: var(--muted);
    white-space: nowrap;
  }
  .zoom {
    display: flex;
    gap: 3px;
  }
  .frame {
    position: relative;
    min-height: 0;
  }
  .scroll {
    height: 100%;
    overflow: hidden auto;
    overscroll-behavior: contain;
    outline: none;
    scrollbar-gutter: stable;
    scrollbar-width: thin;
  }
  .head {
    position: sticky;
    top: 0;
    z-index: 3;
    display: grid;
    grid-template-columns: var(--names) minmax(0, 1fr);
    border-bottom: 1px solid var(--line);
    background: var(--paper);
  }
  .count {
    align-self: end;
    padding: 0 12px 5px;
    border-right: 1px solid var(--line);
    white-space: nowrap;
  }
  .across {
    min-width: 0;
  }
  .rows {
    position: relative;
    user-select: none;
    touch-action: pan-y;
  }
  .over {
    position: absolute;
    inset: 0 11px 0 var(--names);
    overflow: hidden;
    pointer-events: none;
    z-index: 4;
  }
  .playhead {
    position: absolute;
    inset: 0 auto 0 -1px;
    width: 2px;
    background: var(--persimmon);
    will-change: transform;
  }
  aside {
    overflow: auto;
    padding: 14px 14px 20px;
    border-left: 1px solid var(--line);
    background: var(--sheet);
  }
</style>

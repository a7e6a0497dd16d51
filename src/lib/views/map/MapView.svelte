<!-- The Map: the signal flow from left to right as rivers, returns as basins beneath; a press traces a channel to the output. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { FlowMap, MapEdge, MapNode } from '$core/routing/flowMap';
  import { gainBetween, levelsOf } from '$core/routing/gain';
  import { playedAt } from '$core/lanes/heard';
  import { goalOf, trace, traceText } from '$core/routing/trace';
  import { copyText } from '$lib/ui/copyText';
  import { family } from '$lib/ui/colours';
  import { dbText, timeText } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import MapStation from './MapStation.svelte';
  import { createMapLayout } from '$lib/state/mapLayout';

  const desk = useDesk();
  const { store, selection } = desk;
  let map = $state.raw<FlowMap>({ nodes: [], edges: [], width: 0, height: 0 });
  let folded = $state.raw<ReadonlySet<string>>(new Set());
  let only = $state(false);
  let cues = $state(true);
  let traced = $state<string | null>(selection.last);
  let view = $state({ x: 0, y: 0, scale: 1 });
  let box = $state<HTMLElement>();
  let moved = false;
  /** An edge end that is being dragged to another bus. */
  let rerouting = $state.raw<{ from: string; x: number; y: number; over: string | null } | null>(null);

  let fitted = false;
  const layout = createMapLayout((next) => {
    map = next;
    if (!fitted) fit();
    fitted = true;
  });
  const ask = () =>
    layout.ask(() => ({
      document: store.document(),
      selected: only && selection.ids.size ? [...selection.ids] : null,
      folded: [...folded],
      cues
    }));
  /** Until it is moved by hand the Map keeps to its frame. */
  let own = false;
  onMount(() => {
    const watch = new ResizeObserver(() => !own && fit());
    if (box) watch.observe(box);
    return () => watch.disconnect();
  });
  onMount(() => {
    const unlisten = store.onChanges(ask);
    return () => {
      unlisten();
      layout.close();
    };
  });
  $effect(() => {
    void folded;
    void cues;
    if (only) void selection.ids;
    ask();
  });

  const fit = () => {
    if (!box || map.width === 0) return;
    const scale = Math.max(0.3, Math.min(1.3, box.clientWidth / map.width, box.clientHeight / map.height));
    view = {
      scale,
      x: Math.max(0, (box.clientWidth - map.width * scale) / 2),
      y: Math.max(0, (box.clientHeight - map.height * scale) / 2)
    };
  };

  let version = $state(0);
  $effect(() => store.onChanges(() => void version++));
  const shown = $derived.by(() => {
    void version;
    if (!traced || !store.session.channel.has(traced)) return null;
    const result = trace(store.session, traced, goalOf(store.session, traced), { limit: 24, at: desk.now.place() });
    return result.ok ? result.value : null;
  });
  /** Edges and stations of the trace, with the level as the signal leaves each. */
  const path = $derived.by(() => {
    const edges = new Set<string>();
    const tags = new Map<string, number>();
    const heard = shown?.at == null ? store.session : playedAt(store.session, shown.at);
    for (const { stations } of shown?.paths ?? [])
      stations.forEach(({ id, by }, i) => {
        const next = stations[i + 1]?.id ?? (shown!.to.pair === null ? null : `#${shown!.to.pair}`);
        if (next) edges.add(`${by === 'send' ? 'send' : 'output'} ${id} ${next}`);
        // All paths together, as they leave the station.
        if (!tags.has(id)) tags.set(id, levelsOf(gainBetween(heard, traced!, id)!).power);
      });
    return { edges, tags };
  });
  const at = $derived(new Map(map.nodes.map((node) => [node.id, node])));
  /** The line that the stems cross on their way into the mix bus, and the edges by which they are not sound. */
  const stems = $derived.by(() => {
    const { stems: all, sound, flaws } = store.soundness;
    const crossed = all.flatMap(({ id }) => at.get(id) ?? []);
    const mix = at.get('mix');
    const flawed = new Set(flaws.map(({ edge: { via, from, to } }) => `${via} ${from} ${to}`));
    if (!mix || crossed.length === 0) return { line: null, flawed };
    const x = Math.min(mix.x - 30, Math.max(...crossed.map((node) => node.x)) + 64);
    const ys = crossed.map(({ y }) => y);
    return { line: { x, top: Math.min(...ys) - 26, bottom: Math.max(...ys) + 22, sound }, flawed };
  });
  const colourOf = ({ via, colour }: MapEdge) => (via === 'key' ? 'var(--ochre)' : family(colour));
  const DASH: Record<string, string> = { post: '5 4', pre: '1.5 4', input: '8 3 1.5 3' };
  const saying = ({ from, to, via, tap, db, on }: MapEdge) =>
    `${at.get(from)?.name} → ${at.get(to)?.name}${via === 'key' ? ', key' : `, ${dbText(db)} dB${via === 'send' ? ` ${tap}${on ? '' : ', off'}` : ''}`}`;

  /** While it moves it is moved as one picture; at rest it is drawn sharp. */
  let gliding = $state(false);
  let rest: ReturnType<typeof setTimeout> | undefined;
  const glide = () => {
    gliding = true;
    clearTimeout(rest);
    rest = setTimeout(() => (gliding = false), 160);
  };
  const zoom = (factor: number, x: number, y: number) => {
    own = true;
    glide();
    const scale = Math.max(0.15, Math.min(3, view.scale * factor));
    view = { scale, x: x - ((x - view.x) * scale) / view.scale, y: y - ((y - view.y) * scale) / view.scale };
  };
  const onwheel = (event: WheelEvent) => {
    event.preventDefault();
    const frame = box!.getBoundingClientRect();
    if (event.ctrlKey || event.metaKey || !event.shiftKey)
      zoom(Math.exp(-event.deltaY * 0.0016), event.clientX - frame.left, event.clientY - frame.top);
    else {
      own = true;
      glide();
      view = { ...view, x: view.x - event.deltaY };
    }
  };
  const pan = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const target = event.currentTarget as HTMLElement;
    const start = { x: event.clientX - view.x, y: event.clientY - view.y };
    const [x0, y0] = [event.clientX, event.clientY];
    moved = false;
    const move = (now: PointerEvent) => {
      if (!moved && Math.hypot(now.clientX - x0, now.clientY - y0) < 4) return;
      moved = own = true;
      glide();
      view = { ...view, x: now.clientX - start.x, y: now.clientY - start.y };
    };
    const done = () => {
      target.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', done);
    };
    target.addEventListener('pointermove', move);
    window.addEventListener('pointerup', done);
  };
  const point = (event: PointerEvent | MouseEvent) => {
    const frame = box!.getBoundingClientRect();
    return { x: (event.clientX - frame.left - view.x) / view.scale, y: (event.clientY - frame.top - view.y) / view.scale };
  };
  /** The bus or return nearest to a point, where one is near. */
  const busAt = (x: number, y: number): MapNode | null => {
    const near = map.nodes
      .filter(({ kind }) => kind === 'bus' || kind === 'return' || kind === 'mix')
      .map((node) => ({ node, far: Math.hypot(node.x - x, (node.y - y) * 1.4) }))
      .sort((a, b) => a.far - b.far)[0];
    return near && near.far < 46 ? near.node : null;
  };
  const grab = (event: PointerEvent, edge: MapEdge) => {
    if (edge.via !== 'output' || event.button !== 0) return;
    event.stopPropagation();
    event.preventDefault();
    const move = (now: PointerEvent) => {
      const { x, y } = point(now);
      rerouting = { from: edge.from, x, y, over: busAt(x, y)?.id ?? null };
    };
    const done = () => {
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', done);
      const to = rerouting?.over;
      rerouting = null;
      if (to && to !== edge.to) store.act([{ do: 'channels.route', ids: selection.around(edge.from), to }]);
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', done);
  };
  const choose = (event: MouseEvent, id: string) => {
    event.stopPropagation();
    if (id.startsWith('#')) return;
    selection.click(
      id,
      map.nodes.map((node) => node.id),
      { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey }
    );
    traced = id;
  };
  const fold = (id: string) => {
    const next = new Set(folded);
    if (!next.delete(id)) next.add(id);
    folded = next;
  };
  const hidden = $derived(store.channels.filter((channel) => channel.hidden).length);
  const hasCues = $derived(store.channels.some(({ kind }) => kind === 'cue'));
  const order = $derived(map.nodes.filter(({ kind }) => kind !== 'output'));
  const onkeydown = (event: KeyboardEvent, node: MapNode) => {
    const step = { ArrowDown: 1, ArrowUp: -1, ArrowRight: 0, ArrowLeft: 0 }[event.key];
    if (event.key === 'Enter') {
      selection.set([node.id], node.id);
      traced = node.id;
    } else if (event.key === 'f' && node.members) fold(node.id);
    else if (event.key === 'Escape') traced = null;
    else if (step !== undefined) {
      const to =
        event.key === 'ArrowRight'
          ? store.session.channel.get(node.id)?.outputId
          : event.key === 'ArrowLeft'
            ? order.find(({ id }) => store.session.channel.get(id)?.outputId === node.id)?.id
            : order[order.findIndex(({ id }) => id === node.id) + step]?.id;
      if (to) box?.querySelector<SVGElement>(`[data-node="${CSS.escape(to)}"]`)?.focus();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  onMount(() =>
    desk.commands.add([
      { title: 'Fit the Map', group: 'Views', run: fit },
      { title: 'Map: only the selection and what it touches', group: 'Views', run: () => (only = !only) },
      { title: 'Map: show or leave out cues', group: 'Views', run: () => (cues = !cues) },
      { title: 'Map: unfold all', group: 'Views', run: () => (folded = new Set()) },
      { title: 'Export the Map as SVG', group: 'Session', run: () => location.assign(`/api/sessions/${store.id}/flow?format=svg`) },
      {
        title: 'Export the flow as GraphML',
        group: 'Session',
        run: () => location.assign(`/api/sessions/${store.id}/flow?format=graphml`)
      },
      { title: 'Export the flow as DOT', group: 'Session', run: () => location.assign(`/api/sessions/${store.id}/flow?format=dot`) }
    ])
  );
</script>

<section class="map" aria-label="Map">
  <div class="tools">
    <button class="plain" onclick={() => ((own = false), fit())}>Fit</button>
    <button class="plain" aria-pressed={only} class:on={only} onclick={() => (only = !only)}>Only the selection and what it touches</button>
    {#if hasCues}<button class="plain" aria-pressed={cues} class:on={cues} onclick={() => (cues = !cues)}>Cues</button>{/if}
    {#if hidden}<button class="plain" title="Show them again" onclick={() => store.act([{ do: 'showings.recall' }])}>{hidden} hidden</button
      >{/if}
    {#if folded.size}<button class="plain" onclick={() => (folded = new Set())}>Unfold {folded.size}</button>{/if}
    <span class="grow"></span>
    <span class="hint">{traced ? 'Double-click a bus to fold it. Drag a river’s end to another bus.' : 'Press a name to trace it.'}</span>
    {#each ['svg', 'graphml', 'dot'] as format (format)}
      <a class="plain" href="/api/sessions/{store.id}/flow?format={format}" download
        >{format === 'graphml' ? 'GraphML' : format.toUpperCase()}</a
      >
    {/each}
  </div>
  {#if shown && traced}
    <aside class="told" aria-label="Trace">
      <strong
        >{store.channel(traced)?.name} → {shown.to.name}{shown.at === null ? '' : ` at ${timeText(shown.at, store.settings.rate)}`}</strong
      >
      <span class="num"
        >{shown.paths.length} path{shown.paths.length === 1 ? '' : 's'} · L {dbText(shown.total.left)} · R {dbText(shown.total.right)} · power
        {shown.exact ? '' : '≤ '}{dbText(shown.total.power)} dB</span
      >
      {#if shown.uncounted.length}<span class="hint">not counted: {shown.uncounted.join(', ')}</span>{/if}
      <button
        class="plain"
        onclick={() =>
          void copyText(traceText(store.session, shown)).then((done) =>
            store.say(done ? 'Trace copied as text.' : 'The browser did not allow copying.')
          )}>Copy as text</button
      >
    </aside>
  {/if}
  <!-- svelte-ignore a11y_no_static_element_interactions (panning; every station inside is a button of its own) -->
  <div
    class="paper"
    bind:this={box}
    {onwheel}
    onpointerdown={pan}
    onclick={() => !moved && (traced = null)}
    onkeydown={() => undefined}
    class:moving={rerouting}
  >
    <svg
      class:gliding
      width={map.width}
      height={map.height}
      style:transform="translate({view.x}px, {view.y}px) scale({view.scale})"
      role="group"
      aria-label="Signal flow, left to right"
    >
      <g class:tracing={shown}>
        {#each map.edges as edge (edge.key)}
          {@const lit = path.edges.has(`${edge.via} ${edge.from} ${edge.to}`)}
          <path
            class="river {edge.via}"
            class:lit
            class:off={!edge.on}
            class:flawed={stems.flawed.has(`${edge.via} ${edge.from} ${edge.to}`)}
            d={edge.d}
            style:stroke={colourOf(edge)}
            stroke-width={edge.via === 'output' ? edge.width : edge.via === 'send' ? Math.max(1.2, edge.width) : 1.6}
            stroke-dasharray={edge.via === 'send' ? DASH[edge.tap] : edge.via === 'key' ? '1 5' : undefined}
          >
            <title>{saying(edge)}</title>
          </path>
        {/each}
        {#each map.edges as edge (`end ${edge.key}`)}
          {@const end = at.get(edge.to)}
          {#if edge.via === 'output' && end && !edge.from.startsWith('#')}
            <circle
              class="end"
              cx={end.x - 22}
              cy={end.y + ((at.get(edge.from)?.y ?? end.y) - end.y) * 0.06}
              r="9"
              role="presentation"
              onpointerdown={(event) => grab(event, edge)}
            />
          {/if}
        {/each}
        {#if stems.line}
          {@const { x, top, bottom, sound } = stems.line}
          <g class="stems" class:sound>
            <title>{sound ? 'The stems: what crosses this line adds up to the mix-bus input' : 'The stems do not add up: see Prints'}</title
            >
            <line x1={x} x2={x} y1={top} y2={bottom} />
            <text {x} y={bottom + 14}>{sound ? 'stems' : 'stems: not sound'}</text>
          </g>
        {/if}
        {#if rerouting}
          {@const from = at.get(rerouting.from)}
          {#if from}<path class="ghost" d="M{from.x + 8} {from.y}L{rerouting.x} {rerouting.y}" />{/if}
        {/if}
        {#each map.nodes as node (node.id)}
          <MapStation
            {node}
            selected={selection.has(node.id)}
            lit={path.tags.has(node.id) || (shown?.to.pair != null && node.id === `#${shown.to.pair}`)}
            over={rerouting?.over === node.id}
            tag={path.tags.has(node.id)
              ? `${shown?.exact === false && node.id !== traced ? '≤ ' : ''}${dbText(path.tags.get(node.id)!)} dB`
              : ''}
            onchoose={choose}
            onfold={fold}
            {onkeydown}
          />
        {/each}
      </g>
    </svg>
  </div>
</section>

<style>
  .map {
    position: relative;
    display: grid;
    height: 100%;
  }
  .map:has(.told) {
    grid-template-rows: auto auto minmax(0, 1fr);
  }
  .map:not(:has(.told)) {
    grid-template-rows: auto minmax(0, 1fr);
  }
  .tools {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    padding: 7px 12px;
    border-bottom: 1px solid var(--line);
  }
  .grow {
    flex: 1;
  }
  .hint {
    margin-right: 8px;
    color: var(--muted);
    font-size: 12px;
  }
  .on {
    border-color: var(--kelp);
    color: var(--kelp);
  }
  .paper {
    overflow: hidden;
    background: var(--paper);
    cursor: grab;
    touch-action: none;
    user-select: none;
  }
  svg {
    transform-origin: 0 0;
    overflow: visible;
  }
  .gliding {
    will-change: transform;
  }
  .moving {
    cursor: crosshair;
  }
  .river {
    fill: none;
    stroke-linecap: round;
    opacity: 0.72;
  }
  .send {
    opacity: 0.6;
  }
  .river.off {
    opacity: 0.18;
  }
  .tracing .river:not(.lit) {
    opacity: 0.14;
  }
  .river.lit {
    opacity: 1;
    filter: brightness(0.82);
  }
  .river.flawed {
    stroke: var(--persimmon) !important;
    opacity: 0.95;
  }
  .stems line {
    stroke: var(--persimmon);
    stroke-width: 1.5;
    stroke-dasharray: 7 4;
  }
  .stems text {
    fill: var(--persimmon);
    font-size: 12px;
    text-anchor: middle;
  }
  .stems.sound line {
    stroke: var(--kelp);
  }
  .stems.sound text {
    fill: var(--kelp);
  }
  .end {
    fill: transparent;
    cursor: crosshair;
  }
  .end:hover {
    fill: color-mix(in oklab, var(--kelp) 30%, transparent);
  }
  .ghost {
    fill: none;
    stroke: var(--kelp);
    stroke-dasharray: 4 4;
    stroke-width: 2;
  }
  .told {
    display: flex;
    align-items: center;
    gap: 14px;
    min-height: 42px;
    padding: 4px 12px;
    border-bottom: 1px solid var(--line);
    background: var(--sheet);
  }
  .told .num {
    white-space: nowrap;
  }
  .told .hint {
    flex: 1;
  }
</style>

<!-- The Map: the signal flow from left to right as rivers, each return where it flows in; a press traces a channel to the output. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { onMount } from 'svelte';
  import type { FlowMap, MapEdge, MapNode } from '$core/map/flowMap';
  import { gainBetween, levelsOf } from '$core/routing/gain';
  import { playedAt } from '$core/lanes/heard';
  import { goalOf, trace, traceText } from '$core/routing/trace';
  import { copyText } from '$lib/ui/clipboard';
  import { family } from '$lib/ui/colours';
  import { dbText, timeText } from '$lib/ui/format';
  import { isPress } from '$lib/ui/keys';
  import { useDesk } from '$lib/state/desk';
  import MapStation from './MapStation.svelte';
  import { createPanning } from './panning.svelte';
  import { createMapLayout } from '$lib/state/mapLayout';

  const desk = useDesk();
  const { store, selection } = desk;
  let map = $state.raw<FlowMap>({ nodes: [], edges: [], strands: [], folded: [], width: 0, height: 0 });
  /** Branches folded by hand; null while what does not fit is folded. */
  let folded = $state.raw<ReadonlySet<string> | null>(null);
  let only = $state(false);
  let cues = $state(false);
  let traced = $state<string | null>(selection.last);
  /** The station under the pointer. */
  let near = $state<string | null>(null);
  /** The strand under the pointer. */
  let close = $state<string | null>(null);
  let box = $state<HTMLElement>();
  let drawing = $state<SVGSVGElement>();
  /** An edge end that is being dragged to another bus. */
  let rerouting = $state.raw<{ from: string; x: number; y: number; over: string | null } | null>(null);
  const panning = createPanning();
  /** Names are 12 px in the drawing, and never under 11 where it opens. */
  const READABLE = 0.93;

  /** Where the station that was folded or unfolded was: it stays under the pointer. */
  let kept: MapNode | null = null;
  const layout = createMapLayout((next) => {
    map = next;
    const moved = kept && next.nodes.find(({ id }) => id === kept?.id);
    if (kept && moved) panning.follow(kept, moved);
    else if (!panning.own) fit();
    kept = null;
  });
  const ask = () =>
    layout.ask(() => ({
      document: store.document(),
      selected: only && selection.ids.size ? [...selection.ids] : null,
      folded: folded && [...folded],
      cues,
      width: box?.clientWidth ?? 1280,
      height: box?.clientHeight ?? 640,
      readable: READABLE
    }));
  const fit = () => panning.fit(map.width, map.height, READABLE);
  onMount(() => {
    const watch = new ResizeObserver(() => !panning.own && ask());
    watch.observe(box!);
    const detach = panning.attach(box!, drawing!);
    return () => {
      watch.disconnect();
      detach();
    };
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
  const edgeOf = $derived(new Map(map.edges.map((edge) => [edge.key, edge])));
  const rivers = $derived(map.edges.filter(({ via }) => via !== 'send'));
  /** Sends drawn one by one: those on the trace, and those of what is near. */
  const single = $derived(
    map.edges.filter(
      ({ via, key, from, to }) =>
        via === 'send' && (path.edges.has(key) || from === near || to === near || (close !== null && inClose.has(key)))
    )
  );
  const inClose = $derived(new Set(map.strands.find(({ key }) => key === close)?.sends));
  const opened = $derived(new Set(single.map(({ key }) => key)));
  /** The line that the stems cross on their way into the mix bus, and the edges by which they are not sound. */
  const stems = $derived.by(() => {
    const { stems: all, sound, flaws } = store.soundness;
    const crossed = all.flatMap(({ id }) => at.get(id) ?? []);
    const mix = at.get('mix');
    const flawed = new Set(flaws.map(({ edge: { via, from, to } }) => `${via} ${from} ${to}`));
    if (!mix || crossed.length === 0) return { line: null, flawed };
    const x = Math.min(mix.x - 26, Math.max(...crossed.map((node) => node.x + node.w)) + 16);
    const ys = crossed.map(({ y }) => y);
    return { line: { x, top: Math.min(...ys) - 24, bottom: Math.max(...ys) + 22, sound }, flawed };
  });
  const colourOf = ({ via, colour }: MapEdge) => (via === 'key' ? 'var(--ochre)' : family(colour));
  const DASH: Record<string, string> = { post: '5 4', pre: '1.5 4', input: '8 3 1.5 3' };
  const saying = ({ from, to, via, tap, db, on, count }: MapEdge) => {
    const how =
      via === 'key' ? ', key' : count > 1 ? `, ${count} sends` : `, ${dbText(db)} dB${via === 'send' ? ` ${tap}${on ? '' : ', off'}` : ''}`;
    return `${at.get(from)?.name} → ${at.get(to)?.name}${how}`;
  };

  /** The bus or return nearest to a point, where one is near. */
  const busAt = (x: number, y: number): MapNode | null =>
    map.nodes.find(
      (node) =>
        ['bus', 'return', 'mix'].includes(node.kind) && x > node.x - 26 && x < node.x + node.w + 12 && Math.abs(y - node.y) < node.h / 2 + 8
    ) ?? null;
  const grab = (event: PointerEvent, edge: MapEdge) => {
    if (edge.via !== 'output' || event.button !== 0) return;
    event.stopPropagation();
    event.preventDefault();
    const move = (now: PointerEvent) => {
      const { x, y } = panning.place(now);
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
    const next = new Set(map.folded);
    if (!next.delete(id)) next.add(id);
    kept = at.get(id) ?? null;
    folded = next;
  };
  const hidden = $derived(store.channels.filter((channel) => channel.hidden).length);
  const hasCues = $derived(store.channels.some(({ kind }) => kind === 'cue'));
  const order = $derived(map.nodes.filter(({ kind }) => kind !== 'output'));
  const onkeydown = (event: KeyboardEvent, node: MapNode) => {
    const step = { ArrowDown: 1, ArrowUp: -1, ArrowRight: 0, ArrowLeft: 0 }[event.key];
    if (isPress(event, 'Enter')) {
      if (node.folded) fold(node.id);
      selection.set([node.id], node.id);
      traced = node.id;
    } else if (isPress(event, 'f') && node.foldable) fold(node.id);
    else if (isPress(event, 'Escape')) traced = null;
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
      { title: 'Map: fold what does not fit', group: 'Views', run: () => (folded = null) },
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
    <Button color="alternative" onclick={fit}>Fit</Button>
    <Button color="alternative" aria-pressed={only} onclick={() => (only = !only)}>Only the selection and what it touches</Button>
    {#if hasCues}<Button color="alternative" aria-pressed={cues} onclick={() => (cues = !cues)}>Cues</Button>{/if}
    {#if hidden}<Button color="alternative" data-hint="Show them again" onclick={() => store.act([{ do: 'showings.recall' }])}
        >{hidden} hidden</Button
      >{/if}
    {#if map.folded.length}<Button color="alternative" onclick={() => (folded = new Set())}>Unfold {map.folded.length}</Button>{/if}
    {#if folded}<Button color="alternative" onclick={() => (folded = null)}>Fold what does not fit</Button>{/if}
    <span class="grow"></span>
    <span class="hint">{traced ? 'Drag a river’s end to another bus.' : 'Press a name to trace it, a count to unfold it.'}</span>
    {#each ['svg', 'graphml', 'dot'] as format (format)}
      <Button color="alternative" href="/api/sessions/{store.id}/flow?format={format}" download
        >{format === 'graphml' ? 'GraphML' : format.toUpperCase()}</Button
      >
    {/each}
  </div>
  <!-- svelte-ignore a11y_no_static_element_interactions (panning; every station inside is a button of its own) -->
  <div class="paper" bind:this={box} onclick={() => (traced = null)} onkeydown={() => undefined} class:moving={rerouting}>
    <svg bind:this={drawing} width={map.width} height={map.height} role="group" aria-label="Signal flow, left to right">
      <g class:tracing={shown}>
        {#each rivers as edge (edge.key)}
          <path
            class="river {edge.via}"
            class:lit={path.edges.has(`${edge.via} ${edge.from} ${edge.to}`)}
            class:off={!edge.on}
            class:flawed={stems.flawed.has(`${edge.via} ${edge.from} ${edge.to}`)}
            d={edge.d}
            style:stroke={colourOf(edge)}
            stroke-width={edge.via === 'output' ? edge.width : 1.6}
            stroke-dasharray={edge.via === 'key' ? '1 5' : undefined}
          >
            <title>{saying(edge)}</title>
          </path>
        {/each}
        {#each map.strands as strand (strand.key)}
          <g
            class="strand"
            class:off={!strand.on}
            class:open={strand.sends.some((key) => opened.has(key))}
            class:flawed={strand.sends.some((key) => stems.flawed.has(key))}
            role="presentation"
            onpointerenter={() => (close = strand.key)}
            onpointerleave={() => (close = null)}
          >
            <title>{strand.sends.map((key) => saying(edgeOf.get(key)!)).join('\n')}</title>
            <path class="touch" d={strand.d} />
            <path d={strand.d} style:stroke={family(strand.colour)} stroke-width={strand.width} stroke-dasharray="4 3.5" />
            {#each strand.dots as [x, y], i (i)}<circle cx={x} cy={y} r="1.9" style:fill={family(strand.colour)} />{/each}
          </g>
        {/each}
        {#each single as edge (edge.key)}
          <path
            class="river send"
            class:lit={path.edges.has(edge.key)}
            class:off={!edge.on}
            class:flawed={stems.flawed.has(edge.key)}
            d={edge.d}
            style:stroke={colourOf(edge)}
            stroke-width={Math.max(1.4, edge.width)}
            stroke-dasharray={DASH[edge.tap]}
          >
            <title>{saying(edge)}</title>
          </path>
        {/each}
        {#each rivers as edge (`end ${edge.key}`)}
          {#if edge.mouth && !edge.to.startsWith('#')}
            <circle
              class="end"
              cx={edge.mouth[0] - 9}
              cy={edge.mouth[1]}
              r="7"
              data-end={edge.from}
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
            onnear={(id) => (near = id)}
            {onkeydown}
          />
        {/each}
      </g>
    </svg>
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
      <Button
        color="alternative"
        class="mt-0.5 justify-self-start"
        onclick={() =>
          void copyText(traceText(store.session, shown)).then((done) =>
            store.say(done ? 'Trace copied as text.' : 'The browser did not allow copying.')
          )}>Copy as text</Button
      >
    </aside>
  {/if}
</section>

<style>
  .map {
    position: relative;
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    height: 100%;
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
  .moving {
    cursor: crosshair;
  }
  .river {
    fill: none;
    stroke-linecap: round;
    opacity: 0.72;
  }
  .strand path,
  .river.send {
    fill: none;
  }
  .strand {
    opacity: 0.75;
  }
  .strand .touch {
    stroke: transparent;
    stroke-width: 9;
  }
  .strand.open {
    opacity: 0.25;
  }
  .river.send {
    opacity: 0.95;
  }
  .river.off,
  .strand.off {
    opacity: 0.18;
  }
  .tracing .river:not(.lit),
  .tracing .strand {
    opacity: 0.13;
  }
  .river.lit {
    opacity: 1;
    filter: brightness(0.82);
  }
  .strand.flawed path:not(.touch),
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
    position: absolute;
    right: 14px;
    bottom: 12px;
    display: grid;
    gap: 4px;
    max-width: 430px;
    padding: 10px 14px;
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--sheet);
  }
</style>

<!-- A station of the Map: a track’s name, a bus in its contour, a return or cue as a basin, an output; with its level on a trace. -->
<script lang="ts">
  import { basinPath } from '$core/formats/flowSvg';
  import type { MapNode } from '$core/map/flowMap';
  import { textWidth } from '$core/map/text';
  import { family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';

  type Props = {
    node: MapNode;
    selected: boolean;
    /** On the way that is traced; about to be the new end of a dragged river. */
    lit: boolean;
    over: boolean;
    /** The level as the signal leaves it, where it is traced. */
    tag: string;
    onchoose: (event: MouseEvent, id: string) => void;
    onfold: (id: string) => void;
    onkeydown: (event: KeyboardEvent, node: MapNode) => void;
    onnear: (id: string | null) => void;
  };
  let { node, selected, lit, over, tag, onchoose, onfold, onkeydown, onnear }: Props = $props();
  const { linking } = useDesk();
  /** Whether its level would move with that of the station under the pointer. */
  const reached = $derived(linking.reached(node.id) !== null);
  const source = $derived(node.kind === 'track' || node.kind === 'key');
  const basin = $derived(node.kind === 'return' || node.kind === 'cue');
  const { x, y, w, h } = $derived(node);
  const tagX = $derived(source ? x + 12 : x + w + 4);
  const tagWidth = $derived(textWidth(tag, 12) + 14);
</script>

<g
  class="node {node.kind}"
  class:selected
  class:lit
  class:muted={node.muted}
  class:over
  class:reached
  data-moves={node.kind === 'output' ? undefined : 'level'}
  data-of={node.id}
  role="button"
  tabindex={node.kind === 'output' ? -1 : 0}
  aria-label="{node.name}{node.folded ? `, ${node.folded} folded` : node.members ? `, ${node.members} go in` : ''}"
  data-node={node.id}
  onclick={(event) => (node.folded ? onfold(node.id) : onchoose(event, node.id))}
  ondblclick={() => node.foldable && !node.folded && onfold(node.id)}
  onkeydown={(event) => onkeydown(event, node)}
  onpointerenter={() => onnear(node.id)}
  onpointerleave={() => onnear(null)}
>
  {#if node.label !== node.name}<title>{node.name}</title>{/if}
  {#if source}
    <rect class="hit" x={x - w} y={y - h / 2} width={w + 10} height={h} />
    <text {x} y={y + 4} text-anchor="end">{node.kind === 'key' ? '⌐ ' : ''}{node.label}</text>
  {:else if node.kind === 'output'}
    <text x={x + 6} y={y + 4} class="strong">{node.label}</text>
  {:else if basin}
    <path class="basin" class:cue={node.kind === 'cue'} d={basinPath(node)} style:stroke={family(node.colour)} />
    <text x={x + w / 2} y={y + 4} text-anchor="middle">{node.label}</text>
  {:else}
    <rect
      class="box"
      {x}
      y={y - h / 2}
      width={w}
      height={h}
      rx="7"
      style:stroke={node.kind === 'mix' ? 'var(--ink)' : family(node.colour)}
    />
    <text x={x + 9} y={y + 4} class="strong">{node.label}</text>
    {#if node.foldable}
      <g
        class="fold"
        role="presentation"
        onclick={(event) => {
          event.stopPropagation();
          onfold(node.id);
        }}
      >
        <title>{node.folded ? `Unfold ${node.folded} channels` : 'Fold into one'}</title>
        <rect class="hit" x={x + w - 30} y={y - h / 2} width="30" height={h} />
        <text x={x + w - 8} y={y + 4} text-anchor="end" class="small">{node.folded ? `${node.folded} ▸` : '▾'}</text>
      </g>
    {/if}
  {/if}
  {#if tag}
    <rect class="pill" x={tagX} y={y - 8.5} width={tagWidth} height="17" rx="8.5" />
    <text class="tag" x={tagX + tagWidth / 2} y={y + 4} text-anchor="middle">{tag}</text>
  {/if}
</g>

<style>
  .node {
    cursor: pointer;
    outline: none;
  }
  .node text {
    fill: var(--ink);
    font-size: 12px;
  }
  .node .strong {
    font-weight: 700;
    letter-spacing: 0.02em;
  }
  .node .small {
    fill: var(--muted);
    font-size: 12px;
  }
  .fold:hover .small {
    fill: var(--kelp);
    font-weight: 700;
  }
  .hit {
    fill: transparent;
  }
  .box {
    fill: var(--sheet);
    stroke-width: 2;
  }
  .mix .box {
    stroke-width: 2.5;
  }
  .basin {
    fill: var(--sheet);
    stroke-width: 1.6;
  }
  .basin.cue {
    stroke-dasharray: 5 3;
  }
  .node.reached text {
    fill: var(--kelp);
    font-weight: 600;
  }
  .node.reached .box,
  .node.reached .basin {
    stroke-width: 4;
  }
  .muted text:not(.tag) {
    text-decoration: line-through;
  }
  .selected text:not(.tag, .small) {
    fill: var(--kelp);
    font-weight: 700;
  }
  .node:focus-visible text:not(.tag, .small) {
    text-decoration: underline;
  }
  .pill {
    fill: var(--kelp);
  }
  .node .tag {
    fill: var(--on-kelp);
    font: 600 12px var(--font-mono);
    letter-spacing: -0.04em;
  }
  .over .box,
  .over .basin {
    fill: var(--picked);
    stroke: var(--kelp);
    stroke-width: 4;
  }
  .node:focus-visible .box,
  .node:focus-visible .basin {
    stroke: var(--kelp);
    stroke-width: 4;
  }
  :global(.tracing) .node:not(.lit) {
    opacity: 0.32;
  }
</style>

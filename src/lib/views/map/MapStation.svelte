<!-- A station of the Map: a track’s name, a bus as a circle, a return or cue as a basin, an output; with its level on a trace. -->
<script lang="ts">
  import type { MapNode } from '$core/routing/flowMap';
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
  };
  let { node, selected, lit, over, tag, onchoose, onfold, onkeydown }: Props = $props();
  const { linking } = useDesk();
  /** Whether its level would move with that of the station under the pointer. */
  const reached = $derived(linking.reached(node.id) !== null);
  const low = $derived(node.kind === 'return' || node.kind === 'cue');
  const source = $derived(node.kind === 'track' || node.kind === 'key');
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
  transform="translate({node.x} {node.y})"
  role="button"
  tabindex={node.kind === 'output' ? -1 : 0}
  aria-label="{node.name}{node.members ? `, ${node.members} go in` : ''}"
  data-node={node.id}
  onclick={(event) => onchoose(event, node.id)}
  ondblclick={() => node.members > 0 && onfold(node.id)}
  onkeydown={(event) => onkeydown(event, node)}
>
  {#if low}
    <path
      class="basin"
      class:cue={node.kind === 'cue'}
      d="M-56 -13H56V-4Q56 13 38 13H-38Q-56 13 -56 -4Z"
      style:stroke={family(node.colour)}
    />
    <text y="4" text-anchor="middle">{node.name.length > 16 ? `${node.name.slice(0, 15)}…` : node.name}</text>
  {:else if node.kind === 'output'}
    <text x="6" y="4" class="strong">{node.name}</text>
  {:else if source}
    <text x="0" y="4" text-anchor="end">{node.kind === 'key' ? '⌐ ' : ''}{node.name}</text>
  {:else}
    <circle r={6 + Math.min(5, node.width / 3)} style:stroke={node.kind === 'mix' ? 'var(--ink)' : family(node.colour)} />
    <text y="-16" text-anchor="middle" class="strong">{node.name}</text>
    {#if node.folded}<text y="22" text-anchor="middle" class="small">{node.folded} folded</text>{/if}
  {/if}
  {#if tag}
    <text class="tag" x={low ? 0 : source ? 10 : 16} y={low ? 30 : source ? -7 : 19} text-anchor={low ? 'middle' : 'start'}>{tag}</text>
  {/if}
</g>

<style>
  .node.reached text {
    fill: var(--kelp);
    font-weight: 600;
  }
  .node.reached circle,
  .node.reached .basin {
    stroke-width: 4;
  }
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
    font-size: 10.5px;
  }
  .node circle {
    fill: var(--sheet);
    stroke-width: 3;
  }
  .basin {
    fill: var(--sheet);
    stroke-width: 1.6;
  }
  .basin.cue {
    stroke-dasharray: 5 3;
  }
  .muted text {
    text-decoration: line-through;
  }
  .selected text:not(.tag) {
    fill: var(--kelp);
    font-weight: 700;
  }
  .node:focus-visible text {
    text-decoration: underline;
  }
  .node .tag {
    paint-order: stroke;
    stroke: var(--paper);
    stroke-width: 4px;
    fill: var(--kelp);
    font: 600 11.5px var(--font-mono);
  }
  .over circle,
  .over .basin {
    fill: var(--picked);
    stroke: var(--kelp);
    stroke-width: 4;
  }
  .node:focus-visible circle,
  .node:focus-visible .basin {
    stroke: var(--kelp);
    stroke-width: 4;
  }
  :global(.tracing) .node:not(.lit) {
    opacity: 0.4;
  }
</style>

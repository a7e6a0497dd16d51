<!-- One row of the Timeline: a channel's name with the groups that its edits follow, and its clips, or what flows into it. -->
<script lang="ts">
  import type { Clip } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import { peaksNow } from '$lib/state/peaks';
  import type { SampleBlocks } from '$lib/state/samples';
  import { family } from '$lib/ui/colours';
  import type { Line } from '../ledger/rows';
  import type { TimeRange } from './edits.svelte';
  import type { Lanes } from './lanes.svelte';
  import { fitted, paintsOf, type Paints } from './canvas';
  import { paintRow } from './paint';
  import type { TimeSpan } from './span.svelte';
  import { COLUMNS } from './sums';

  type Props = {
    line: Line;
    top: number;
    height: number;
    span: TimeSpan;
    grid: readonly number[];
    /** What it would look like, of a drag under way. */
    preview: readonly Clip[] | undefined;
    chosen: ReadonlySet<string>;
    range: TimeRange | null;
    proposals: readonly { readonly from: number; readonly to: number; readonly chosen: boolean }[];
    samples: SampleBlocks;
    /** Told when a picture can be drawn better; and its count, for this row to draw again. */
    arrived: () => void;
    arrivals: number;
    sum: Float32Array | undefined;
    dark: boolean;
    order: readonly string[];
    lanes: Lanes;
  };
  let { line, top, height, span, grid, preview, chosen, range, proposals, samples, arrived, arrivals, sum, dark, order, lanes }: Props =
    $props();
  const { store, selection, folding } = useDesk();
  let canvas = $state<HTMLCanvasElement>();
  const channel = $derived(store.channel(line.id));
  const track = $derived(channel?.kind === 'track' || channel?.kind === 'key');
  const colour = $derived(!channel || channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const clips = $derived(preview ?? (track ? store.clips(line.id) : []));
  const count = $derived(store.lanes(line.id).length);
  /** Where its mute lane shuts it, as far as that is in view. */
  const silences = $derived.by(() => {
    const lane = store.playingLane({ channelId: line.id, of: 'mute' });
    if (!lane) return [];
    const points = store.points(lane.id);
    const [first, last] = [span.from, span.from + span.width * span.perPixel];
    return points
      .map(({ at, value }, i) => ({ value, from: i ? Math.max(first, at) : first, to: Math.min(last, points[i + 1]?.at ?? last) }))
      .filter(({ value, from, to }) => value === 1 && to > from);
  });
  const groups = $derived(store.linksOf(line.id).filter(({ link }) => linked(link.attributes).length > 0));
  const linked = (attributes: readonly string[]) => ['cuts', 'moves', 'fades'].filter((each) => attributes.includes(each));

  // Scrolling gives every row its place anew: what is the same wakes nothing.
  const own = $derived(height);

  let paints: Paints | null = null;
  $effect(() => {
    void [dark, colour];
    if (canvas) paints = paintsOf(canvas, '--paper');
  });
  $effect(() => {
    void [dark, colour, arrivals];
    const { from, perPixel, width } = span;
    if (!canvas || !paints || !channel) return;
    const scale = fitted(canvas, width, own - 1);
    paintRow(canvas, {
      ...{ from, perPixel, width, height: own - 1, scale, clips, grid, proposals, samples, paints },
      selected: chosen,
      range: range && selection.has(line.id) ? range : null,
      sum: track || !sum ? null : { levels: sum, step: span.whole / COLUMNS },
      mediaOf: (id) => store.session.media.get(id),
      peaksOf: (sha256) => peaksNow(sha256, arrived)
    });
  });
</script>

{#if channel}
  <div
    class="row"
    class:selected={selection.has(line.id)}
    class:summing={!track}
    class:faded={channel.resting || channel.mute}
    role="row"
    aria-level={line.depth + 1}
    aria-selected={selection.has(line.id)}
    data-row={line.id}
    style:top="{top}px"
    style:height="{height}px"
  >
    <div class="name" role="rowheader" style:padding-left="{16 + line.depth * 9}px">
      <i class="band" style:background={colour}></i>
      {#if line.members}
        <button class="fold" tabindex="-1" aria-label="Fold or unfold {channel.name}" onclick={() => folding.turn(line.id)}
          >{line.folded ? '▸' : '▾'}</button
        >
      {/if}
      <button
        class="label"
        tabindex="-1"
        data-hint={channel.name}
        onclick={(event) => selection.click(line.id, order, { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey })}
        >{channel.name}</button
      >
      {#if count}
        <button
          class="lanes"
          tabindex="-1"
          aria-expanded={lanes.isOpen(line.id)}
          data-hint="{count} lane{count === 1 ? '' : 's'}: {lanes.isOpen(line.id) ? 'fold' : 'unfold'}"
          onclick={() => lanes.fold(line.id)}>∿ {count}</button
        >
      {/if}
      {#if channel.mute}<span class="mark" data-hint="Muted">M</span>{/if}
      {#if proposals.length}<span class="bleeds">bleed</span>{/if}
      {#each groups as { link, active } (link.id)}
        <span class="badge" class:active data-hint="{link.name}: {linked(link.attributes).join(', ')} go together">{link.badge}</span>
      {/each}
    </div>
    <div
      class="lane"
      role="gridcell"
      data-lane={line.id}
      aria-label="{channel.name}: {track ? `${clips.length} clip${clips.length === 1 ? '' : 's'}` : 'what flows into it'}"
    >
      <canvas bind:this={canvas} style:color={colour}></canvas>
      {#each silences as { from, to } (from)}
        <i
          class="silent"
          role="img"
          aria-label="Muted by its lane"
          data-hint="Muted by its lane"
          style:left="{span.xOf(from)}px"
          style:width="{(to - from) / span.perPixel}px"
        ></i>
      {/each}
    </div>
  </div>
{/if}

<style>
  .row {
    position: absolute;
    display: grid;
    grid-template-columns: var(--names) minmax(0, 1fr);
    width: 100%;
    contain: layout style;
    border-bottom: 1px solid var(--hair);
    background: var(--paper);
  }
  .row.selected .name {
    background: var(--picked);
  }
  .faded .label {
    color: var(--muted);
    font-style: italic;
  }
  .name {
    position: relative;
    display: flex;
    align-items: center;
    gap: 5px;
    min-width: 0;
    padding-right: 8px;
    border-right: 1px solid var(--line);
  }
  .band {
    position: absolute;
    inset: 0 auto 0 0;
    width: 8px;
  }
  .fold {
    width: 16px;
    color: var(--muted);
  }
  .label {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .summing .label {
    font-weight: 650;
    letter-spacing: 0.03em;
  }
  .lanes {
    padding: 0 4px;
    border-radius: 4px;
    color: var(--muted);
    font-size: 11px;
  }
  .lanes[aria-expanded='true'] {
    color: var(--kelp);
  }
  .mark {
    padding: 0 4px;
    border-radius: 3px;
    background: var(--ink);
    color: var(--paper);
    font-size: 10.5px;
    font-weight: 650;
  }
  .bleeds {
    padding: 0 5px;
    border: 1px dashed var(--persimmon);
    border-radius: 4px;
    color: var(--persimmon);
    font-size: 10.5px;
    line-height: 15px;
  }
  .lane {
    position: relative;
    min-width: 0;
    overflow: hidden;
  }
  .silent {
    position: absolute;
    inset: 0 auto;
    background: repeating-linear-gradient(135deg, transparent 0 5px, var(--muted) 5px 6px);
    opacity: 0.5;
    pointer-events: none;
  }
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
</style>

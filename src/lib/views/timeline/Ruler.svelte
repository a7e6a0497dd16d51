<!-- The Timeline's head: bars, ranges and markers. A press puts the playhead there, a drag over it loops; ranges and markers are dragged. -->
<script lang="ts">
  import { snapped } from '$core/clips/snap';
  import { barText, timeText } from '$core/time';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { followPointer } from '$lib/ui/drag';
  import type { Edits } from './edits.svelte';
  import { placeDrag } from '$lib/ui/places';
  import type { RulerLine } from './picture';
  import type { TimeSpan } from './span.svelte';

  type Props = { span: TimeSpan; lines: readonly RulerLine[]; edits: Edits };
  let { span, lines, edits }: Props = $props();
  const { store, transport } = useDesk();
  const shown = (from: number, to: number) => to > span.from && from < span.from + span.width * span.perPixel;
  let pending = $state.raw<{ readonly from: number; readonly to: number } | null>(null);
  const loop = $derived(pending ?? transport.loop);

  const press = (event: PointerEvent) => {
    if (event.button !== 0 || (event.target as Element).closest('[data-place]')) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const at = (pointer: PointerEvent) =>
      snapped(store.session, edits.snap === 'playhead' ? 'off' : edits.snap, span.frameAt(pointer.clientX - box.left));
    const plain = span.frameAt(event.clientX - box.left);
    const from = at(event);
    followPointer(
      event,
      (pointer) => {
        if (Math.abs(pointer.clientX - event.clientX) < 4) return void (pending = null);
        const to = at(pointer);
        pending = { from: Math.min(from, to), to: Math.max(from, to) };
      },
      () => {
        if (!pending) transport.locate(edits.snap === 'off' || edits.snap === 'playhead' ? plain : from);
        else if (pending.to > pending.from) transport.setLoop(pending);
        pending = null;
      }
    );
  };
</script>

<div class="ruler" role="presentation" onpointerdown={press}>
  {#each lines as { frame, text } (frame)}
    <span class="bar num" style:left="{span.xOf(frame)}px">{text}</span>
  {/each}
  {#if loop}<span class="loop" style:left="{span.xOf(loop.from)}px" style:width="{Math.max(2, (loop.to - loop.from) / span.perPixel)}px"
    ></span>{/if}
  {#each store.ranges as range (range.id)}
    {@const end = range.start + range.length}
    {#if shown(range.start, end)}
      <button
        class="range"
        data-place="range"
        style:left="{span.xOf(range.start)}px"
        style:width="{Math.max(8, range.length / span.perPixel)}px"
        style:--own={family(range.colour)}
        data-hint="{range.name}: {timeText(range.start, transport.rate)} – {timeText(
          end,
          transport.rate
        )}. Click to loop it, drag to move it or its ends."
        onpointerdown={(event) => placeDrag(event, { store, perPixel: () => span.perPixel, snap: edits.snap, kind: 'range', id: range.id })}
        onclick={() => transport.loopRange(range)}><span>{range.name}</span></button
      >
    {/if}
  {/each}
  {#each store.markers as marker (marker.id)}
    {#if shown(marker.at, marker.at + 1)}
      <button
        class="marker"
        data-place="marker"
        style:left="{span.xOf(marker.at)}px"
        style:--own={family(marker.colour)}
        data-hint="{marker.name}: {barText(
          marker.at,
          transport.rate,
          store.settings.bpm,
          store.settings.beatsPerBar
        )}. Click to go there, drag to move it."
        onpointerdown={(event) =>
          placeDrag(event, { store, perPixel: () => span.perPixel, snap: edits.snap, kind: 'marker', id: marker.id })}
        onclick={() => transport.locate(marker.at)}>{marker.name}</button
      >
    {/if}
  {/each}
</div>

<style>
  .ruler {
    position: relative;
    height: 100%;
    overflow: hidden;
    cursor: text;
    touch-action: none;
    user-select: none;
  }
  .bar {
    position: absolute;
    bottom: 2px;
    padding-left: 4px;
    border-left: 1px solid var(--line);
    color: var(--muted);
    white-space: nowrap;
    font-size: 11px;
    line-height: 13px;
    pointer-events: none;
  }
  .loop {
    position: absolute;
    bottom: 0;
    height: 4px;
    border-radius: 2px;
    background: var(--kelp);
    pointer-events: none;
  }
  .range,
  .marker {
    position: absolute;
    top: 3px;
    height: 15px;
    overflow: hidden;
    font-size: 11px;
    line-height: 15px;
    white-space: nowrap;
    text-align: left;
    touch-action: none;
  }
  .range {
    padding: 0 5px;
    border-radius: 3px;
    background: color-mix(in oklab, var(--own) 32%, var(--sheet));
    color: var(--ink);
  }
  .marker {
    top: 19px;
    max-width: 120px;
    padding: 0 4px;
    border-left: 2px solid var(--own);
    background: color-mix(in oklab, var(--paper) 80%, transparent);
    text-overflow: ellipsis;
  }
</style>

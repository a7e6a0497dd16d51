<!-- The chosen lane in the side sheet: its value, its points with typed places and values, and what can be done to all of it or to the range. -->
<script lang="ts">
  import { Button, Select } from 'flowbite-svelte';
  import { laneTitle } from '$core/lanes/kinds';
  import { firstAfter } from '$core/session/timeline';
  import { SHAPES } from '$core/session/tables/point';
  import type { Shape } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { tiny } from '$lib/ui/theme';
  import NumberField from '$lib/ui/NumberField.svelte';
  import type { Edits } from './edits.svelte';
  import { parseValue, valueText } from './laneScale';
  import type { Lanes } from './lanes.svelte';
  import PlaceField from './PlaceField.svelte';

  let { lanes, edits, onnew }: { lanes: Lanes; edits: Edits; onnew: () => void } = $props();
  const { store, transport } = useDesk();
  /** Points that are listed at a time. */
  const LISTED = 40;
  const lane = $derived(lanes.lane()!);
  const channel = $derived(store.channel(lane.channelId));
  const kind = $derived(lanes.kind(lane));
  const points = $derived(store.points(lane.id));
  const chosen = $derived(lanes.at());
  let page = $state<number | null>(null);
  $effect(() => {
    void lane.id;
    page = null;
  });
  /** Those around the chosen one, or from the beginning. */
  const first = $derived.by(() => {
    if (points.length <= LISTED) return 0;
    const at = page ?? (chosen.length ? firstAfter(points, chosen[0], (point) => point.at) - 8 : 0);
    return Math.max(0, Math.min(points.length - LISTED, at));
  });
  const shown = $derived(points.slice(first, first + LISTED));
  const small = 'text-[12px] font-medium';
  const within = $derived(edits.range ? { from: edits.range.from, to: edits.range.to } : {});
  let by = $state(1);
  let factor = $state(50);
  const steps = $derived(kind.scale === 'steps');
  const unit = $derived(kind.scale === 'level' ? 'dB' : kind.scale === 'ratio' ? '%' : kind.unit);
  const parse = (typed: string) => {
    const value = Number(
      typed
        .trim()
        .replace('−', '-')
        .replace(',', '.')
        .replace(/\s*(dB|%)$/i, '')
    );
    return typed.trim() !== '' && Number.isFinite(value) ? value : null;
  };
  const set = (at: number, value: number) => store.act([{ do: 'points.set', lane: lane.id, points: [{ at, value }] }]);
  const reshape = (at: number, value: number, shape: Shape) =>
    store.act([{ do: 'points.set', lane: lane.id, points: [{ at, value, shape }] }]);
  const replace = (from: number, to: number) =>
    store.act([{ do: 'points.move', lane: lane.id, at: [from], by: to - from }]) && lanes.choose(lane.id, [to]);
  const all = (command: 'lanes.trim' | 'lanes.scale' | 'lanes.smooth' | 'lanes.settle', more: object = {}) =>
    store.act([{ do: command, ids: [lane.id], ...within, ...more } as never]);
</script>

<header>
  <i style:background={!channel || channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>
  <h2>{channel?.name}</h2>
  <span class="what">{laneTitle(store.session, lane)}</span>
</header>
<div class="buttons">
  <Button
    size="xs"
    color={lane.plays ? 'primary' : 'alternative'}
    class={small}
    aria-pressed={lane.plays}
    onclick={() => lanes.toggle(lane)}>{lane.plays ? 'Plays' : 'Off'}</Button
  >
  <Button size="xs" color="alternative" class={small} onclick={lanes.addAtPlayhead}>Point at the playhead</Button>
  <Button size="xs" color="alternative" class={small} onclick={onnew}>New lane…</Button>
</div>
<p class="hint">Click sets a point, dragging draws, Shift and dragging selects points; Alt leaves the snap out.</p>
<h3 class="caps">
  Points · {points.length}{#if points.length > LISTED}<span>, {first + 1}–{first + shown.length}</span>
    <Button
      color="alternative"
      class={tiny}
      aria-label="Earlier points"
      disabled={first === 0}
      onclick={() => (page = Math.max(0, first - LISTED))}>‹</Button
    >
    <Button
      color="alternative"
      class={tiny}
      aria-label="Later points"
      disabled={first + LISTED >= points.length}
      onclick={() => (page = first + LISTED)}>›</Button
    >{/if}
</h3>
<div class="points">
  {#each shown as point (point.at)}
    <div class="point" class:chosen={lanes.points.has(point.at)}>
      <PlaceField frames={point.at} label="Place of a point" width={148} onset={(to) => replace(point.at, to)} />
      <NumberField
        value={point.value}
        text={valueText(kind, point.value)}
        label="Value of the point"
        width={46}
        parse={(typed) => parseValue(kind, typed)}
        write={(value) => (steps ? valueText(kind, value) : value === -Infinity ? '-inf' : String(Math.round(value * 100) / 100))}
        hint={steps ? kind.choices?.join(', ') : 'Type a value'}
        onset={(value) => set(point.at, value)}
        onnudge={(step, fine) => {
          lanes.choose(lane.id, [point.at]);
          lanes.move(0, kind.scale === 'ratio' ? step * 3 : step * (fine ? 0.1 : 1));
        }}
        ondefault={() => undefined}
      />
      {#if !steps}
        <Select
          placeholder=""
          aria-label="How it goes on"
          value={point.shape}
          onchange={(event) => reshape(point.at, point.value, event.currentTarget.value as Shape)}
        >
          {#each SHAPES as shape (shape)}<option value={shape}>{shape}</option>{/each}
        </Select>
      {/if}
      <button class="drop" aria-label="Remove the point" onclick={() => store.act([{ do: 'points.remove', lane: lane.id, at: [point.at] }])}
        >×</button
      >
    </div>
  {/each}
</div>
{#if chosen.length > 1}
  <div class="buttons">
    <span>{chosen.length} chosen:</span>
    {#if !steps}{#each SHAPES as shape (shape)}<Button color="alternative" class={tiny} onclick={() => lanes.shape(shape)}>{shape}</Button
        >{/each}{/if}
    <Button color="alternative" class={tiny} onclick={lanes.remove}>remove</Button>
  </div>
{/if}
<h3 class="caps">{edits.range ? 'In the range' : 'All of it'}</h3>
{#if !steps && points.length}
  <div class="buttons">
    <NumberField
      value={by}
      text="{by > 0 ? '+' : by < 0 ? '−' : ''}{Math.abs(by)} {unit}"
      label="Trim by"
      width={70}
      {parse}
      onset={(to) => (by = to)}
      onnudge={(step, fine) => (by = Math.round((by + step * (fine ? 0.1 : 1)) * 10) / 10)}
      ondefault={() => (by = 1)}
    />
    <Button size="xs" color="alternative" class={small} onclick={() => all('lanes.trim', { by })}>Trim</Button>
    <NumberField
      value={factor}
      text="{factor} %"
      label="Scale to"
      width={60}
      {parse}
      onset={(to) => (factor = to)}
      onnudge={(step, fine) => (factor += step * (fine ? 1 : 10))}
      ondefault={() => (factor = 50)}
    />
    <Button size="xs" color="alternative" class={small} onclick={() => all('lanes.scale', { by: factor / 100 })}>Scale</Button>
    <Button size="xs" color="alternative" class={small} onclick={() => all('lanes.smooth')}>Smooth</Button>
  </div>
{/if}
<div class="buttons">
  <Button size="xs" color="alternative" class={small} disabled={!edits.range} onclick={() => lanes.copy(edits.range)}>Copy</Button>
  <Button size="xs" color="alternative" class={small} disabled={!lanes.copied} onclick={lanes.paste}>Paste at the playhead</Button>
  {#if !edits.range}
    <Button
      size="xs"
      color="alternative"
      class={small}
      data-hint="One that stays at one value becomes it"
      onclick={() => all('lanes.settle')}>Settle</Button
    >
  {/if}
  <Button size="xs" color="alternative" class={small} onclick={() => lanes.discard(lane)}>Remove lane</Button>
</div>
<p class="hint num">{lanes.now(lane) === null ? '' : `${valueText(kind, lanes.now(lane)!)} at the playhead`}{void transport.position}</p>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  i {
    flex: none;
    width: 12px;
    height: 12px;
    border-radius: 50%;
  }
  h2 {
    flex: none;
    max-width: 150px;
    margin: 0;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .what {
    min-width: 0;
    overflow: hidden;
    color: var(--muted);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .hint {
    margin: 8px 0;
    color: var(--muted);
    font-size: 12.5px;
  }
  h3 {
    margin: 14px 0 6px;
  }
  .buttons {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    margin: 10px 0;
  }
  .point {
    display: flex;
    align-items: center;
    gap: 4px;
    margin-bottom: 2px;
    padding: 0 2px;
    border-radius: 4px;
  }
  .point :global(.num) {
    font-size: 11.5px;
  }
  .point.chosen {
    background: var(--picked);
  }
  .point :global(select) {
    width: 54px;
    padding: 0 1px;
    font-size: 11px;
  }
  .drop {
    width: 16px;
    color: var(--muted);
  }
</style>

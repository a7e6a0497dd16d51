<!-- What the side sheet shows where no clip is selected: the track, the session's markers and ranges with typed names and places. -->
<script lang="ts">
  import { Button, Select } from 'flowbite-svelte';
  import type { Range } from '$core/session/entities';
  import type { Grab } from '$core/session/tables/settings';
  import { timeText } from '$core/time';
  import type { RangeLevels } from '$files/prints/loudness';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { tiny } from '$lib/ui/theme';
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import type { Edits } from './edits.svelte';
  import type { Lanes } from './lanes.svelte';
  import LaneList from './LaneList.svelte';
  import PlaceField from './PlaceField.svelte';
  import ThrowForm from './ThrowForm.svelte';

  type Props = {
    edits: Edits;
    lanes: Lanes;
    onbleed: (id: string) => void;
    onlane: (id: string) => void;
    onnew: () => void;
    named: string | null;
  };
  let { edits, lanes, onbleed, onlane, onnew, named = $bindable() }: Props = $props();
  const { store, selection, transport } = useDesk();
  const channel = $derived(selection.last ? store.channel(selection.last) : undefined);
  const clips = $derived(channel ? store.clips(channel.id) : []);
  const small = 'text-[12px] font-medium';
  const { rate } = store.settings;
  let measuring = $state<string | null>(null);
  /** By range, how loud it was when it was measured last. */
  let loud = $state.raw<ReadonlyMap<string, RangeLevels>>(new Map());
  const measure = async ({ id, start, length }: Range) => {
    measuring = id;
    const answer = await ask<RangeLevels>('POST', `/api/sessions/${store.id}/measure`, { range: { from: start, to: start + length } });
    measuring = null;
    if (answer.ok) loud = new Map([...loud, [id, answer.value]]);
    else store.say(answer.error.message);
  };
  const level = (db: number | null) => (db === null ? '−∞' : db.toFixed(1).replace('-', '−'));
  const edge = (typed: string) => {
    const value = Number(
      typed
        .trim()
        .replace(',', '.')
        .replace(/\s*ms$/, '')
    );
    return typed.trim() !== '' && value >= 0 && value <= 1000 ? value : null;
  };
</script>

{#if channel}
  <header>
    <i style:background={channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>
    <h2>{channel.name}</h2>
  </header>
  <p class="hint">
    {#if clips.length}
      {clips.length} clip{clips.length === 1 ? '' : 's'}. Click one to see it here; Shift and drag over rows selects a range of time.
    {:else}
      No clips stand on it{channel.kind === 'track' ? ' yet' : ': what flows into it is drawn'}.
    {/if}
  </p>
  {#if channel.kind === 'track' && clips.length}
    <div class="buttons"><Button size="xs" color="alternative" class={small} onclick={() => onbleed(channel.id)}>Find bleed…</Button></div>
  {/if}
{:else}
  <p class="hint">
    Click a clip or a row. Drag clips, their edges, and the rings of their fades; hold Shift and drag to select a range of time.
  </p>
{/if}
{#if edits.range}
  <p class="hint num">
    {timeText(edits.range.from, rate)} – {timeText(edits.range.to, rate)}, {edits.rows().length} row{edits.rows().length === 1 ? '' : 's'}
  </p>
  <div class="buttons">
    <Button size="xs" color="alternative" class={small} onclick={edits.takeOut}>Take out</Button>
    <Button size="xs" color="alternative" class={small} onclick={edits.cut}>Cut at its ends</Button>
    <Button size="xs" color="alternative" class={small} onclick={edits.loop}>Loop</Button>
  </div>
  <ThrowForm range={edits.range} />
{/if}
<LaneList {lanes} {onlane} {onnew} />
<h3 class="caps">Ranges · {store.ranges.length}</h3>
{#each store.ranges as range (range.id)}
  <div class="place">
    <i style:background={family(range.colour)}></i>
    {#if named === range.id}
      <NameEdit
        value={range.name}
        label="Name of {range.name}"
        onname={(name) => store.act([{ do: 'ranges.set', id: range.id, name }])}
        onclose={() => (named = null)}
      />
    {:else}
      <button class="name" data-hint="Double-click to rename" ondblclick={() => (named = range.id)}>{range.name}</button>
    {/if}
    <Button color="alternative" class={tiny} aria-pressed={transport.loops(range)} onclick={() => transport.loopRange(range)}>loop</Button>
    <Button
      color="alternative"
      class={tiny}
      data-hint="How loud the mix is in it"
      disabled={measuring !== null}
      onclick={() => void measure(range)}>{measuring === range.id ? '…' : 'measure'}</Button
    >
    <button class="drop" aria-label="Remove range {range.name}" onclick={() => store.act([{ do: 'ranges.remove', ids: [range.id] }])}
      >×</button
    >
    <div class="ends">
      <span>from</span>
      <PlaceField
        frames={range.start}
        label="Start of {range.name}"
        width={160}
        onset={(from) => store.act([{ do: 'ranges.set', id: range.id, from }])}
      />
      <span>to</span>
      <PlaceField
        frames={range.start + range.length}
        label="End of {range.name}"
        width={160}
        onset={(to) => store.act([{ do: 'ranges.set', id: range.id, to }])}
      />
    </div>
    {#if loud.has(range.id)}
      {@const levels = loud.get(range.id)!}
      <p class="loud num">
        {level(levels.lufs)} LUFS · peak {level(levels.truePeakDb)} dBTP · {levels.rangeLu?.toFixed(1) ?? '–'} LU
      </p>
    {/if}
  </div>
{/each}
<Button size="xs" color="alternative" class={small} onclick={edits.newRange}>New range (g)</Button>
<h3 class="caps">Markers · {store.markers.length}</h3>
{#each store.markers as marker (marker.id)}
  <div class="place">
    <i style:background={family(marker.colour)}></i>
    {#if named === marker.id}
      <NameEdit
        value={marker.name}
        label="Name of {marker.name}"
        onname={(name) => store.act([{ do: 'markers.set', id: marker.id, name }])}
        onclose={() => (named = null)}
      />
    {:else}
      <button
        class="name"
        data-hint="Double-click to rename"
        ondblclick={() => (named = marker.id)}
        onclick={() => transport.locate(marker.at)}>{marker.name}</button
      >
    {/if}
    <PlaceField
      frames={marker.at}
      label="Place of {marker.name}"
      width={148}
      onset={(at) => store.act([{ do: 'markers.set', id: marker.id, at }])}
    />
    <button class="drop" aria-label="Remove marker {marker.name}" onclick={() => store.act([{ do: 'markers.remove', ids: [marker.id] }])}
      >×</button
    >
  </div>
{/each}
<Button size="xs" color="alternative" class={small} onclick={edits.mark}>Marker at the playhead (p)</Button>
<label class="edge">
  <span>A hand on a lane that plays</span>
  <Select
    placeholder=""
    value={store.settings.laneGrab}
    onchange={(event) => store.act([{ do: 'settings.set', laneGrab: event.currentTarget.value as Grab }])}
  >
    <option value="refuse">is refused</option><option value="trim">trims it</option><option value="write">writes it</option>
  </Select>
</label>
<div class="edge last">
  <span>Edge fade</span>
  <NumberField
    value={store.settings.edgeMs}
    text="{store.settings.edgeMs} ms"
    label="Edge fade in ms"
    parse={edge}
    hint="0 to 1000 ms"
    width={72}
    onset={(edgeMs) => store.act([{ do: 'settings.set', edgeMs }])}
    onnudge={(by, fine) =>
      store.act([{ do: 'settings.set', edgeMs: Math.max(0, Math.round((store.settings.edgeMs + by * (fine ? 0.1 : 1)) * 10) / 10) }])}
    ondefault={() => store.act([{ do: 'settings.set', edgeMs: 2 }])}
  />
</div>

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
    flex: 1;
    min-width: 0;
    margin: 0;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .hint {
    margin: 8px 0;
    color: var(--muted);
    font-size: 12.5px;
  }
  h3 {
    margin: 16px 0 6px;
  }
  .buttons {
    margin: 10px 0;
  }
  .place {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    margin-bottom: 6px;
  }
  .name {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .ends {
    display: grid;
    grid-template-columns: auto 160px;
    align-items: center;
    justify-content: space-between;
    width: 100%;
    padding-left: 18px;
    color: var(--muted);
  }
  .loud {
    width: 100%;
    margin: 0;
    padding-left: 18px;
    color: var(--muted);
    font-size: 11.5px;
  }
  .buttons {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .drop {
    width: 20px;
    color: var(--muted);
  }
  .edge.last {
    margin-top: 0;
    border-top: 0;
  }
  .edge {
    display: flex;
    align-items: center;
    justify-content: space-between;
    margin-top: 16px;
    padding-top: 10px;
    border-top: 1px solid var(--hair);
    color: var(--muted);
  }
</style>

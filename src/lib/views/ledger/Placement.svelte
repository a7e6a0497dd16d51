<!-- Where a channel stands between left and right: one pin or two, how wide it is; and, of what is summed, mono or stereo. -->
<script lang="ts">
  import type { Channel } from '$core/session/entities';
  import { widthBehind } from '$core/routing/width';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { panText, parsePan } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';

  let { channel }: { channel: Channel } = $props();
  const { store, selection, now } = useDesk();
  /** What lanes make of its pins and width, where they play. */
  const pan = $derived(now.pan(channel.id) ?? channel.pan);
  const right = $derived(now.of({ channelId: channel.id, of: 'panRight' }) ?? channel.panRight ?? 0);
  const spread = $derived(now.of({ channelId: channel.id, of: 'spread' }) ?? channel.spread);
  const ids = () => selection.around(channel.id);
  const set = (fields: { pan?: number; right?: number | null; spread?: number }) =>
    store.act([{ do: 'pans.set', pans: ids().map((id) => ({ id, ...fields })) }]);
  const wide = $derived(widthBehind(channel.width, store.inserts(channel.id)) === 2);
  const pinned = $derived(wide && channel.panRight !== null);
  const recorded = $derived(channel.kind === 'track' || channel.kind === 'key');
  const percent = (typed: string) => {
    const number = Number(typed.trim().replace(/\s*%$/, ''));
    return typed.trim() !== '' && Number.isFinite(number) ? number : null;
  };
</script>

<div class="title">
  <h3 class="caps">Place</h3>
  {#if recorded}
    {#if wide && channel.width === 1}<span class="hint" data-hint="A mono recording, of which an insert makes two sides"
        >mono, then stereo</span
      >
    {:else}<span class="hint">{channel.width === 2 ? 'stereo' : 'mono'} recording</span>{/if}
  {:else}
    <button
      class="flip"
      aria-pressed={channel.width === 1}
      data-hint="A mono bus takes half of left and right"
      onclick={() => store.act([{ do: 'widths.set', ids: ids(), width: channel.width === 1 ? 2 : 1 }])}
      >{channel.width === 1 ? 'mono' : 'stereo'}</button
    >
  {/if}
  {#if wide}
    <button
      class="flip"
      aria-pressed={pinned}
      data-hint="One balance pin, or left and right placed apart"
      onclick={() => set(!pinned ? { pan: -100, right: 100 } : { pan: 0, right: null })}>{!pinned ? 'one pin' : 'two pins'}</button
    >
  {/if}
</div>
<div class="line">
  <span>{!pinned ? (channel.width === 2 ? 'Balance' : 'Pan') : 'Left at'}</span>
  <NumberField
    value={pan}
    text={panText(pan)}
    label="{!pinned ? 'Pan' : 'Left pin'} of {channel.name}, in the sheet"
    parse={parsePan}
    width={60}
    onset={(pan) => set({ pan })}
    onnudge={(by, fine) => set({ pan: pan + by * (fine ? 1 : 5) })}
    ondefault={() => set({ pan: pinned ? -100 : 0 })}
  />
</div>
{#if pinned && channel.panRight !== null}
  <div class="line">
    <span>Right at</span>
    <NumberField
      value={right}
      text={panText(right)}
      label="Right pin of {channel.name}"
      parse={parsePan}
      width={60}
      onset={(right) => set({ right })}
      onnudge={(by, fine) => set({ right: right + by * (fine ? 1 : 5) })}
      ondefault={() => set({ right: 100 })}
    />
  </div>
{/if}
{#if wide}
  <div class="line">
    <span>Width</span>
    <NumberField
      value={spread}
      text="{Math.round(spread * 10) / 10} %"
      label="Width of {channel.name}"
      parse={percent}
      width={60}
      onset={(to) => set({ spread: to })}
      onnudge={(by, fine) => set({ spread: spread + by * (fine ? 1 : 5) })}
      ondefault={() => set({ spread: 100 })}
    />
  </div>
{/if}

<style>
  .title {
    display: flex;
    align-items: center;
    gap: 8px;
    margin: 14px 0 2px;
  }
  h3 {
    flex: 1;
    margin: 0;
  }
  .line {
    display: flex;
    justify-content: space-between;
    align-items: center;
    min-height: 24px;
    font-size: 12px;
  }
  .flip {
    white-space: nowrap;
    padding: 0 6px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 11px;
  }
  .flip[aria-pressed='true'] {
    border-color: var(--kelp);
    color: var(--kelp);
  }
  .hint {
    white-space: nowrap;
    color: var(--muted);
    font-size: 12px;
  }
</style>

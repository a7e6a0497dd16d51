<!-- The head of the Ledger: what its columns are, the dB scale once for all rails, a head of its own for each return and cue. -->
<script lang="ts" module>
  /** Width of a column of crosspoints. */
  export const COLUMN = 66;
</script>

<script lang="ts">
  import { useDesk } from '$lib/state/desk';
  import { sounds } from '$core/session/vcas';
  import { MARKS, railAt } from '$lib/ui/scale';
  import ColumnHead from './ColumnHead.svelte';

  type Props = {
    /** The columns on screen, and how many there are in all. */
    columns: readonly { readonly id: string; readonly index: number; readonly slot: number }[];
    count: number;
    /** The column opened into a lane of faders. */
    lane: string | null;
    onlane: (id: string | null) => void;
    onmenu: (id: string, at: { x: number; y: number }) => void;
  };
  let { columns, count, lane, onlane, onmenu }: Props = $props();
  const { store } = useDesk();
  const total = $derived(store.channels.filter(sounds).length);
</script>

<div class="head" role="row">
  <span role="columnheader" class="muted">{total} channel{total === 1 ? '' : 's'}</span>
  <span role="columnheader" class="scale num" aria-label="Level in dB">
    {#each MARKS as mark (mark)}<i style:left="{railAt(mark) * 100}%">{mark > 0 ? `+${mark}` : mark < 0 ? `−${-mark}` : 0}</i>{/each}
  </span>
  <span role="columnheader" class="right muted">dB</span>
  <span role="columnheader" class="muted pan">Pan</span>
  <span role="columnheader"><span class="sr-only">Mute, solo, solo-safe</span></span>
  {#if lane}
    <span role="columnheader" class="lane"
      ><button data-hint="Close the lane" onclick={() => onlane(null)}>{store.channel(lane)?.name} ×</button></span
    >
  {/if}
  {#each columns as { id, index, slot } (slot)}
    <ColumnHead {id} right={(count - 1 - index) * COLUMN + 8} opened={lane === id} onmenu={(at) => onmenu(id, at)} />
  {/each}
</div>

<style>
  .muted {
    color: var(--muted);
  }
  .head {
    position: relative;
    display: grid;
    grid-template-columns: var(--columns);
    width: max(100%, var(--whole));
    align-items: end;
    height: 74px;
    padding-bottom: 3px;
    border-bottom: 1px solid var(--line);
    background: var(--paper);
    font-size: 12px;
  }
  .head > span:first-child {
    position: sticky;
    left: 0;
    z-index: 1;
    align-self: stretch;
    padding: 50px 0 0 12px;
    background: var(--paper);
  }
  .scale {
    position: relative;
    height: 14px;
    margin: 0 8px 0 4px;
    color: var(--muted);
    font-size: 10.5px;
  }
  .scale i {
    position: absolute;
    font-style: normal;
    transform: translateX(-50%);
  }
  .scale i:last-child {
    transform: translateX(-85%);
  }
  .right {
    padding-right: 8px;
    text-align: right;
  }
  .pan {
    padding-left: 6px;
  }
  .lane {
    padding-left: 10px;
    font-size: 11.5px;
    font-weight: 600;
  }
</style>

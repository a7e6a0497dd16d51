<!-- Whether a lane plays, as a word to click. -->
<script lang="ts">
  import { laneName } from '$core/lanes/kinds';
  import type { Lane } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import type { Lanes } from './lanes.svelte';

  let { lane, lanes }: { lane: Lane; lanes: Lanes } = $props();
  const { store } = useDesk();
</script>

<button
  aria-pressed={lane.plays}
  aria-label="The {laneName(store.session, lane)} plays"
  data-hint={lane.plays ? 'It plays: click to switch it off' : 'It is off: click to let it play'}
  onclick={() => lanes.toggle(lane)}>{lane.plays ? 'plays' : 'off'}</button
>

<style>
  button {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    font-size: 10.5px;
    line-height: 16px;
  }
  button[aria-pressed='true'] {
    border-color: var(--kelp);
    color: var(--kelp);
    font-weight: 650;
  }
</style>

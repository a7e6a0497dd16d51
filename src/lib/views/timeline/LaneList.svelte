<!-- All that is automated: every lane of the session by its channel, whether it plays, and the way to it. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { laneTitle } from '$core/lanes/kinds';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import type { Lanes } from './lanes.svelte';
  import PlaysButton from './PlaysButton.svelte';

  let { lanes, onlane, onnew }: { lanes: Lanes; onlane: (id: string) => void; onnew: () => void } = $props();
  const { store } = useDesk();
  const all = $derived(
    store.allLanes
      .map((lane) => ({ lane, channel: store.channel(lane.channelId), count: store.points(lane.id).length }))
      .sort((a, b) => (a.channel?.position ?? 0) - (b.channel?.position ?? 0))
  );
</script>

<h3 class="caps">Lanes · {all.length}</h3>
{#each all as { lane, channel, count } (lane.id)}
  <div class="lane" class:off={!lane.plays}>
    <i style:background={!channel || channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>
    <button class="name" data-hint="{count} point{count === 1 ? '' : 's'}: show it" onclick={() => onlane(lane.id)}
      >{channel?.name ?? ''} <span>{laneTitle(store.session, lane)}</span></button
    >
    <PlaysButton {lane} {lanes} />
  </div>
{/each}
<Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={onnew}>New lane (a)</Button>

<style>
  h3 {
    margin: 16px 0 6px;
  }
  .lane {
    display: flex;
    align-items: center;
    gap: 6px;
    margin-bottom: 4px;
  }
  i {
    flex: none;
    width: 10px;
    height: 10px;
    border-radius: 50%;
  }
  .name {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name span,
  .off .name {
    color: var(--muted);
  }
</style>

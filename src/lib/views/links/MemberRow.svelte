<!-- A member in the sheet of its VCA or link group: its name selects it, × takes it out. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import { dbText } from '$lib/ui/format';
  import { family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';
  import type { Channel } from '$core/session/entities';

  type Props = {
    channel: Channel;
    /** The group, as it is called. */
    group: string;
    level: number;
    onout: () => void;
    children?: Snippet;
  };
  let { channel, group, level, onout, children }: Props = $props();
  const { selection } = useDesk();
</script>

<li data-moves="level" data-of={channel.id}>
  <i style:background={channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>
  <button class="grow" onclick={() => selection.set([channel.id], channel.id)}>{channel.kind === 'vca' ? 'VCA ' : ''}{channel.name}</button>
  {@render children?.()}
  <span class="num">{dbText(level)}</span>
  <button class="out" data-hint="Take {channel.name} out" aria-label="Take {channel.name} out of {group}" onclick={onout}>×</button>
</li>

<style>
  li {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 26px;
  }
  i {
    width: 8px;
    height: 8px;
    flex: none;
    border-radius: 50%;
  }
  .grow {
    flex: 1;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .num {
    color: var(--muted);
    font-size: 12.5px;
  }
  .out {
    width: 18px;
    color: var(--muted);
  }
</style>

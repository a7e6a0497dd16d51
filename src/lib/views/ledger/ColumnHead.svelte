<!-- The head of a return's or cue's column: its effect, whether anything arrives, its level, its name. A press opens its menu. -->
<script lang="ts">
  import { processors } from '$core/processors/index';
  import { family } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import { arrivalDot } from './arrivals';

  let { id, right, opened, onmenu }: { id: string; right: number; opened: boolean; onmenu: (at: { x: number; y: number }) => void } =
    $props();
  const { store, now } = useDesk();
  const channel = $derived(store.channel(id));
  const effect = $derived(store.inserts(id).map(({ type }) => processors[type].title));
</script>

{#if channel}
  <span role="columnheader" class="return" class:opened style:right="{right}px">
    <button
      aria-haspopup="menu"
      data-hint="{channel.name}{effect.length ? `: ${effect.join(', ')}` : ''}. Its menu: lane, drive, twins, order."
      onclick={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        onmenu({ x: box.left, y: box.bottom + 4 });
      }}
      oncontextmenu={(event) => {
        event.preventDefault();
        onmenu({ x: event.clientX, y: event.clientY });
      }}
    >
      <span class="effect">{channel.kind === 'cue' ? 'cue' : (effect[0] ?? 'no effect')}</span>
      <span class="name">{channel.name}</span>
      <span class="level num"><i use:arrivalDot={id}></i>{dbText(now.fader(id) ?? channel.faderDb)}</span>
    </button>
    <span class="stripe" class:cue={channel.kind === 'cue'} style:background={family(channel.colour)}></span>
  </span>
{/if}

<style>
  .return {
    position: absolute;
    bottom: 0;
    display: grid;
    align-content: end;
    width: 66px;
    height: 70px;
    padding: 0 4px 4px 6px;
    border-left: 1px solid var(--hair);
  }
  .opened {
    background: var(--sheet);
  }
  button {
    display: grid;
    min-width: 0;
    text-align: left;
  }
  .effect {
    overflow: hidden;
    color: var(--muted);
    font-size: 10.5px;
    line-height: 1.2;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name {
    display: -webkit-box;
    overflow: hidden;
    font-size: 11.5px;
    font-weight: 600;
    line-height: 1.15;
    overflow-wrap: anywhere;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
  }
  .level {
    display: flex;
    align-items: center;
    justify-content: space-between;
    color: var(--muted);
    font-size: 11px;
    line-height: 1.3;
  }
  i {
    width: 6px;
    height: 6px;
    border: 1px solid var(--muted);
    border-radius: 50%;
  }
  i:global(.arriving) {
    border-color: var(--kelp);
    background: var(--kelp);
  }
  .stripe {
    height: 3.5px;
    margin-top: 2px;
    border-radius: 2px;
  }
  .cue {
    height: 3px;
    background-image: repeating-linear-gradient(90deg, var(--paper) 0 2px, transparent 2px 5px);
  }
</style>

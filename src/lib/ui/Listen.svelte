<!-- Hears a file in place: play, stop, and a bar to move in it. -->
<script lang="ts">
  import { Range } from 'flowbite-svelte';
  import Play from '@lucide/svelte/icons/play';
  import Square from '@lucide/svelte/icons/square';
  import { timeText } from './format';

  let { src, name, seconds, onplay }: { src: string; name: string; seconds: number; onplay: () => void } = $props();
  let audio = $state<HTMLAudioElement>();
  let playing = $state(false);
  let at = $state(0);
  let problem = $state('');

  const toggle = async () => {
    if (playing) return audio!.pause();
    onplay();
    try {
      await audio!.play();
    } catch (error) {
      problem = error instanceof DOMException && error.name === 'AbortError' ? '' : 'This browser cannot play the file. Download it.';
    }
  };
</script>

<span class="listen">
  <audio bind:this={audio} bind:currentTime={at} preload="none" {src} onplay={() => (playing = true)} onpause={() => (playing = false)}
  ></audio>
  <button aria-label="{playing ? 'Stop' : 'Hear'} {name}" onclick={toggle}>
    {#if playing}<Square size={12} fill="currentColor" />{:else}<Play size={13} fill="currentColor" />{/if}
  </button>
  <Range class="min-w-0 flex-1" aria-label="Position in {name}" min="0" max={seconds} step="0.1" bind:value={at} />
  <span class="num">{timeText(at, 1).slice(0, -4)}</span>
  {#if problem}<span role="alert">{problem}</span>{/if}
</span>

<style>
  .listen {
    display: flex;
    align-items: center;
    gap: 8px;
    width: 250px;
  }
  button {
    display: grid;
    place-items: center;
    width: 28px;
    height: 28px;
    flex: none;
    border: 1px solid var(--line);
    border-radius: 50%;
  }
  button:hover {
    border-color: var(--kelp);
  }
  .num {
    color: var(--muted);
    font-size: 12px;
  }
</style>

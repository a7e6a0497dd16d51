<!-- A recording's peaks, small. Pressing plays it from there; pressing the one that plays stops it. -->
<script lang="ts">
  import { PEAK_FIELDS } from '$core/measure/peaks';
  import { peaksOf } from '$lib/state/peaks';
  import type { Audition } from '$lib/state/audition.svelte';
  import type { RosterRow } from './rosterRows';

  let { row, colour, audition, dark }: { row: RosterRow; colour: string; audition: Audition; dark: boolean } = $props();
  let canvas = $state<HTMLCanvasElement>();
  const seconds = $derived(row.media ? row.media.frames / row.media.rate : 0);
  const mine = $derived(audition.id === row.channel.id);
  const sha256 = $derived(row.media?.sha256);

  $effect(() => {
    const element = canvas;
    const sha = sha256;
    void [dark, colour];
    if (!element) return;
    let gone = false;
    const pen = element.getContext('2d')!;
    pen.clearRect(0, 0, element.width, element.height);
    if (sha)
      void peaksOf(sha).then((peaks) => {
        if (gone || !peaks) return;
        const { width, height } = element;
        // The coarsest level that still has a bin a pixel.
        const level = peaks.levels.findLast((bins) => bins.length / PEAK_FIELDS >= width) ?? peaks.levels[0];
        const bins = level.length / PEAK_FIELDS;
        pen.fillStyle = getComputedStyle(element).color;
        for (let x = 0; x < width; x++) {
          let [low, high] = [0, 0];
          for (
            let bin = Math.floor((x * bins) / width);
            bin < Math.max(Math.floor((x * bins) / width) + 1, ((x + 1) * bins) / width);
            bin++
          ) {
            low = Math.min(low, level[bin * PEAK_FIELDS] ?? 0);
            high = Math.max(high, level[bin * PEAK_FIELDS + 1] ?? 0);
          }
          // The root makes what is soft visible: this is for finding, not for measuring.
          const size = (value: number) => Math.sqrt(Math.abs(value) / 32767) * (height / 2);
          pen.fillRect(x, height / 2 - size(high), 1, Math.max(1, size(high) + size(low)));
        }
      });
    return () => (gone = true);
  });

  const press = (event: MouseEvent) => {
    if (mine) return audition.stop();
    const box = canvas!.getBoundingClientRect();
    const share = event.detail === 0 ? 0 : Math.max(0, Math.min(1, (event.clientX - box.left) / box.width));
    void audition.play(row.channel.id, share * seconds);
  };
</script>

<button
  class="thumb"
  tabindex="-1"
  disabled={!row.media}
  aria-label="{mine ? 'Stop' : 'Play'} {row.channel.name}"
  data-hint={row.media ? (mine ? 'Press to stop' : 'Press to hear this track from there') : 'No recording'}
  onclick={press}
>
  <canvas bind:this={canvas} width="124" height="24" style:color={colour}></canvas>
  {#if mine && seconds}<span class="at" style:left="{(audition.at / seconds) * 100}%"></span>{/if}
</button>

<style>
  .thumb {
    position: relative;
    display: block;
    width: 124px;
    height: 26px;
    border-radius: 4px;
    background: color-mix(in oklab, var(--rail) 55%, transparent);
  }
  .thumb:disabled {
    background: none;
  }
  canvas {
    display: block;
    width: 124px;
    height: 24px;
    margin-top: 1px;
  }
  .at {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 1.5px;
    background: var(--persimmon);
  }
</style>

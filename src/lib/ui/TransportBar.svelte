<!-- The transport: start, play, loop, position in bars and in time, the song's overview to locate and loop in, the mix's peak. -->
<script lang="ts">
  import { Select } from 'flowbite-svelte';
  import Play from '@lucide/svelte/icons/play';
  import Square from '@lucide/svelte/icons/square';
  import SkipBack from '@lucide/svelte/icons/skip-back';
  import Repeat from '@lucide/svelte/icons/repeat';
  import { endOf } from '$core/session/select';
  import type { Moves } from '$core/session/tables/settings';
  import { mixChain } from '$core/routing/graph';
  import { useDesk } from '$lib/state/desk';
  import { overview } from '$lib/state/peaks';
  import { family } from './colours';
  import { barText, dbText, timeText } from './format';
  import { placeDrag } from './places';
  import ListenTo from './ListenTo.svelte';

  let { dark }: { /** Other colours are other ones to draw in. */ dark: boolean } = $props();
  const { store, transport, writing } = useDesk();
  let canvas = $state<HTMLCanvasElement>();
  let room = $state(0);
  let shape = $state.raw<Float32Array>(new Float32Array(0));
  let selecting = $state.raw<{ from: number; to: number } | null>(null);
  let highest = $state(-Infinity);
  /** The mix as it leaves: after the last stage of its chain. */
  const last = $derived(store.tree && mixChain(store.session).at(-1)!.id);
  const COLUMNS = 220;
  const end = $derived.by(() => {
    store.watchClips();
    return Math.max(endOf(store.session), 1);
  });

  // The overview follows clips, mutes and routing at once; levels a moment after the last move.
  let pending: ReturnType<typeof setTimeout> | undefined;
  const refresh = () => {
    clearTimeout(pending);
    pending = setTimeout(() => void overview(store.session, COLUMNS).then((next) => (shape = next)), 250);
  };
  $effect(() => {
    refresh();
    return store.onChanges(refresh);
  });
  $effect(() => {
    if (transport.playing) highest = Math.max(highest, transport.position >= 0 ? (transport.level(last)?.peak ?? -Infinity) : -Infinity);
  });

  const shown = $derived(selecting ?? transport.loop);
  const played = $derived(Math.ceil((transport.position / end) * shape.length));
  $effect(() => {
    if (!canvas || shape.length === 0) return;
    // Drawn anew, too, where the colours change or the window does.
    void [dark, room];
    const pen = canvas.getContext('2d')!;
    const scale = window.devicePixelRatio || 1;
    const [width, height] = [canvas.clientWidth * scale, canvas.clientHeight * scale];
    canvas.width = width;
    canvas.height = height;
    const styles = getComputedStyle(canvas);
    const [past, rest] = ['--kelp', '--muted'].map((name) => styles.getPropertyValue(name));
    const step = width / shape.length;
    for (let i = 0; i < shape.length; i++) {
      const tall = Math.max(scale, shape[i] * height * 0.92);
      pen.fillStyle = i < played ? past : rest;
      pen.globalAlpha = i < played ? 0.9 : 0.5;
      pen.fillRect(i * step, (height - tall) / 2, Math.max(1, step * 0.55), tall);
    }
  });

  const frameAt = (event: PointerEvent) => {
    const box = canvas!.getBoundingClientRect();
    return Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)) * end;
  };
  const press = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const from = frameAt(event);
    const startX = event.clientX;
    const target = event.currentTarget as HTMLElement;
    target.setPointerCapture(event.pointerId);
    const move = (at: PointerEvent) => {
      if (Math.abs(at.clientX - startX) < 5) return;
      const to = frameAt(at);
      selecting = { from: Math.round(Math.min(from, to)), to: Math.round(Math.max(from, to)) };
    };
    const done = () => {
      target.removeEventListener('pointermove', move);
      target.removeEventListener('pointerup', done);
      if (selecting) transport.setLoop(selecting);
      else transport.locate(from);
      selecting = null;
    };
    target.addEventListener('pointermove', move);
    target.addEventListener('pointerup', done);
  };
  const beat = $derived((transport.rate * 60) / store.settings.bpm);
  const onkeydown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    transport.locate(transport.position + by * beat * (event.shiftKey ? 1 : store.settings.beatsPerBar));
  };
  const places = { store, perPixel: () => end / Math.max(1, room), snap: 'off' as const };
  const toggleLoop = () => transport.setLoop(transport.loop ? null : { from: 0, to: end });
</script>

<footer>
  <div class="buttons">
    <button aria-label="To the start" data-hint="To the start (Home)" onclick={() => transport.locate(0)}><SkipBack size={16} /></button>
    <button
      class="play"
      aria-label={transport.playing ? 'Stop' : 'Play'}
      data-hint="Play or stop (Space)"
      onclick={() => void transport.toggle()}
    >
      {#if transport.playing}<Square size={15} fill="currentColor" />{:else}<Play size={17} fill="currentColor" />{/if}
    </button>
    <button
      aria-label="Loop"
      aria-pressed={transport.loop !== null}
      class:on={transport.loop !== null}
      data-hint="Loop all, or drag over the song to loop a part"
      onclick={toggleLoop}><Repeat size={15} /></button
    >
  </div>
  <div class="position">
    <div class="num bars">{barText(transport.position, transport.rate, store.settings.bpm, store.settings.beatsPerBar)}</div>
    <div class="num time">{timeText(transport.position, transport.rate)} · {store.settings.bpm} BPM</div>
  </div>
  <div class="song" bind:clientWidth={room}>
    <div
      class="slide"
      role="slider"
      tabindex="0"
      aria-label="Position in the song"
      aria-valuemin="0"
      aria-valuemax={Math.round(end / transport.rate)}
      aria-valuenow={Math.round(transport.position / transport.rate)}
      aria-valuetext={timeText(transport.position, transport.rate)}
      onpointerdown={press}
      {onkeydown}
    >
      {#if shown}<span class="loop" style:left="{(shown.from / end) * 100}%" style:width="{((shown.to - shown.from) / end) * 100}%"
        ></span>{/if}
      <canvas bind:this={canvas}></canvas>
      <span class="head" style:transform="translateX({Math.min(100, (transport.position / end) * 100)}%)"></span>
    </div>
    {#each store.ranges as range (range.id)}
      <button
        class="range"
        class:looped={transport.loops(range)}
        tabindex="-1"
        aria-label="Range {range.name}"
        data-hint="{range.name}: click to loop it, drag to move it or its ends"
        style:left="{(range.start / end) * 100}%"
        style:width="{(range.length / end) * 100}%"
        style:--own={family(range.colour)}
        onpointerdown={(event) => placeDrag(event, { ...places, kind: 'range', id: range.id })}
        onclick={() => transport.loopRange(range)}>{range.name}</button
      >
    {/each}
    {#each store.markers as marker (marker.id)}
      <button
        class="marker"
        tabindex="-1"
        aria-label="Marker {marker.name}"
        data-hint="{marker.name}: click to go there, drag to move it"
        style:left="{(marker.at / end) * 100}%"
        style:--own={family(marker.colour)}
        onpointerdown={(event) => placeDrag(event, { ...places, kind: 'marker', id: marker.id })}
        onclick={() => transport.locate(marker.at)}
      ></button>
    {/each}
  </div>
  <label class="writes" class:now={writing.writes > 0}>
    <span class="label">{writing.writes > 0 ? `writing ${writing.writes}` : 'moves are written'}</span>
    <Select
      placeholder=""
      value={store.settings.movesWritten}
      onchange={(event) => store.act([{ do: 'settings.set', movesWritten: event.currentTarget.value as Moves }])}
    >
      <option value="never">never</option><option value="held">while held</option><option value="stopped">until stopped</option>
    </Select>
  </label>
  <ListenTo />
  <button class="peak" data-hint="Highest peak of the mix since it was last cleared. Click to clear." onclick={() => (highest = -Infinity)}>
    <span class="num" class:over={highest > 0}>{highest < -120 ? '−∞' : dbText(highest)} dBFS</span>
    <span class="label">mix peak</span>
  </button>
</footer>

<style>
  footer {
    display: grid;
    grid-template-columns: auto 208px minmax(0, 1fr) auto auto auto;
    align-items: center;
    gap: 16px;
    height: 68px;
    padding: 0 14px;
    border-top: 1px solid var(--line);
    background: var(--paper);
  }
  .writes {
    display: grid;
    gap: 3px;
  }
  .writes :global(select) {
    width: 112px;
  }
  .writes.now .label {
    color: var(--persimmon);
    font-weight: 650;
  }
  .buttons {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  .buttons button {
    display: grid;
    place-items: center;
    width: 36px;
    height: 36px;
    border: 1px solid var(--line);
    border-radius: 50%;
    background: var(--sheet);
  }
  .buttons .play {
    border-color: var(--kelp);
    background: var(--kelp);
    color: var(--on-kelp);
  }
  .buttons .on {
    border-color: var(--kelp);
    color: var(--kelp);
    box-shadow: inset 0 0 0 1px var(--kelp);
  }
  .bars {
    font-size: 16px;
    font-weight: 600;
    white-space: pre;
  }
  .time {
    color: var(--muted);
    font-size: 12px;
  }
  .song {
    position: relative;
    height: 48px;
  }
  .slide {
    height: 100%;
    cursor: text;
    touch-action: none;
  }
  canvas {
    position: relative;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  .loop {
    position: absolute;
    inset: 0 auto;
    border-inline: 2px solid var(--kelp);
    background: color-mix(in oklch, var(--kelp) 16%, transparent);
  }
  .range,
  .marker {
    position: absolute;
    padding: 0;
    touch-action: none;
  }
  .range {
    bottom: 0;
    min-width: 8px;
    height: 13px;
    overflow: hidden;
    padding: 0 4px;
    border-radius: 3px;
    background: color-mix(in oklab, var(--own) 34%, var(--sheet));
    font-size: 10.5px;
    line-height: 13px;
    text-align: left;
    white-space: nowrap;
  }
  .looped {
    box-shadow: inset 0 0 0 1px var(--kelp);
  }
  .marker {
    top: 0;
    bottom: 13px;
    width: 9px;
    margin-left: -4px;
    background: linear-gradient(var(--own), var(--own)) center / 2px 100% no-repeat;
  }
  .marker::before {
    content: '';
    position: absolute;
    top: 0;
    left: 1px;
    width: 7px;
    height: 7px;
    border-radius: 50%;
    background: var(--own);
  }
  .head {
    position: absolute;
    inset: 0;
    /* As wide as the song, moved by its own width: a layer that only goes along, nothing is laid out or painted. */
    will-change: transform;
    pointer-events: none;
  }
  .head::before {
    content: '';
    position: absolute;
    inset: 0 auto 0 0;
    width: 2px;
    background: var(--persimmon);
  }
  .peak {
    display: grid;
    min-width: 104px;
    text-align: right;
  }
  .peak .num {
    font-size: 15px;
    font-weight: 600;
  }
  .label {
    color: var(--muted);
    font-size: 12px;
  }
  .over {
    color: var(--persimmon);
  }
</style>

<!-- A printed file: what was measured of it, its waveform to hear it in; opened, its loudness along the way, and another print of the same beside it. -->
<script lang="ts">
  import { Button, Select } from 'flowbite-svelte';
  import { onMount } from 'svelte';
  import Play from '@lucide/svelte/icons/play';
  import Square from '@lucide/svelte/icons/square';
  import type { Print, PrintFile } from '$lib/server/printRows';
  import { ask } from '$lib/state/api';
  import { createTape, type Reel } from '$lib/state/tape.svelte';
  import { timeText } from '$lib/ui/format';
  import LoudnessChart from './LoudnessChart.svelte';
  import { KIND_WORDS, level, type Seen } from './words';
  import Wave from './Wave.svelte';

  let {
    print,
    file,
    others,
    onplay,
    onfail
  }: {
    print: Print;
    file: PrintFile;
    /** The same file of other jobs, the latest first. */
    others: readonly Seen[];
    onplay: () => void;
    onfail: (text: string) => void;
  } = $props();
  type Shape = { readonly peaks: number[]; readonly shortTerm: (number | null)[]; readonly wav: Reel['wav'] };
  let row = $state<HTMLElement>();
  let opened = $state(false);
  let against = $state('');
  let shapes = $state.raw<ReadonlyMap<string, Shape>>(new Map());

  const mine = $derived<Seen>({ print, file });
  const other = $derived(others.find((each) => each.file.id === against));
  const seen = $derived(other ? [mine, other] : [mine]);
  /** The louder one is turned down to the other. */
  const quietest = $derived(seen.every((each) => each.file.lufs !== null) ? Math.min(...seen.map((each) => each.file.lufs!)) : null);
  const down = ({ file: of }: Seen) => (quietest === null ? 0 : quietest - of.lufs!);
  const addressOf = (of: Seen) => `/api/prints/${of.print.id}/${of.file.id}`;
  const reels = (): Reel[] =>
    seen.map((of) => ({
      src: addressOf(of),
      rate: of.print.rate,
      frames: of.file.frames,
      channels: of.file.channels,
      wav: shapes.get(of.file.id)?.wav ?? null,
      gainDb: down(of)
    }));
  const tape = createTape(
    reels,
    () => onplay(),
    (text) => onfail(text)
  );
  const seconds = $derived(file.frames / print.rate);
  const load = async (of: Seen) => {
    if (shapes.has(of.file.id)) return;
    const answer = await ask<Shape>('GET', `${addressOf(of)}/shape`);
    if (answer.ok) shapes = new Map([...shapes, [of.file.id, answer.value]]);
  };
  const play = async () => {
    if (tape.playing) return tape.stop();
    for (const of of seen) await load(of);
    void tape.play();
  };
  const choose = async (id: string) => {
    tape.stop();
    against = id;
    tape.hear(0);
    for (const of of seen) await load(of);
  };
  const curves = $derived(
    seen.flatMap((of, i) => {
      const shape = shapes.get(of.file.id);
      return shape
        ? [
            {
              name: seen.length > 1 ? 'AB'[i] : of.file.title || of.file.name,
              shortTerm: shape.shortTerm,
              seconds: of.file.frames / of.print.rate,
              lufs: of.file.lufs
            }
          ]
        : [];
    })
  );
  const when = (of: Seen) => new Date(of.print.startedAt).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
  const COLOURS = ['var(--kelp)', 'var(--ochre)'];

  onMount(() => {
    // A job may have a thousand files: those are looked at that are seen.
    const watch = new IntersectionObserver(([entry]) => {
      if (!entry.isIntersecting) return;
      watch.disconnect();
      void load(mine);
    });
    watch.observe(row!);
    return () => {
      watch.disconnect();
      tape.stop();
    };
  });
</script>

<tr bind:this={row} class:opened>
  <td class="name">
    <button class="fold" aria-expanded={opened} aria-label="{opened ? 'Close' : 'Open'} {file.name}" onclick={() => (opened = !opened)}
      >{opened ? '▾' : '▸'}</button
    >
    <span class="title" data-hint={file.made ? `${file.made}\nSHA-256 ${file.sha256}` : `SHA-256 ${file.sha256}`}>{file.name}</span>
    <span class="muted">{KIND_WORDS[file.kind]}{file.channels === 1 ? ', mono' : ''}</span>
  </td>
  <td class="num right">{level(file.peakDb)}</td>
  <td class="num right">{level(file.truePeakDb)}</td>
  <td class="num right">{file.lufs === null ? '–' : level(file.lufs)}</td>
  <td class="num right">{file.rangeLu === null ? '–' : file.rangeLu.toFixed(1)}</td>
  <td class="hear">
    <div class="line">
      <button class="play" aria-label="{tape.playing ? 'Stop' : 'Hear'} {file.name}" onclick={() => void play()}>
        {#if tape.playing}<Square size={11} fill="currentColor" />{:else}<Play size={12} fill="currentColor" />{/if}
      </button>
      {#if !opened}
        <div class="wave">
          <Wave
            peaks={shapes.get(file.id)?.peaks ?? []}
            share={tape.at / seconds}
            label="Position in {file.name}"
            height={20}
            onseek={(share) => tape.seek(share * seconds)}
          />
        </div>
      {/if}
      <span class="num muted time">{timeText(tape.at, 1).slice(0, -4)}</span>
    </div>
  </td>
  <td class="right"
    ><Button color="alternative" class="h-[24px] px-[7px] text-[12px]" href="{addressOf(mine)}?download" download={file.name}
      >Download</Button
    ></td
  >
</tr>
{#if opened}
  <tr class="more">
    <td colspan="7">
      <p class="muted made">{file.made}</p>
      {#each seen as of, i (of.file.id)}
        <div class="track">
          {#if seen.length > 1}
            <button class="letter" style:--own={COLOURS[i]} aria-pressed={tape.heard === i} onclick={() => tape.hear(i)}>{'AB'[i]}</button>
          {/if}
          <Wave
            peaks={shapes.get(of.file.id)?.peaks ?? []}
            share={(tape.at * of.print.rate) / of.file.frames}
            label="Position in {seen.length > 1 ? 'AB'[i] : file.name}"
            colour={COLOURS[i]}
            height={seen.length > 1 ? 40 : 56}
            onseek={(share) => tape.seek((share * of.file.frames) / of.print.rate)}
          />
          {#if seen.length > 1}
            <span class="of"
              >{when(of)}<br /><span class="muted"
                >revision {of.print.revision} · <span class="num">{of.file.lufs === null ? '–' : level(of.file.lufs)}</span> LUFS{down(of) <
                -0.005
                  ? `, heard ${level(down(of))} dB`
                  : ''}</span
              ></span
            >
          {/if}
        </div>
      {/each}
      {#if curves.length === seen.length}<LoudnessChart {curves} />{/if}
      <div class="compare">
        <span class="muted">Short-term loudness, LUFS; dashed, integrated.</span>
        {#if others.length}
          <label
            >Compare with
            <Select
              class="ms-1"
              classes={{ select: 'h-6 text-[12.5px]' }}
              placeholder=""
              value={against}
              onchange={(event) => void choose(event.currentTarget.value)}
            >
              <option value="">nothing</option>
              {#each others as of (of.file.id)}<option value={of.file.id}>{when(of)}, revision {of.print.revision}</option>{/each}
            </Select></label
          >
          {#if other}
            <span class="muted"
              >{quietest === null
                ? 'One of them is silent: heard as they are.'
                : 'Heard at equal loudness; A and B change without a gap.'}</span
            >
          {/if}
        {:else}<span class="muted">Printed once: another print of it can be compared here.</span>{/if}
      </div>
    </td>
  </tr>
{/if}

<style>
  td {
    padding: 3px 8px;
    border-top: 1px solid var(--hair);
  }
  .name {
    position: relative;
    padding-left: 40px;
  }
  .name .fold {
    position: absolute;
    left: 16px;
  }
  .fold {
    width: 20px;
    color: var(--muted);
  }
  .right {
    text-align: right;
  }
  .muted {
    color: var(--muted);
  }
  .hear > div.line {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .play {
    display: grid;
    place-items: center;
    width: 24px;
    height: 24px;
    flex: none;
    border: 1px solid var(--line);
    border-radius: 50%;
  }
  .play:hover {
    border-color: var(--kelp);
  }
  .wave {
    width: 130px;
  }
  .time {
    font-size: 11.5px;
  }
  .more td {
    padding: 4px 14px 12px 40px;
    border-top: 0;
  }
  .made {
    margin: 0 0 4px;
    font-size: 12.5px;
  }
  .track {
    display: flex;
    align-items: center;
    gap: 10px;
    margin-bottom: 4px;
  }
  .letter {
    width: 26px;
    height: 26px;
    flex: none;
    border: 1.5px solid var(--own);
    border-radius: 6px;
    color: var(--ink);
    font-weight: 700;
  }
  .letter[aria-pressed='true'] {
    background: var(--own);
    color: var(--paper);
  }
  .of {
    width: 190px;
    flex: none;
    font-size: 12px;
    line-height: 1.3;
  }
  .compare {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 14px;
    margin-top: 4px;
    font-size: 12.5px;
  }
</style>

<!-- Bleed of a track: how it is told apart, what is found, heard, and cut. -->
<script lang="ts">
  import { Badge, Button, Checkbox, Range } from 'flowbite-svelte';
  import { barText } from '$core/time';
  import { useDesk } from '$lib/state/desk';
  import type { Audition } from '$lib/state/audition.svelte';
  import { dbText } from '$lib/ui/format';
  import NumberField from '$lib/ui/NumberField.svelte';
  import type { BleedSearch } from './bleed.svelte';

  let { bleed, audition, onshow }: { bleed: BleedSearch; audition: Audition; onshow: (from: number, to: number) => void } = $props();
  const { store, transport } = useDesk();
  const channel = $derived(bleed.channelId ? store.channel(bleed.channelId) : undefined);
  const found = $derived(bleed.found);
  const proposals = $derived(found?.proposals ?? []);
  const chosen = $derived(proposals.filter(({ from }) => bleed.chosen(from)));
  const place = (frame: number) => {
    const [, bar, beat] = /^bar (\d+) · (\d+)/.exec(barText(frame, store.settings.rate, store.settings.bpm, store.settings.beatsPerBar))!;
    return `${bar}·${beat}`;
  };
  const hear = (spans: readonly { from: number; to: number }[], name: string) => void audition.hear(bleed.channelId!, spans, name);
  const number = (typed: string) => {
    const value = Number(typed.trim().replace('−', '-').replace(',', '.'));
    return typed.trim() !== '' && Number.isFinite(value) ? value : null;
  };
  const threshold = (db: number) => bleed.set({ thresholdDb: Math.max(-90, Math.min(0, Math.round(db * 10) / 10)) });
  const HOLDS = [
    ['before', 'left before a phrase', 1000, 'ms'],
    ['after', 'left after one', 1000, 'ms'],
    ['shortest', 'shortest', 1, 's']
  ] as const;
  const small = 'text-[12px] font-medium';
</script>

{#if channel}
  <header>
    <h2>Bleed in {channel.name}</h2>
    <Badge color="gray">{bleed.levels ? proposals.length : '…'}</Badge>
  </header>
  {#if !bleed.levels}
    <p class="hint">Measuring its level…</p>
  {:else}
    <p class="hint">
      {#if found?.thresholdDb == null}
        Nothing tells this track’s phrases from what lies between them. Set a threshold to look by.
      {:else}
        {#if found.quietDb !== null}Its quiet parts lie around {dbText(found.quietDb)} dBFS.{/if} What stays below the threshold between phrases
        is hatched.
      {/if}
    </p>
    <div class="lines">
      <span>threshold</span>
      <NumberField
        value={found?.thresholdDb ?? -40}
        text="{dbText(found?.thresholdDb ?? -40)} dBFS"
        label="Threshold in dBFS"
        parse={number}
        width={92}
        onset={threshold}
        onnudge={(by, fine) => threshold((found?.thresholdDb ?? -40) + by * (fine ? 0.1 : 1))}
        ondefault={() => bleed.set({ thresholdDb: null })}
      />
      <Range
        class="col-span-full w-full"
        min="-80"
        max="-10"
        step="0.5"
        aria-label="Threshold"
        value={found?.thresholdDb ?? -40}
        oninput={(event) => threshold(Number(event.currentTarget.value))}
      />
      {#each HOLDS as [name, word, factor, unit] (name)}
        <span>{word}</span>
        <NumberField
          value={bleed.how[name] * factor}
          text="{Math.round(bleed.how[name] * factor * 100) / 100} {unit}"
          label="{word} in {unit}"
          parse={(typed) => {
            const value = number(typed);
            return value !== null && value >= 0 ? value : null;
          }}
          width={92}
          onset={(value) => bleed.set({ [name]: Math.min(10, value / factor) })}
          onnudge={(by) => bleed.set({ [name]: Math.max(0, Math.min(10, bleed.how[name] + by * (factor === 1 ? 0.1 : 0.01))) })}
          ondefault={() => bleed.set({ [name]: name === 'before' ? 0.06 : name === 'after' ? 0.12 : 0.4 })}
        />
      {/each}
    </div>
    <div class="buttons">
      <Button
        size="xs"
        color="alternative"
        class={small}
        onclick={() => hear([{ from: Math.round(transport.position), to: Math.round(transport.position) + 600 * transport.rate }], 'alone')}
        >{audition.heard === 'alone' ? 'Stop' : 'Hear it alone'}</Button
      >
      <Button size="xs" color="alternative" class={small} disabled={!chosen.length} onclick={() => hear(chosen, 'gone')}
        >{audition.heard === 'gone' ? 'Stop' : 'Hear what would go'}</Button
      >
    </div>
    <h3 class="caps">Bleed found · {proposals.length}</h3>
    <ul>
      {#each proposals as { from, to, levelDb } (from)}
        <li>
          <Checkbox checked={bleed.chosen(from)} aria-label="Cut {place(from)} to {place(to)}" onchange={() => bleed.turn(from)} />
          <button class="place num" data-hint="Show it" onclick={() => onshow(from, to)}>{place(from)} – {place(to)}</button>
          <span class="level num">{dbText(levelDb)} dBFS</span>
          <button
            class="hear"
            aria-label="{audition.heard === `at ${from}` ? 'Stop' : 'Hear'} {place(from)} to {place(to)}"
            onclick={() => hear([{ from, to }], `at ${from}`)}>{audition.heard === `at ${from}` ? '□' : '▷'}</button
          >
        </li>
      {:else}
        <li class="hint">None by this threshold.</li>
      {/each}
    </ul>
  {/if}
  <div class="buttons">
    <Button size="xs" class={small} disabled={!chosen.length} onclick={bleed.cut}
      >Cut {chosen.length === 1 ? 'this one' : `these ${chosen.length}`}</Button
    >
    <Button
      size="xs"
      color="alternative"
      class={small}
      onclick={() => {
        audition.stop();
        bleed.close();
      }}>{proposals.length === 1 ? 'Leave it' : 'Leave them'}</Button
    >
  </div>
{/if}

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  h2 {
    flex: 1;
    margin: 0;
    font-size: 15.5px;
    font-weight: 650;
  }
  .hint {
    margin: 8px 0;
    color: var(--muted);
    font-size: 12.5px;
  }
  .lines {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 96px;
    align-items: center;
    gap: 3px 8px;
    padding: 8px 0;
    border-block: 1px solid var(--hair);
  }
  .lines > span {
    color: var(--muted);
  }
  .buttons {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin: 10px 0;
  }
  ul {
    margin: 6px 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 26px;
  }
  .place {
    flex: 1;
    text-align: left;
    font-size: 12.5px;
  }
  .place:hover {
    color: var(--kelp);
  }
  .level {
    color: var(--muted);
    font-size: 12px;
  }
  .hear {
    width: 22px;
    color: var(--kelp);
  }
</style>

<!-- The head of a version's column: whether it is printed, its name, and to hear it in the mix's place. -->
<script lang="ts">
  import Play from '@lucide/svelte/icons/play';
  import { ownPass } from '$core/prints/order';
  import type { Version } from '$core/session/entities';
  import NameEdit from '$lib/ui/NameEdit.svelte';

  type Hands = {
    readonly print: () => void;
    readonly hear: () => void;
    readonly rename: (name: string) => void;
    readonly renaming: (on: boolean) => void;
  };
  let {
    version,
    printed,
    heard,
    next,
    note,
    renaming,
    hands
  }: {
    version: Version;
    printed: boolean;
    heard: boolean;
    /** Whether it will be heard from the next bar on. */
    next: boolean;
    /** What is strange about it: silent, the same as another. */
    note: string;
    renaming: boolean;
    hands: Hands;
  } = $props();
</script>

<div class="top" data-hint={note || undefined}>
  <button class="chip" tabindex="-1" aria-pressed={printed} aria-label="Print {version.name}" onclick={hands.print}
    >{printed ? 'print' : 'not now'}</button
  >
  {#if note}<span class="note" role="img" aria-label={note}>!</span>{/if}
</div>
{#if renaming}
  <NameEdit value={version.name} label="Name of {version.name}" onname={hands.rename} onclose={() => hands.renaming(false)} />
{:else}<span class="name" role="presentation" data-hint={version.name} ondblclick={() => hands.renaming(true)}>{version.name}</span>{/if}
<button class="hear" tabindex="-1" aria-pressed={heard} class:next aria-label="Hear {version.name}" onclick={hands.hear}>
  <Play size={10} fill="currentColor" />
  {next ? 'next bar' : heard ? 'heard' : ownPass(version) ? 'own pass' : 'hear'}
</button>

<style>
  .top,
  .hear {
    /* Read on the tint of a chosen column too. */
    --soft: color-mix(in oklch, var(--muted) 55%, var(--ink));
  }
  .top {
    display: flex;
    align-items: center;
    gap: 5px;
  }
  .chip {
    padding: 0 5px;
    border: 1px dashed var(--line);
    border-radius: 4px;
    color: var(--soft);
    font-size: 10.5px;
    line-height: 16px;
  }
  .chip[aria-pressed='true'] {
    border: 1px solid var(--kelp);
    color: var(--kelp);
    font-weight: 600;
  }
  .note {
    color: var(--persimmon);
    font-weight: 700;
  }
  .name {
    display: -webkit-box;
    overflow: hidden;
    font-weight: 650;
    line-height: 1.15;
    overflow-wrap: anywhere;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
  }
  .hear {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    width: fit-content;
    color: var(--soft);
    font-size: 11px;
    line-height: 16px;
  }
  .hear:hover {
    color: var(--kelp);
  }
  .hear[aria-pressed='true'] {
    padding: 0 5px;
    border-radius: 4px;
    background: var(--kelp);
    color: var(--on-kelp);
  }
  .hear.next {
    padding: 0 5px;
    border-radius: 4px;
    box-shadow: inset 0 0 0 1px var(--ochre);
    color: var(--ochre);
  }
</style>

<!-- What is soloed, how to end it, how to have it back, and whether the rest is silent or only dimmed. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { rowsBy } from '$core/session/lookup';
  import { useDesk } from '$lib/state/desk';
  import { dbText } from '$lib/ui/format';

  const { store } = useDesk();
  const soloed = $derived.by(() => {
    void store.heard;
    return rowsBy(store.session, 'channel', 'solo', true).filter(({ kind }) => kind !== 'cue');
  });
  const { settings } = $derived(store);
  const last = $derived(settings.lastSolo.filter((id) => store.session.channel.has(id)).length);
  const DIM = -20;
</script>

{#if soloed.length}
  <span class="solo" role="status">
    <strong>S</strong>
    {soloed.length === 1 ? soloed[0].name : `${soloed.length} soloed`}
    <button data-hint="Nothing soloed (Shift+S)" onclick={() => store.act([{ do: 'solos.clear' }])}>Clear</button>
  </span>
{:else if last}
  <Button color="alternative" data-hint="What was soloed last (Shift+S)" onclick={() => store.act([{ do: 'solos.recall' }])}
    >Recall solo</Button
  >
{/if}
{#if soloed.length || settings.soloDimDb !== null}
  <Button
    color="alternative"
    aria-pressed={settings.soloDimDb !== null}
    data-hint="Whether solo silences the rest, or only makes it quieter"
    onclick={() => store.act([{ do: 'settings.set', soloDimDb: settings.soloDimDb === null ? DIM : null }])}
    >{settings.soloDimDb === null ? 'rest silent' : `rest ${dbText(settings.soloDimDb)} dB`}</Button
  >
{/if}

<style>
  .solo {
    display: inline-flex;
    align-items: center;
    gap: 7px;
    height: 28px;
    padding: 0 4px 0 9px;
    border-radius: 6px;
    background: var(--kelp);
    color: var(--on-kelp);
    white-space: nowrap;
  }
  .solo button {
    height: 20px;
    padding: 0 8px;
    border-radius: 4px;
    background: color-mix(in oklab, var(--on-kelp) 22%, transparent);
  }
</style>

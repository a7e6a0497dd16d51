<!-- A new session: its name, rate and tempo, empty or with a template's structure. -->
<script lang="ts">
  import { Button, Input, Modal, Select } from 'flowbite-svelte';
  import { goto } from '$app/navigation';
  import type { Shelf } from '$lib/state/shelf.svelte';

  type Props = { shelf: Shelf; template?: string; onclose: () => void };
  let { shelf, template: first = '', onclose }: Props = $props();
  // svelte-ignore state_referenced_locally (the dialog is made anew for each)
  let name = $state(first);
  let rate = $state(48000);
  let bpm = $state(120);
  // svelte-ignore state_referenced_locally (the dialog is made anew for each)
  let template = $state(first);
  const RATES = [44100, 48000, 88200, 96000, 176400, 192000].map((value) => ({ value, name: `${value / 1000} kHz` }));
  const choices = $derived([
    { value: '', name: 'None: empty' },
    ...shelf.templates.map((one) => ({ value: one.name, name: `${one.name} (${one.tracks} tracks, ${one.buses} buses)` }))
  ]);
  const accept = async (event: SubmitEvent) => {
    event.preventDefault();
    const id = await shelf.create({ name: name.trim(), rate, bpm, ...(template ? { template } : {}) });
    if (id) await goto(`/s/${id}/roster`);
  };
</script>

<Modal open size="xs" title="New session" {onclose}>
  <form onsubmit={accept}>
    <label>Name <Input class="w-full!" bind:value={name} required maxlength={120} /></label>
    <label>Template <Select items={choices} bind:value={template} placeholder="" /></label>
    <div class="pair">
      <label>Sample rate <Select items={RATES} bind:value={rate} placeholder="" /></label>
      <label>Tempo, BPM <Input class="w-full!" type="number" min={20} max={400} step="any" bind:value={bpm} /></label>
    </div>
    {#if shelf.notice}<p role="alert">{shelf.notice}</p>{/if}
    <Button type="submit" size="sm">Make session</Button>
  </form>
</Modal>

<style>
  form {
    display: grid;
    gap: 12px;
  }
  label {
    display: grid;
    gap: 4px;
    color: var(--muted);
    font-size: 12px;
  }
  .pair {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 12px;
  }
  p {
    margin: 0;
    color: var(--persimmon);
  }
</style>

<!-- Templates: keep this session's structure, start a session from one, bring one in from a file or take one out. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { Button, Checkbox, Input, Modal, Select } from 'flowbite-svelte';
  import { onMount } from 'svelte';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';

  type Brief = { name: string; tracks: number; buses: number; returns: number; shipped: boolean };
  let { onclose }: { onclose: () => void } = $props();
  const { store } = useDesk();
  let templates = $state.raw<Brief[] | null>(null);
  let name = $state(`${store.settings.name} template`);
  /** Whether its lanes are kept too. */
  let lanes = $state(false);
  let problem = $state('');
  let starting = $state<string | null>(null);
  let sessionName = $state('');
  let rate = $state(store.settings.rate);
  let chosen = $state<HTMLInputElement>();

  const load = async () => {
    const answer = await ask<{ templates: Brief[] }>('GET', '/api/templates');
    if (answer.ok) templates = answer.value.templates;
    else problem = answer.error.message;
  };
  onMount(load);
  const after = async (answer: { ok: boolean; error?: { message: string } }, said: string) => {
    problem = answer.ok ? '' : (answer.error?.message ?? '');
    if (answer.ok) store.say(said);
    await load();
  };
  const keep = async () =>
    after(await ask('POST', '/api/templates', { session: store.id, name: name.trim(), lanes }), `Kept as the template ${name.trim()}.`);
  const remove = async (one: string) =>
    after(await ask('DELETE', `/api/templates/${encodeURIComponent(one)}`), `The template ${one} is gone.`);
  const bring = async (file: File | undefined) => {
    if (!file) return;
    let template: unknown;
    try {
      template = JSON.parse(await file.text());
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      problem = `${file.name} is not a template: ${error.message}.`;
      return;
    }
    await after(await ask('POST', '/api/templates', { template }), `${file.name} is a template here now.`);
  };
  const start = async () => {
    const answer = await ask<{ id: string }>('POST', '/api/sessions', {
      name: sessionName,
      rate,
      bpm: store.settings.bpm,
      template: starting
    });
    if (!answer.ok) return void (problem = answer.error.message);
    onclose();
    await goto(`/s/${answer.value.id}/roster`);
  };
</script>

<Modal open title="Templates" size="md" outsideclose={false} {onclose}>
  <form
    class="keep"
    onsubmit={(event) => {
      event.preventDefault();
      void keep();
    }}
  >
    <label
      >Keep the structure of this session, without its recordings, as
      <Input required maxlength={120} bind:value={name} /></label
    >
    {#if store.session.lane.size}<Checkbox bind:checked={lanes}>with its lanes</Checkbox>{/if}
    <Button size="sm" type="submit" color="alternative">Keep</Button>
  </form>
  <ul>
    {#each templates ?? [] as one (one.name)}
      <li>
        <span class="what"
          ><strong>{one.name}</strong><span class="muted"
            >{one.tracks} tracks, {one.buses} buses, {one.returns} returns{one.shipped ? ', came with Isotaxis' : ''}</span
          ></span
        >
        <Button color="alternative" onclick={() => ((starting = one.name), (sessionName = one.name))}>Start a session</Button>
        <Button color="alternative" href="/api/templates/{encodeURIComponent(one.name)}" download="{one.name}.json">To a file</Button>
        {#if !one.shipped}<Button color="alternative" onclick={() => void remove(one.name)}>Forget</Button>{/if}
      </li>
      {#if starting === one.name}
        <li>
          <form
            class="start"
            onsubmit={(event) => {
              event.preventDefault();
              void start();
            }}
          >
            <label>Name of the new session<Input required maxlength={120} bind:value={sessionName} /></label>
            <label
              >Rate<Select placeholder="" bind:value={rate}
                >{#each [44100, 48000, 88200, 96000] as hertz (hertz)}<option value={hertz}>{hertz / 1000} kHz</option>{/each}</Select
              ></label
            >
            <Button size="sm" type="submit">Start</Button>
          </form>
        </li>
      {/if}
    {/each}
  </ul>
  {#if problem}<p class="wrong" role="alert">{problem}</p>{/if}
  <div class="foot">
    <input
      class="sr-only"
      type="file"
      accept=".json"
      tabindex="-1"
      aria-label="Template file"
      bind:this={chosen}
      onchange={() => void bring(chosen?.files?.[0])}
    />
    <Button size="sm" color="alternative" onclick={() => chosen?.click()}>From a file…</Button>
    <Button size="sm" color="alternative" onclick={onclose}>Close</Button>
  </div>
</Modal>

<style>
  .keep,
  .start,
  .foot,
  li {
    display: flex;
    align-items: end;
    gap: 8px;
  }
  li {
    align-items: center;
    padding: 6px 0;
    border-bottom: 1px solid var(--hair);
  }
  .start {
    flex: 1;
  }
  .foot {
    justify-content: end;
    padding-top: 10px;
  }
  ul {
    max-height: 340px;
    margin: 0;
    padding: 0;
    overflow: auto;
    list-style: none;
  }
  label {
    display: grid;
    flex: 1;
    gap: 3px;
    color: var(--muted);
    font-size: 12px;
  }
  .what {
    display: grid;
    flex: 1;
  }
  strong {
    color: var(--ink);
    font-weight: 600;
  }
  .muted {
    color: var(--muted);
    font-size: 12px;
  }
  .wrong {
    color: var(--persimmon);
  }
</style>

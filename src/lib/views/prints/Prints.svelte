<!-- Prints: print the mix, follow the job, hear and keep the file. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { Button, Progressbar } from 'flowbite-svelte';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';
  import Listen from '$lib/ui/Listen.svelte';
  import { dbText, timeText } from '$lib/ui/format';
  import type { Print } from '$lib/server/prints';

  const { store, transport } = useDesk();
  let prints = $state.raw<Print[]>([]);
  let loaded = $state(false);
  let encoding = $state<'s24' | 'f32'>('s24');
  let timer: ReturnType<typeof setTimeout> | undefined;
  const running = $derived(prints.some(({ status }) => status === 'running'));
  const WORDS = { running: 'Printing', done: 'Done', failed: 'Failed', cancelled: 'Cancelled', interrupted: 'Interrupted' } as const;

  const load = async () => {
    clearTimeout(timer);
    const answer = await ask<{ prints: Print[] }>('GET', `/api/sessions/${store.id}/prints`);
    if (answer.ok) prints = answer.value.prints;
    loaded = true;
    if (prints.some(({ status }) => status === 'running') || !answer.ok) timer = setTimeout(load, 400);
  };
  onMount(() => {
    void load();
    return () => clearTimeout(timer);
  });

  const when = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
  const start = async () => {
    const answer = await ask('POST', `/api/sessions/${store.id}/prints`, { encoding });
    if (!answer.ok) store.say(answer.error.message);
    await load();
  };
  const remove = async (id: string, cancel: boolean) => {
    const answer = await ask('DELETE', `/api/prints/${id}${cancel ? '?cancel' : ''}`);
    if (!answer.ok) store.say(answer.error.message);
    await load();
  };
</script>

<div class="prints">
  <header>
    <div>
      <h1>Prints</h1>
      <p class="muted">
        The whole mix through the mix bus, from start to end and on until the tail has died away. Solo does not count; mutes do.
      </p>
    </div>
    <label
      >Format <select class="field" bind:value={encoding}
        ><option value="s24">WAV, 24 bit</option><option value="f32">WAV, 32-bit float</option></select
      ></label
    >
    <Button onclick={start} disabled={running || store.saving !== 'saved'}>Print the mix</Button>
  </header>
  {#if prints.length}
    <table>
      <thead><tr><th>Print</th><th>Format</th><th class="right">Length</th><th class="right">Peak</th><th>Hear</th><th></th></tr></thead>
      <tbody>
        {#each prints as print (print.id)}
          <tr>
            <td><strong>{print.name}</strong><span class="muted">{when(print.startedAt)} · revision {print.revision}</span></td>
            <td>{print.encoding === 's24' ? '24 bit' : '32-bit float'}, {print.rate / 1000} kHz</td>
            {#if print.status === 'done'}
              <td class="num right">{timeText(print.frames, print.rate)}</td>
              <td class="num right">{print.peakDb === null ? '−∞' : dbText(print.peakDb)} dBFS</td>
              <td
                ><Listen
                  src="/api/prints/{print.id}"
                  name={print.name}
                  seconds={print.frames / print.rate}
                  onplay={() => transport.stop()}
                /></td
              >
              <td class="acts">
                <a class="plain" href="/api/prints/{print.id}?download" download="{print.name}.wav">Download</a>
                <button class="plain" onclick={() => remove(print.id, false)}>Remove</button>
              </td>
            {:else if print.status === 'running'}
              <td colspan="3">
                <Progressbar progress={Math.round(print.share * 100)} size="h-1.5" />
                <span class="muted"
                  >{print.secondsLeft === null ? 'Started' : `About ${Math.max(1, Math.round(print.secondsLeft))} s left`}</span
                >
              </td>
              <td class="acts"><button class="plain" onclick={() => remove(print.id, true)}>Cancel</button></td>
            {:else}
              <td colspan="3"><strong class="bad">{WORDS[print.status]}.</strong> {print.message}</td>
              <td class="acts"><button class="plain" onclick={() => remove(print.id, false)}>Remove</button></td>
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  {:else if loaded}
    <p class="empty">No prints yet. “Print the mix” writes one file; it appears here with its length and peak, to hear and to download.</p>
  {/if}
</div>

<style>
  .prints {
    height: 100%;
    padding: 18px 24px;
    overflow: auto;
  }
  header {
    display: flex;
    align-items: center;
    gap: 18px;
    margin-bottom: 18px;
  }
  header > div {
    flex: 1;
  }
  h1 {
    margin: 0;
    font-size: 18px;
    font-weight: 650;
  }
  p {
    margin: 2px 0 0;
  }
  .muted {
    color: var(--muted);
  }
  table {
    width: 100%;
    border: 1px solid var(--line);
    border-collapse: separate;
    border-radius: 10px;
    border-spacing: 0;
    background: var(--sheet);
  }
  th {
    padding: 8px 12px;
    border-bottom: 1px solid var(--line);
    color: var(--muted);
    font-size: 12px;
    font-weight: 500;
    text-align: left;
  }
  td {
    padding: 8px 12px;
    border-bottom: 1px solid var(--hair);
  }
  tr:last-child td {
    border-bottom: none;
  }
  td strong {
    display: block;
    font-weight: 600;
  }
  .bad {
    display: inline;
    color: var(--persimmon);
  }
  .right {
    text-align: right;
  }
  .acts {
    text-align: right;
    white-space: nowrap;
  }
  .acts .plain + .plain {
    margin-left: 6px;
  }
  .empty {
    padding: 70px 0;
    color: var(--muted);
    text-align: center;
  }
</style>

<!-- Prints: the versions, what is printed and whether it will add up, the jobs with their files and proofs. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { goto } from '$app/navigation';
  import { ask } from '$lib/state/api';
  import { stopTapes } from '$lib/state/tape.svelte';
  import { useDesk } from '$lib/state/desk';
  import type { Print } from '$lib/server/printRows';
  import Job from './Job.svelte';
  import { choiceOf } from './order.svelte';
  import PrintSheet from './PrintSheet.svelte';
  import VersionSheet from './VersionSheet.svelte';

  const { store, transport } = useDesk();
  const choice = choiceOf(store);
  let prints = $state.raw<Print[]>([]);
  let loaded = $state(false);
  let timer: ReturnType<typeof setTimeout> | undefined;
  // One thing is heard at a time.
  $effect(() => {
    if (transport.playing) stopTapes();
  });
  const open = ({ status }: Print) => status === 'running' || status === 'queued';

  const load = async () => {
    clearTimeout(timer);
    const answer = await ask<{ prints: Print[] }>('GET', `/api/sessions/${store.id}/prints`);
    if (answer.ok) prints = answer.value.prints;
    loaded = true;
    if (prints.some(open) || !answer.ok) timer = setTimeout(load, 400);
  };
  onMount(() => {
    void load();
    return () => clearTimeout(timer);
  });

  const asking = async (method: string, path: string, body?: object) => {
    const answer = await ask(method, path, body);
    if (!answer.ok) store.say(answer.error.message);
    await load();
  };
  const start = (order: object) => asking('POST', `/api/sessions/${store.id}/prints`, order);
  const handsOf = (print: Print) => ({
    cancel: () => void asking('DELETE', `/api/prints/${print.id}?cancel`),
    remove: () => {
      prints = prints.filter(({ id }) => id !== print.id);
      void asking('DELETE', `/api/prints/${print.id}`);
    },
    again: () => void asking('POST', `/api/prints/${print.id}`),
    float: () => void start({ ...print.order, format: 'wav32f' }),
    play: () => transport.stop(),
    open: () => void openStems(print),
    fail: (text: string) => store.say(text)
  });
  const openStems = async ({ id }: Print) => {
    const answer = await ask<{ id: string; name: string }>('POST', `/api/prints/${id}/session`);
    if (!answer.ok) return store.say(answer.error.message);
    await goto(`/s/${answer.value.id}/prints`);
  };
</script>

<div class="prints">
  <main>
    <VersionSheet {choice} />
    <section class="jobs">
      <h2>Prints</h2>
      {#each prints as print, i (print.id)}
        <Job {print} {prints} hands={handsOf(print)} open={i === 0} />
      {/each}
      {#if loaded && prints.length === 0}
        <p class="muted">No prints yet. Choose at the right what to print; it appears here with its levels, to hear and to download.</p>
      {/if}
    </section>
  </main>
  <PrintSheet onprint={(order) => void start(order)} />
</div>

<style>
  .prints {
    display: flex;
    height: 100%;
  }
  main {
    display: flex;
    flex: 1;
    flex-direction: column;
    min-width: 0;
    overflow: auto;
  }
  h2 {
    margin: 0;
    font-size: 14px;
    font-weight: 650;
  }
  .jobs {
    display: grid;
    gap: 10px;
    padding: 12px;
  }
  .muted {
    color: var(--muted);
  }
</style>

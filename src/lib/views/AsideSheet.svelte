<!-- Moves that the server could not take: what each was, why it was not taken, and what to do with it. -->
<script lang="ts">
  import { Button, Modal } from 'flowbite-svelte';
  import { downloadJson } from '$lib/ui/download';
  import type { SessionStore } from '$lib/state/session.svelte';

  let { store, onclose }: { store: SessionStore; onclose: () => void } = $props();
</script>

<Modal open title="Set aside, not saved" size="md" {onclose}>
  <p class="hint">These could not be saved, and are not in the session. Try them again, keep them as a file, or forget them.</p>
  <ul>
    {#each store.aside as { id, label, why, commands } (id)}
      <li>
        <span class="what">{label}<span class="why">{why}</span></span>
        <Button size="xs" onclick={() => store.retryAside(id)}>Try again</Button>
        <Button size="xs" color="alternative" onclick={() => downloadJson(`${label}.json`, commands)}>Keep as a file</Button>
        <Button size="xs" color="alternative" onclick={() => store.forgetAside(id)}>Forget</Button>
      </li>
    {:else}
      <li>Nothing is set aside any more.</li>
    {/each}
  </ul>
</Modal>

<style>
  .hint {
    margin: 0 0 10px;
    color: var(--muted);
  }
  ul {
    display: grid;
    gap: 8px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    gap: 8px;
    color: var(--ink);
  }
  .what {
    display: grid;
    flex: 1;
    min-width: 0;
  }
  .why {
    color: var(--muted);
    font-size: 12px;
  }
</style>

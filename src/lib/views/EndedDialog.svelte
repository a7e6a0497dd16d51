<!-- Says that the session was removed while this page had it open, and leads back. -->
<script lang="ts">
  import { Button, Modal } from 'flowbite-svelte';
  import { goto } from '$app/navigation';
  import type { SessionStore } from '$lib/state/session.svelte';

  let { store }: { store: SessionStore } = $props();
  let problem = $state('');
  const title = $derived(store.ended === 'bin' ? 'This session is in the bin' : 'This session is gone');
  const back = async () => {
    const answer = await store.bringBack();
    if (!answer.ok) problem = answer.error.message;
  };
</script>

<Modal open size="xs" dismissable={false} {title} aria-label={title}>
  {#if store.ended === 'bin'}
    <p>
      “{store.settings.name}” was removed by another page. It stays in the bin for 30 days. What was done here meanwhile waits in this page.
    </p>
  {:else}
    <p>“{store.settings.name}” was removed for good by another page. Nothing more of it can be kept.</p>
  {/if}
  {#if problem}<p role="alert">{problem}</p>{/if}
  <div class="act">
    {#if store.ended === 'bin'}<Button size="sm" onclick={() => void back()}>Bring it back</Button>{/if}
    <Button size="sm" color="alternative" onclick={() => void goto('/')}>All sessions</Button>
  </div>
</Modal>

<style>
  p {
    margin: 0 0 10px;
  }
  .act {
    display: flex;
    gap: 8px;
  }
</style>

<!-- Why nothing is played on this page, and what to do about it. -->
<script lang="ts">
  import { Modal } from 'flowbite-svelte';
  import type { Silence } from '$lib/state/transport.svelte';

  let { why, onclose }: { why: Silence; onclose: () => void } = $props();
  let open = $state(true);
  const title = 'Nothing is played here';
</script>

<Modal bind:open {onclose} size="sm" {title} aria-label={title}>
  {#if why === 'plain'}
    <p>
      This page came by plain http, from another computer. Browsers let a page play a session only where it came by https, or from the
      computer it is opened on.
    </p>
    <p>All else works here, and prints can be heard in Prints. To hear the session itself:</p>
    <ul>
      <li>open Isotaxis on the computer that it runs on, or</li>
      <li>have it given an https address: “Over HTTPS” in docs/running.md says how, in ten lines.</li>
    </ul>
  {:else}
    <p>
      Something between this browser and Isotaxis takes away the headers by which a page may play a session: Cross-Origin-Opener-Policy and
      Cross-Origin-Embedder-Policy. All else works here. Let them through, or open Isotaxis without what stands between.
    </p>
  {/if}
</Modal>

<style>
  p {
    margin: 0 0 10px;
  }
  ul {
    margin: 0;
    padding-left: 18px;
    list-style: disc;
  }
  li {
    margin-bottom: 4px;
  }
</style>

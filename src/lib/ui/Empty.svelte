<!-- What a view says while it has nothing to show, and the next step. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  let { says, hint = '', children }: { says: string; hint?: string; children?: Snippet } = $props();
</script>

<div>
  <p>{says}</p>
  {#if hint}<p class="hint">{hint}</p>{/if}
  {@render children?.()}
</div>

<style>
  div {
    display: grid;
    justify-items: center;
    gap: 10px;
    padding: 90px 20px;
    text-align: center;
  }
  p {
    margin: 0;
  }
  .hint {
    color: var(--muted);
  }
</style>

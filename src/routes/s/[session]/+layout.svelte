<!-- Makes the desk for a session; another session makes another desk. -->
<script lang="ts">
  import Shell from '$lib/views/Shell.svelte';
  let { data, children } = $props();
</script>

{#key data.id}
  <Shell id={data.id} answer={data.answer}>{@render children()}</Shell>
{/key}

<script lang="ts">
  import Prints from '$lib/views/prints/Prints.svelte';
</script>

<svelte:head><title>Prints – Isotaxis</title></svelte:head>
<Prints />

<script lang="ts">
  import Roster from '$lib/views/roster/Roster.svelte';
</script>

<svelte:head><title>Roster – Isotaxis</title></svelte:head>
<Roster />

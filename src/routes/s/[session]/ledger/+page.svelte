<script lang="ts">
  import Ledger from '$lib/views/ledger/Ledger.svelte';
</script>

<svelte:head><title>Ledger – Isotaxis</title></svelte:head>
<Ledger />

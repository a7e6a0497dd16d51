<script lang="ts">
  let { data } = $props();
</script>

<svelte:head><title>{data.name} – Isotaxis</title></svelte:head>
<data.view />

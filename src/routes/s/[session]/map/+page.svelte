<script lang="ts">
  import MapView from '$lib/views/map/MapView.svelte';
</script>

<svelte:head><title>Map – Isotaxis</title></svelte:head>
<MapView />

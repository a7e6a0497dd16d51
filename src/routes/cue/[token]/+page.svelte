<script lang="ts">
  import Player from '$lib/views/player/Player.svelte';
  let { data } = $props();
</script>

<svelte:head><title>{data.view.cue} – headphones</title></svelte:head>
<Player token={data.token} initial={data.view} />

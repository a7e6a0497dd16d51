<script lang="ts">
  import SessionsPage from '$lib/views/sessions/SessionsPage.svelte';
</script>

<svelte:head><title>Sessions – Isotaxis</title></svelte:head>
<SessionsPage />

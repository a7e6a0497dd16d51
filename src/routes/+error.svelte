<!-- What is shown where a page cannot be: what happened, and the way back. -->
<script lang="ts">
  import { page } from '$app/state';
</script>

<main>
  <h1>{page.status === 404 ? 'This is not here' : 'This did not work'}</h1>
  <p>{page.route.id === null ? 'There is nothing at this address.' : page.error?.message}</p>
  <p><a href="/">All sessions</a></p>
</main>

<style>
  main {
    max-width: 480px;
    margin: 120px auto;
  }
  h1 {
    margin-bottom: 8px;
    font-size: 20px;
    font-weight: 700;
  }
  p {
    margin-bottom: 6px;
  }
  a {
    color: var(--kelp);
    text-decoration: underline;
  }
</style>

<!-- The outermost layout: fonts, palette, and Flowbite's parts in our theme. -->
<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/atkinson-hyperlegible-mono';
  import '../app.css';
  import { ThemeProvider } from 'flowbite-svelte';
  import Hints from '$lib/ui/Hints.svelte';
  import { theme } from '$lib/ui/theme';
  let { children } = $props();
</script>

<ThemeProvider {theme}>
  {@render children()}
  <Hints />
</ThemeProvider>

<!-- The outermost layout: fonts, palette, and Flowbite's parts in our theme. -->
<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/atkinson-hyperlegible-mono';
  import '../app.css';
  import { ThemeProvider } from 'flowbite-svelte';
  import Hints from '$lib/ui/Hints.svelte';
  import { theme } from '$lib/ui/theme';
  let { children } = $props();
  /**
   * Where the button that had the focus is gone, as at the end of an import, keys go to the page behind the dialog: nothing there
   * may take them, and the browser does not hear Escape. One that is on its way out is inert, and keeps nothing.
   */
  const onkeydowncapture = (event: KeyboardEvent) => {
    if (event.target !== document.body) return;
    const dialog = [...document.querySelectorAll('dialog:modal:not([inert])')].at(-1);
    if (!dialog) return;
    event.stopPropagation();
    if (event.key === 'Escape') dialog.dispatchEvent(new Event('cancel', { cancelable: true }));
  };
</script>

<svelte:document {onkeydowncapture} />
<ThemeProvider {theme}>
  {@render children()}
  <Hints />
</ThemeProvider>

<!-- The outermost layout: fonts, palette. -->
<script lang="ts">
  import '@fontsource-variable/atkinson-hyperlegible-next';
  import '@fontsource-variable/atkinson-hyperlegible-mono';
  import '../app.css';
  let { children } = $props();
</script>

{@render children()}

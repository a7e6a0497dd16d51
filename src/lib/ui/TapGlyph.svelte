<!-- Where a send is taken, drawn as what it means: a stroke is the fader; the dot stands before it, after it, or before a
     double stroke, which is inserts and fader. -->
<script lang="ts">
  import type { Tap } from '$core/session/entities';
  let { tap }: { tap: Tap } = $props();
</script>

<svg width="14" height="12" viewBox="0 0 14 12" aria-hidden="true">
  {#if tap === 'input'}<line x1="9.5" x2="9.5" y1="1" y2="11" stroke="currentColor" stroke-width="1.4" />{/if}
  <line x1={tap === 'input' ? 6.5 : 7} x2={tap === 'input' ? 6.5 : 7} y1="1" y2="11" stroke="currentColor" stroke-width="1.4" />
  <circle cx={tap === 'post' ? 11 : tap === 'pre' ? 3 : 2.5} cy="6" r="1.9" fill="currentColor" />
</svg>

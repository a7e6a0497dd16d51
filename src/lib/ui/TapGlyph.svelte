<!-- Where a send is taken, drawn as what it means: a stroke is the fader, the dot stands before or after it. -->
<script lang="ts">
  import type { Tap } from '$core/session/entities';
  let { tap }: { tap: Tap } = $props();
</script>

<svg width="14" height="12" viewBox="0 0 14 12" aria-hidden="true">
  <line x1="7" x2="7" y1="1" y2="11" stroke="currentColor" stroke-width="1.4" />
  <circle cx={tap === 'pre' ? 3 : 11} cy="6" r="1.9" fill="currentColor" />
</svg>

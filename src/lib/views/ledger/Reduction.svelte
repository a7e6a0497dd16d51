<!-- How much a compressor or limiter takes off now: a bar from the right, its figure beside it. -->
<script lang="ts">
  import { FULL_DB, reduction } from '$lib/ui/reductions';

  let { id }: { id: string } = $props();
</script>

<div use:reduction={id} role="img" aria-label="Gain reduction, up to {FULL_DB} dB">
  <span>Takes off</span>
  <span class="bar"><i></i></span>
  <span class="num">0.0</span>
</div>

<style>
  div {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr) 76px;
    align-items: center;
    min-height: 22px;
    font-size: 12px;
  }
  .bar {
    position: relative;
    height: 7px;
    border-radius: 3px;
    background: var(--rail);
    overflow: hidden;
  }
  i {
    position: absolute;
    inset: 0;
    background: var(--ochre);
    transform: scaleX(var(--reduced, 0));
    transform-origin: right;
  }
  .num {
    padding-right: 5px;
    text-align: right;
  }
</style>

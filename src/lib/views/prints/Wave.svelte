<!-- A printed file's peaks along its length, to see and to move in. -->
<script lang="ts">
  let {
    peaks,
    share,
    label,
    colour = 'var(--kelp)',
    height,
    onseek
  }: {
    peaks: readonly number[];
    /** How much of it has been played, 0 … 1. */
    share: number;
    label: string;
    colour?: string;
    height: number;
    onseek: (share: number) => void;
  } = $props();
  const HEIGHT = 100;
  const top = $derived(Math.max(1e-6, ...peaks));
  const outline = $derived.by(() => {
    const tall = (peak: number) => Math.max(0.6, (peak / top) * HEIGHT * 0.48);
    const above = peaks.map((peak, i) => `${i},${(HEIGHT / 2 - tall(peak)).toFixed(1)}`);
    const below = peaks.map((peak, i) => `${i},${(HEIGHT / 2 + tall(peak)).toFixed(1)}`).reverse();
    return [...above, ...below].join(' ');
  });
  const seek = (event: PointerEvent & { currentTarget: SVGSVGElement }) => {
    const box = event.currentTarget.getBoundingClientRect();
    onseek(Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)));
  };
  const onkeydown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    onseek(Math.max(0, Math.min(1, share + by)));
  };
</script>

<svg
  viewBox="0 0 {Math.max(1, peaks.length - 1)} {HEIGHT}"
  preserveAspectRatio="none"
  style:height="{height}px"
  style:--own={colour}
  role="slider"
  tabindex="0"
  aria-label={label}
  aria-valuemin="0"
  aria-valuemax="100"
  aria-valuenow={Math.round(share * 100)}
  onpointerdown={seek}
  {onkeydown}
>
  {#if peaks.length}
    <polygon points={outline} class="rest" />
    <polygon points={outline} class="played" style:clip-path="inset(0 {(1 - share) * 100}% 0 0)" />
  {/if}
  <line x1={share * (peaks.length - 1)} x2={share * (peaks.length - 1)} y1="0" y2={HEIGHT} />
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    cursor: text;
    touch-action: none;
  }
  .rest {
    fill: var(--muted);
    opacity: 0.55;
  }
  .played {
    fill: var(--own);
    transform-box: fill-box;
  }
  line {
    stroke: var(--persimmon);
    stroke-width: 1.5;
    vector-effect: non-scaling-stroke;
  }
</style>

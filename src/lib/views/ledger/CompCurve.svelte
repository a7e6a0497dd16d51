<!-- A compressor's static curve: level in against level out, −60 … 0 dBFS, from the formula that the audio follows. -->
<script lang="ts">
  import { compReduction, makeUpOf } from '$core/processors/comp/params';

  let { values }: { values: Readonly<Record<string, number>> } = $props();
  const LOW = -60;
  const place = (db: number) => ((db - LOW) / -LOW) * 100;
  const line = $derived(
    Array.from({ length: 61 }, (_, i) => {
      const level = LOW + i;
      return `${place(level).toFixed(1)},${(100 - place(level + compReduction(values, level) + makeUpOf(values))).toFixed(1)}`;
    }).join(' ')
  );
</script>

<svg viewBox="0 0 100 100" preserveAspectRatio="none" role="img" aria-label="Level out over level in">
  <line x1="0" y1="100" x2="100" y2="0" class="even" />
  <line x1={place(values.threshold)} x2={place(values.threshold)} y1="0" y2="100" class="even" />
  <polyline points={line} />
</svg>

<style>
  svg {
    display: block;
    width: 100%;
    height: 92px;
    margin-bottom: 6px;
    border: 1px solid var(--line);
    border-radius: 5px;
    background: var(--sheet);
  }
  line,
  polyline {
    fill: none;
    vector-effect: non-scaling-stroke;
  }
  .even {
    stroke: var(--line);
    stroke-width: 1;
  }
  polyline {
    stroke: var(--kelp);
    stroke-width: 2;
  }
</style>

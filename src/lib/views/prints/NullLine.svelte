<!-- One proof of a job: what is left over, against its bar; opened, where it lies, and the sound of it 60 dB louder. -->
<script lang="ts">
  import type { Null } from '$files/prints/proof';
  import Listen from '$lib/ui/Listen.svelte';
  import { leftText, level, nullWords } from './words';

  let { print, place, proof, seconds, onplay }: { print: string; place: number; proof: Null; seconds: number; onplay: () => void } =
    $props();
  const [FLOOR, TOP] = [-150, -90];
  const WIDTH = 480;
  const HEIGHT = 54;
  const y = (db: number) => HEIGHT * (1 - (Math.max(FLOOR, Math.min(TOP, db)) - FLOOR) / (TOP - FLOOR));
  const bars = $derived(proof.shape.map((db, i) => ({ x: (i * WIDTH) / proof.shape.length, db })).filter(({ db }) => db > FLOOR));
</script>

<div class="null">
  <p>
    <strong class:bad={!proof.holds}>{proof.holds ? '✓' : '✗'} {nullWords(proof)}</strong>
    <span class="num">{leftText(proof)}</span> <span class="muted">bar {level(proof.bar)}</span>
  </p>
  {#each proof.why as why (why)}<p class="bad">{why}</p>{/each}
  {#if proof.residual !== null}
    <svg viewBox="0 0 {WIDTH} {HEIGHT}" preserveAspectRatio="none" role="img" aria-label="What is left over, from −150 to −90 dBFS">
      <line x1="0" x2={WIDTH} y1={y(proof.bar)} y2={y(proof.bar)} />
      {#each bars as { x, db } (x)}<rect {x} y={y(db)} width={WIDTH / proof.shape.length - 0.4} height={HEIGHT - y(db)} />{/each}
    </svg>
    <Listen src="/api/prints/{print}/residual/{place}" name="what is left over, 60 dB louder" {seconds} {onplay} />
    <span class="muted">60 dB louder</span>
  {/if}
</div>

<style>
  .null {
    display: grid;
    grid-template-columns: minmax(200px, 1fr) 250px auto;
    gap: 4px 12px;
    align-items: center;
    padding: 8px 0;
  }
  p {
    grid-column: 1 / -1;
    margin: 0;
  }
  .muted {
    color: var(--muted);
  }
  .bad {
    color: var(--persimmon);
  }
  svg {
    width: 100%;
    height: 40px;
    border-bottom: 1px solid var(--line);
  }
  rect {
    fill: var(--muted);
  }
  line {
    stroke: var(--kelp);
    stroke-dasharray: 4 3;
    vector-effect: non-scaling-stroke;
  }
</style>

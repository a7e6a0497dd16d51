<!-- Short-term loudness of one printed file, or of two, along their length. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { Chart, ChartDataset, Point } from 'chart.js';
  import { timeText } from '$lib/ui/format';

  export type Curve = {
    readonly name: string;
    readonly shortTerm: readonly (number | null)[];
    readonly seconds: number;
    readonly lufs: number | null;
  };
  let { curves }: { curves: readonly Curve[] } = $props();
  let canvas = $state<HTMLCanvasElement>();
  let chart: Chart | null = null;
  const COLOURS = ['--kelp', '--ochre'];

  const draw = async () => {
    const { Chart, LineController, LineElement, PointElement, LinearScale, Tooltip } = await import('chart.js');
    if (!canvas) return;
    Chart.register(LineController, LineElement, PointElement, LinearScale, Tooltip);
    const styles = getComputedStyle(canvas);
    const colour = (name: string) => styles.getPropertyValue(name).trim();
    const line = (name: string, points: Point[], of: string, dashed = false): ChartDataset<'line', Point[]> => ({
      label: name,
      data: points,
      borderColor: colour(of),
      borderWidth: dashed ? 1 : 1.6,
      borderDash: dashed ? [4, 3] : [],
      pointRadius: 0,
      pointHitRadius: dashed ? 0 : 6,
      spanGaps: false
    });
    const datasets = curves.flatMap(({ name, shortTerm, seconds, lufs }, i) => [
      line(
        name,
        shortTerm.map((y, n) => ({ x: ((n + 0.5) / shortTerm.length) * seconds, y: y === null ? NaN : Math.max(-70, y) })),
        COLOURS[i]
      ),
      ...(lufs === null
        ? []
        : [
            line(
              `${name}, integrated`,
              [
                { x: 0, y: lufs },
                { x: seconds, y: lufs }
              ],
              COLOURS[i],
              true
            )
          ])
    ]);
    const loud = curves.flatMap(({ shortTerm, lufs }) => [...shortTerm, lufs].filter((each) => each !== null));
    // What dies away leaves at the bottom: what counts is near the integrated loudness.
    const middle = Math.min(...curves.flatMap(({ lufs }) => lufs ?? []));
    const highest = loud.length ? Math.ceil((Math.max(...loud) + 2) / 5) * 5 : 0;
    const lowest = Number.isFinite(middle) ? Math.floor((middle - 12) / 5) * 5 : highest - 30;
    const ticks = { color: colour('--muted'), font: { size: 11 }, maxTicksLimit: 9 };
    const grid = { color: colour('--hair') };
    chart?.destroy();
    chart = new Chart(canvas, {
      type: 'line',
      data: { datasets },
      options: {
        animation: false,
        maintainAspectRatio: false,
        parsing: false,
        interaction: { mode: 'nearest', axis: 'x', intersect: false },
        scales: {
          x: {
            type: 'linear',
            min: 0,
            max: Math.max(...curves.map(({ seconds }) => seconds)),
            grid,
            ticks: { ...ticks, callback: (value) => timeText(Number(value), 1).slice(0, -4) }
          },
          y: {
            min: lowest,
            max: highest,
            grid,
            ticks: { ...ticks, maxTicksLimit: 5, callback: (value) => `${value}`.replace('-', '−') }
          }
        },
        plugins: {
          tooltip: {
            displayColors: false,
            callbacks: {
              title: (items) => timeText(items[0].parsed.x ?? 0, 1).slice(0, -2),
              label: ({ dataset, parsed }) => `${dataset.label}: ${(parsed.y ?? 0).toFixed(1).replace('-', '−')} LUFS`
            }
          }
        }
      }
    });
  };
  $effect(() => {
    void curves;
    void draw();
  });
  onMount(() => {
    // Day and night have colours of their own.
    const watch = new MutationObserver(() => void draw());
    watch.observe(document.documentElement, { attributeFilter: ['class'] });
    return () => {
      watch.disconnect();
      chart?.destroy();
    };
  });
</script>

<div class="chart" role="img" aria-label="Short-term loudness, LUFS, of {curves.map(({ name }) => name).join(' and ')}">
  <canvas bind:this={canvas}></canvas>
</div>

<style>
  .chart {
    position: relative;
    height: 130px;
  }
</style>

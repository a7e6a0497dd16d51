<!-- The equaliser: its response, drawn from the same filters as the audio, points to drag, and every number to type. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Select } from 'flowbite-svelte';
  import { bandOf, EQ_BANDS, EQ_SLOPES, EQ_TYPES, eqResponse } from '$core/processors/eq/params';
  import { specsOf, valuesOf } from '$core/processors/index';
  import type { Insert } from '$core/session/entities';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { parseDb } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';

  let { insert, rate }: { insert: Insert; rate: number } = $props();
  const { store } = useDesk();
  const WIDTH = 244;
  const HEIGHT = 112;
  const SPAN = 18;
  const LOW = 20;
  const HIGH = 20000;
  let picked = $state(2);

  const values = $derived(valuesOf('eq', insert.params));
  const bands = $derived(Array.from({ length: EQ_BANDS }, (_, i) => bandOf(values, i)));
  const band = $derived(bands[picked]);
  const x = (freq: number) => (Math.log(freq / LOW) / Math.log(HIGH / LOW)) * WIDTH;
  const freqAt = (place: number) => LOW * (HIGH / LOW) ** Math.max(0, Math.min(1, place / WIDTH));
  const y = (db: number) => HEIGHT / 2 - (Math.max(-SPAN, Math.min(SPAN, db)) / SPAN) * (HEIGHT / 2);
  const curve = $derived(
    Array.from({ length: 123 }, (_, i) => {
      const place = i * 2;
      return `${i ? 'L' : 'M'}${place} ${y(eqResponse(values, freqAt(place), rate)).toFixed(1)}`;
    }).join('')
  );
  const gains = (type: number) => type === 1 || type === 2 || type === 4;

  const set = (fields: Record<string, number>, gesture: string | null = null) =>
    store.act(
      [
        {
          do: 'inserts.set',
          id: insert.id,
          values: Object.fromEntries(Object.entries(fields).map(([name, value]) => [`b${picked + 1}.${name}`, value]))
        }
      ],
      gesture
    );

  const drag = (event: PointerEvent, index: number) => {
    event.preventDefault();
    picked = index;
    const point = event.currentTarget as SVGElement;
    const box = point.ownerSVGElement!.getBoundingClientRect();
    const gesture = uuid();
    point.setPointerCapture(event.pointerId);
    const move = (at: PointerEvent) => {
      const freq = Math.round(freqAt(((at.clientX - box.left) / box.width) * WIDTH) * 10) / 10;
      const gain = Math.round((0.5 - (at.clientY - box.top) / box.height) * 2 * SPAN * 10) / 10;
      set({ freq, on: 1, ...(gains(bands[index].type) ? { gain } : {}) }, gesture);
    };
    const done = () => {
      point.removeEventListener('pointermove', move);
      point.removeEventListener('pointerup', done);
    };
    point.addEventListener('pointermove', move);
    point.addEventListener('pointerup', done);
  };

  const hz = (freq: number) => (freq >= 1000 ? `${(freq / 1000).toFixed(freq >= 10000 ? 1 : 2)}k` : freq.toFixed(freq < 100 ? 1 : 0));
  const parseHz = (text: string) => {
    const match = /^(\d+\.?\d*)\s*(k?)(hz)?$/i.exec(text.trim().replace(',', '.'));
    return match ? Number(match[1]) * (match[2] ? 1000 : 1) : null;
  };
  const defaultOf = (name: string) => specsOf('eq').get(`b${picked + 1}.${name}`)!.default;
</script>

<div class="editor" data-moves="insertValues" data-of={insert.channelId}>
  <svg viewBox="0 0 {WIDTH} {HEIGHT}" role="group" aria-label="Response">
    {#each [50, 100, 200, 500, 1000, 2000, 5000, 10000] as freq (freq)}<line
        x1={x(freq)}
        x2={x(freq)}
        y1="0"
        y2={HEIGHT}
        class:strong={[100, 1000, 10000].includes(freq)}
      />{/each}
    {#each [-12, -6, 0, 6, 12] as db (db)}<line x1="0" x2={WIDTH} y1={y(db)} y2={y(db)} class:strong={db === 0} />{/each}
    <path d="{curve}L{WIDTH} {HEIGHT / 2}L0 {HEIGHT / 2}Z" class="area" />
    <path d={curve} class="curve" />
    {#each bands as each, i (i)}
      <circle
        cx={x(Math.min(HIGH, Math.max(LOW, each.freq)))}
        cy={y(gains(each.type) && each.on ? each.gain : 0)}
        r={i === picked ? 5.5 : 4.5}
        class:off={!each.on}
        class:picked={i === picked}
        role="button"
        tabindex="0"
        aria-label="Band {i + 1}: {EQ_TYPES[each.type]} at {hz(each.freq)} hertz{each.on ? '' : ', off'}"
        onpointerdown={(event) => drag(event, i)}
        onfocus={() => (picked = i)}
      />
    {/each}
  </svg>
  <div class="band">
    <button class="on" aria-pressed={band.on} onclick={() => set({ on: band.on ? 0 : 1 })}>{picked + 1} {band.on ? 'on' : 'off'}</button>
    <Select
      class="min-w-0 flex-1"
      classes={{ select: 'px-1 text-[12px]' }}
      placeholder=""
      aria-label="Type of band {picked + 1}"
      value={band.type}
      onchange={(event) => set({ type: Number(event.currentTarget.value) })}
    >
      {#each EQ_TYPES as name, i (name)}<option value={i}>{name}</option>{/each}
    </Select>
    {#if band.type === 0 || band.type === 5}
      <Select
        class="min-w-0 flex-1"
        classes={{ select: 'px-1 text-[12px]' }}
        placeholder=""
        aria-label="Slope of band {picked + 1}"
        value={band.slope}
        onchange={(event) => set({ slope: Number(event.currentTarget.value) })}
      >
        {#each EQ_SLOPES as slope, i (slope)}<option value={i}>{slope} dB</option>{/each}
      </Select>
    {/if}
  </div>
  <div class="numbers">
    <span
      ><i>Hz</i><NumberField
        value={band.freq}
        text={hz(band.freq)}
        label="Frequency of band {picked + 1}"
        parse={parseHz}
        width={54}
        onset={(freq) => set({ freq })}
        onnudge={(by, fine) => set({ freq: Math.round(band.freq * (fine ? 1.005 : 1.03) ** by * 10) / 10 })}
        ondefault={() => set({ freq: defaultOf('freq') })}
      /></span
    >
    {#if gains(band.type)}<span
        ><i>dB</i><NumberField
          value={band.gain}
          text={band.gain.toFixed(1).replace('-', '−')}
          label="Gain of band {picked + 1}"
          parse={parseDb}
          width={46}
          onset={(gain) => set({ gain, on: 1 })}
          onnudge={(by, fine) => set({ gain: band.gain + by * (fine ? 0.1 : 0.5), on: 1 })}
          ondefault={() => set({ gain: 0 })}
        /></span
      >{/if}
    <span
      ><i>Q</i><NumberField
        value={band.q}
        text={band.q.toFixed(2)}
        label="Q of band {picked + 1}"
        parse={parseHz}
        width={46}
        onset={(q) => set({ q })}
        onnudge={(by, fine) => set({ q: Math.round(band.q * (fine ? 1.02 : 1.1) ** by * 1000) / 1000 })}
        ondefault={() => set({ q: defaultOf('q') })}
      /></span
    >
  </div>
</div>

<style>
  svg {
    width: 100%;
    border-radius: 5px;
    background: var(--sheet);
    touch-action: none;
  }
  line {
    stroke: var(--hair);
  }
  line.strong {
    stroke: var(--line);
  }
  .curve {
    fill: none;
    stroke: var(--kelp);
    stroke-width: 1.8;
  }
  .area {
    fill: var(--kelp);
    opacity: 0.09;
  }
  circle {
    fill: var(--sheet);
    stroke: var(--kelp);
    stroke-width: 2;
    cursor: grab;
  }
  circle.picked {
    fill: var(--kelp);
  }
  circle.off {
    stroke: var(--muted);
    opacity: 0.65;
  }
  circle.off.picked {
    fill: var(--muted);
  }
  .band {
    display: flex;
    gap: 6px;
    margin: 6px 0 4px;
  }
  .on {
    width: 46px;
    border: 1px solid var(--line);
    border-radius: 5px;
    font-size: 12px;
  }
  .on[aria-pressed='true'] {
    border-color: var(--kelp);
    color: var(--kelp);
    font-weight: 600;
  }
  .numbers {
    display: flex;
    justify-content: space-between;
  }
  .numbers span {
    display: flex;
    align-items: center;
  }
  i {
    color: var(--muted);
    font-size: 11px;
    font-style: normal;
  }
</style>

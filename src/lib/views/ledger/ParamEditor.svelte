<!-- Any processor's parameters as rows with a slider and a number that can be typed; a compressor's curve and key above. -->
<script lang="ts">
  import { Range, Select } from 'flowbite-svelte';
  import { processors, specsOf, valuesOf } from '$core/processors/index';
  import { widthBehind } from '$core/routing/width';
  import { isLogarithmic, type ParamSpec } from '$core/processors/spec';
  import type { Insert } from '$core/session/entities';
  import { gripValue, moveOn, type Gesture } from '$lib/state/gestures';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { useDesk } from '$lib/state/desk';
  import CompCurve from './CompCurve.svelte';
  import KeyInput from './KeyInput.svelte';
  import Reduction from './Reduction.svelte';

  let { insert }: { insert: Insert } = $props();
  const { store } = useDesk();
  const values = $derived(valuesOf(insert.type, insert.params));
  const wide = $derived.by(() => {
    const row = store.inserts(insert.channelId);
    const upTo = row.slice(0, row.findIndex(({ id }) => id === insert.id) + 1);
    return widthBehind(store.channel(insert.channelId)?.width ?? 1, upTo) === 2;
  });
  /** Parameters that mean something here: a delay's taps as far as they are in use, one polarity where there is one side. */
  const specs = $derived(
    [...specsOf(insert.type).values()].filter(({ twoSides, when }) => (wide || !twoSides) && (when?.(values) ?? true))
  );
  /** The hand on a slider: from where its first touch found everything. */
  let hold: { readonly param: string; readonly gesture: Gesture } | null = null;
  const slide = (param: string, to: number) => {
    hold = hold?.param === param ? hold : { param, gesture: gripValue(store.session, insert.id, param) };
    store.act([{ do: 'inserts.nudge', param, ...moveOn(hold.gesture, to) }], hold.gesture.name);
  };

  const set = (id: string, value: number, mine: string | null = null) =>
    store.act([{ do: 'inserts.set', id: insert.id, values: { [id]: value } }], mine);
  const toSlider = (spec: ParamSpec, value: number) =>
    isLogarithmic(spec) ? Math.log(value / spec.min) / Math.log(spec.max / spec.min) : (value - spec.min) / (spec.max - spec.min);
  const decimals = ({ unit, max }: ParamSpec, value: number) =>
    unit === 's' ? 2 : unit === 'dB' || unit === ':1' ? 1 : unit === 'ms' && max > 1 && Math.abs(value) < 20 ? 2 : 0;
  const fromSlider = (spec: ParamSpec, place: number) => {
    const value = isLogarithmic(spec) ? spec.min * (spec.max / spec.min) ** place : spec.min + place * (spec.max - spec.min);
    const scale = 10 ** decimals(spec, value);
    return Math.round(value * scale) / scale;
  };
  const text = (spec: ParamSpec, value: number) => {
    if (spec.unit === ':1' && value >= spec.max) return '∞ :1';
    if (spec.silent && value <= spec.min) return `−∞ ${spec.unit}`;
    const number = value.toFixed(decimals(spec, value)).replace('-', '−');
    return spec.unit === '' ? number : `${number} ${spec.unit}`;
  };
  const parse = (typed: string) => {
    if (/^[-−]?(inf|∞)/.test(typed.trim())) return /^[-−]/.test(typed.trim()) ? -Infinity : Infinity;
    const match = /^[+-]?\d+\.?\d*/.exec(typed.trim().replace(',', '.').replace('−', '-'));
    return match ? Number(match[0]) : null;
  };
  const put = (spec: ParamSpec, value: number) => set(spec.id, Math.min(spec.max, Math.max(spec.min, value)));
</script>

<div class="editor" data-moves="insertValues" data-of={insert.channelId}>
  {#if insert.type === 'comp'}<CompCurve {values} />{/if}
  {#if processors[insert.type].reduces}<Reduction id={insert.id} />{/if}
  {#if processors[insert.type].keyed}<KeyInput {insert} />{/if}
  {#each specs as spec, i (spec.id)}
    {#if spec.group && spec.group !== specs[i - 1]?.group}<div class="group caps">{spec.group}</div>{/if}
    <div class="param">
      <span>{spec.label}</span>
      {#if spec.choices}
        <Select
          class="col-span-2"
          classes={{ select: 'px-1 text-[12px]' }}
          placeholder=""
          aria-label="{spec.group ?? ''} {spec.label}"
          value={values[spec.id]}
          onchange={(event) => set(spec.id, Number(event.currentTarget.value))}
        >
          {#each spec.choices as choice, n (choice)}<option value={n}>{choice}</option>{/each}
        </Select>
      {:else}
        <Range
          class="w-full"
          aria-label="{spec.group ?? ''} {spec.label}"
          min="0"
          max="1"
          step="0.005"
          value={toSlider(spec, values[spec.id])}
          onpointerdown={() => (hold = null)}
          oninput={(event) => slide(spec.id, fromSlider(spec, Number(event.currentTarget.value)))}
        />
        <NumberField
          value={values[spec.id]}
          text={text(spec, values[spec.id])}
          label="{spec.group ?? ''} {spec.label}"
          {parse}
          width={84}
          onset={(value) => put(spec, value)}
          onnudge={(by, fine) => put(spec, fromSlider(spec, toSlider(spec, values[spec.id]) + by * (fine ? 0.004 : 0.02)))}
          ondefault={() => set(spec.id, spec.default)}
        />
      {/if}
      {#if spec.note?.(values)}<span class="note">{spec.note(values)}</span>{/if}
    </div>
  {/each}
</div>

<style>
  .param {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr) auto;
    align-items: center;
    min-height: 25px;
    font-size: 12px;
  }
  .note {
    grid-column: 2 / span 2;
    padding-bottom: 3px;
    color: var(--muted);
    font-size: 11px;
  }
  .group {
    margin-top: 6px;
    color: var(--muted);
    font-size: 10.5px;
  }
</style>

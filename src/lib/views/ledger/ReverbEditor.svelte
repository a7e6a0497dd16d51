<!-- The reverb: its parameters as rows with a slider and a number that can be typed. -->
<script lang="ts">
  import { specsOf, valuesOf, type ParamSpec } from '$core/dsp/params';
  import type { Insert } from '$core/session/entities';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { useDesk } from '$lib/state/desk';

  let { insert }: { insert: Insert } = $props();
  const { store } = useDesk();
  const values = $derived(valuesOf('reverb', insert.params));
  const specs = [...specsOf('reverb').values()];
  let gesture = crypto.randomUUID();

  const set = (id: string, value: number, mine: string | null = null) =>
    store.act([{ do: 'inserts.set', id: insert.id, values: { [id]: value } }], mine);
  const logarithmic = ({ unit }: ParamSpec) => unit === 'Hz' || unit === 's';
  const toSlider = (spec: ParamSpec, value: number) =>
    logarithmic(spec) ? Math.log(value / spec.min) / Math.log(spec.max / spec.min) : (value - spec.min) / (spec.max - spec.min);
  const fromSlider = (spec: ParamSpec, place: number) => {
    const value = logarithmic(spec) ? spec.min * (spec.max / spec.min) ** place : spec.min + place * (spec.max - spec.min);
    return spec.unit === 's' ? Math.round(value * 100) / 100 : Math.round(value);
  };
  const text = ({ unit }: ParamSpec, value: number) =>
    `${unit === 's' ? value.toFixed(2) : Math.round(value)}${unit === '%' ? ' %' : ` ${unit}`}`;
  const parse = (typed: string) => {
    const match = /^\d+\.?\d*/.exec(typed.trim().replace(',', '.'));
    return match ? Number(match[0]) : null;
  };
</script>

<div class="editor">
  {#each specs as spec (spec.id)}
    <div class="param">
      <span>{spec.label}</span>
      {#if spec.choices}
        <select
          class="field"
          aria-label={spec.label}
          value={values[spec.id]}
          onchange={(event) => set(spec.id, Number(event.currentTarget.value))}
        >
          {#each spec.choices as choice, i (choice)}<option value={i}>{choice}</option>{/each}
        </select>
      {:else}
        <input
          type="range"
          aria-label={spec.label}
          min="0"
          max="1"
          step="0.005"
          value={toSlider(spec, values[spec.id])}
          onpointerdown={() => (gesture = crypto.randomUUID())}
          oninput={(event) => set(spec.id, fromSlider(spec, Number(event.currentTarget.value)), gesture)}
        />
        <NumberField
          value={values[spec.id]}
          text={text(spec, values[spec.id])}
          label={spec.label}
          {parse}
          width={72}
          onset={(value) => set(spec.id, value)}
          onnudge={(by, fine) => set(spec.id, fromSlider(spec, toSlider(spec, values[spec.id]) + by * (fine ? 0.004 : 0.02)))}
          onbirth={() => set(spec.id, spec.birth)}
        />
      {/if}
    </div>
  {/each}
</div>

<style>
  .param {
    display: grid;
    grid-template-columns: 68px minmax(0, 1fr) auto;
    align-items: center;
    min-height: 25px;
    font-size: 12px;
  }
  input[type='range'] {
    width: 100%;
    accent-color: var(--kelp);
  }
  .field {
    grid-column: span 2;
    padding: 0 4px;
    font-size: 12px;
  }
</style>

<!-- A throw over the selected range: a send of the selected rows up to a level and back. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Select } from 'flowbite-svelte';
  import { idsBy } from '$core/session/lookup';
  import { sendId } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import { dbText, parseDb } from '$lib/ui/format';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { clampDb } from '$core/units';
  import type { TimeRange } from './edits.svelte';

  let { range }: { range: TimeRange } = $props();
  const { store, selection } = useDesk();
  let level = $state(-3);
  let rise = $state(10);
  let fall = $state(250);
  let chosen = $state('');
  const targets = $derived(
    store.columns
      .filter(({ id, kind }) => kind === 'return' && [...selection.ids].some((source) => store.send(source, id) !== undefined))
      .map(({ id, name }) => ({ id, name }))
  );
  const target = $derived(targets.find(({ id }) => id === chosen) ?? targets[0]);
  const sources = $derived(
    target ? [...selection.ids].filter((id) => idsBy(store.session, 'send', 'targetId', target.id).includes(sendId(id, target.id))) : []
  );
  const frames = (ms: number) => Math.round((ms * store.settings.rate) / 1000);
  const parseMs = (typed: string) => {
    const value = Number(
      typed
        .trim()
        .replace(',', '.')
        .replace(/\s*ms$/, '')
    );
    return typed.trim() !== '' && value >= 0 && value <= 60_000 ? value : null;
  };
  const go = () =>
    store.act([
      {
        do: 'lanes.throw',
        ...{ ids: sources, target: target.id, from: range.from, to: range.to, level },
        ...{ rise: frames(rise), fall: frames(fall), as: uuid().slice(0, 13) }
      }
    ]);
</script>

{#if target}
  <div class="throw">
    <span>Throw to</span>
    <Select placeholder="" aria-label="Throw to" value={target.id} onchange={(event) => (chosen = event.currentTarget.value)}>
      {#each targets as { id, name } (id)}<option value={id}>{name}</option>{/each}
    </Select>
    <span>at</span>
    <NumberField
      value={level}
      text="{dbText(level)} dB"
      label="Level of the throw"
      width={64}
      parse={parseDb}
      onset={(to) => (level = clampDb(to))}
      onnudge={(by, fine) => (level = clampDb(level + by * (fine ? 0.1 : 1)))}
      ondefault={() => (level = -3)}
    />
    <span>rise</span>
    <NumberField
      value={rise}
      text="{rise} ms"
      label="Rise of the throw in ms"
      width={64}
      parse={parseMs}
      hint="0 to 60000 ms"
      onset={(to) => (rise = to)}
      onnudge={(by, fine) => (rise = Math.max(0, rise + by * (fine ? 1 : 10)))}
      ondefault={() => (rise = 10)}
    />
    <span>fall</span>
    <NumberField
      value={fall}
      text="{fall} ms"
      label="Fall of the throw in ms"
      width={64}
      parse={parseMs}
      hint="0 to 60000 ms"
      onset={(to) => (fall = to)}
      onnudge={(by, fine) => (fall = Math.max(0, fall + by * (fine ? 1 : 10)))}
      ondefault={() => (fall = 250)}
    />
    <Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={go}>Throw</Button>
  </div>
{/if}

<style>
  .throw {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 5px 6px;
    margin: 10px 0;
    color: var(--muted);
    font-size: 12.5px;
  }
</style>

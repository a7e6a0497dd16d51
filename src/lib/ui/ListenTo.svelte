<!-- The simulated interface: what is listened to here, dim, mono, swap; and the meters of its outputs. Prints do not go by it. -->
<script lang="ts">
  import { Input, Select } from 'flowbite-svelte';
  import { inOrder } from '$core/session/select';
  import { useDesk } from '$lib/state/desk';
  import { railCanvas } from './meters';
  import NumberField from './NumberField.svelte';

  const { store, transport, selection } = useDesk();
  let open = $state(false);
  const { settings } = $derived(store);
  const pairs = $derived(
    Array.from({ length: settings.interfaceOutputs / 2 }, (_, pair) => ({
      pair,
      fed: store.channels.filter(({ outputPair }) => outputPair === pair).map(({ name }) => name)
    }))
  );
  const cues = $derived(store.channels.filter(({ kind }) => kind === 'cue'));
  const heard = $derived(store.versions.find(({ id }) => id === transport.hearing.version));
  const value = $derived(
    heard ? `v ${heard.id}` : 'id' in transport.listening.to ? transport.listening.to.id : `#${transport.listening.to.pair}`
  );
  /** Buses and returns, and the row that is selected. */
  const others = $derived(
    inOrder(store.session).filter(
      ({ id, kind, resting }) =>
        store.tree &&
        !resting &&
        kind !== 'vca' &&
        (kind === 'bus' || kind === 'return' || id === 'mix' || id === selection.last || id === value)
    )
  );
  const away = $derived(value !== '#0' || transport.listening.dim || transport.listening.mono || transport.listening.swap);
  // What was listened to may go.
  $effect(() => {
    const { to } = transport.listening;
    if ('id' in to && store.tree && !store.session.channel.has(to.id)) transport.listen({ to: { pair: 0 } });
  });
  const choose = (chosen: string) => {
    if (chosen.startsWith('v ')) return transport.hear(chosen.slice(2));
    transport.hear(null);
    transport.listen({ to: chosen.startsWith('#') ? { pair: Number(chosen.slice(1)) } : { id: chosen } });
  };
  const LETTERS = [
    ['dim', 'Dim', '20 dB quieter'],
    ['mono', 'Mono', 'Left and right together'],
    ['swap', 'Swap', 'Left and right exchanged']
  ] as const;
  const outputs = (typed: string) => (/^\d+$/.test(typed.trim()) ? Number(typed) : null);
</script>

<div class="listen" class:away>
  <label
    >Listen to
    <Select class="min-w-0 flex-1" placeholder="" {value} onchange={(event) => choose(event.currentTarget.value)} aria-label="Listen to">
      <option value="#0">the mix</option>
      {#if store.versions.length}<optgroup label="Versions, in the mix’s place"
          >{#each store.versions as { id, name } (id)}<option value="v {id}">{name}</option>{/each}</optgroup
        >{/if}
      {#if cues.length}<optgroup label="Cues"
          >{#each cues as { id, name } (id)}<option value={id}>{name}</option>{/each}</optgroup
        >{/if}
      <optgroup label="Channels, after their faders">
        {#each others as { id, name } (id)}<option value={id}>{name}</option>{/each}
      </optgroup>
      <optgroup label={settings.interfaceName}>
        {#each pairs.slice(1).filter(({ fed }) => fed.length) as { pair, fed } (pair)}
          <option value="#{pair}">outputs {pair * 2 + 1}–{pair * 2 + 2}: {fed.join(', ')}</option>
        {/each}
      </optgroup>
    </Select></label
  >
  <div class="letters">
    {#each LETTERS as [what, word, why] (what)}
      <button
        aria-pressed={transport.listening[what]}
        data-hint={why}
        onclick={() => transport.listen({ [what]: !transport.listening[what] })}>{word}</button
      >
    {/each}
    <button
      aria-expanded={open}
      aria-haspopup="dialog"
      data-hint="{settings.interfaceName}: its outputs and their meters"
      onclick={() => (open = !open)}>Outputs</button
    >
  </div>
</div>
{#if open}
  <div class="outputs" role="dialog" aria-label="Interface">
    <header>
      <Input
        aria-label="Name of the interface"
        value={settings.interfaceName}
        onchange={(event) => store.act([{ do: 'settings.set', interfaceName: event.currentTarget.value }])}
      />
      <NumberField
        value={settings.interfaceOutputs}
        text="{settings.interfaceOutputs} outputs"
        label="Number of outputs"
        width={84}
        parse={outputs}
        onset={(count) => store.act([{ do: 'settings.set', interfaceOutputs: count }])}
        onnudge={(by) => store.act([{ do: 'settings.set', interfaceOutputs: settings.interfaceOutputs + by * 2 }])}
        ondefault={() => store.act([{ do: 'settings.set', interfaceOutputs: 8 }])}
      />
      <button class="close" aria-label="Close" onclick={() => (open = false)}>×</button>
    </header>
    {#each pairs as { pair, fed } (pair)}
      <div class="pair">
        <span class="num">{pair * 2 + 1}–{pair * 2 + 2}</span>
        <canvas use:railCanvas={{ id: `#${pair}`, colour: 'var(--kelp)' }} style:color="var(--kelp)" aria-hidden="true"></canvas>
        <span class="fed">{fed.join(', ') || 'nothing'}</span>
      </div>
    {/each}
    <p>A simulated interface. Only what is listened to here reaches this computer’s loudspeakers.</p>
  </div>
{/if}

<style>
  .listen {
    display: grid;
    gap: 3px;
    width: 214px;
  }
  label {
    display: flex;
    align-items: center;
    gap: 6px;
    color: var(--muted);
    font-size: 12px;
    white-space: nowrap;
  }
  .listen :global(select) {
    flex: 1;
    height: 24px;
    padding: 0 4px;
    font-size: 12px;
  }
  .away :global(select) {
    border-color: var(--ochre);
  }
  .letters {
    display: flex;
    gap: 4px;
  }
  .letters button {
    flex: 1;
    height: 22px;
    border: 1px solid var(--line);
    border-radius: 5px;
    color: var(--muted);
    font-size: 11.5px;
  }
  .letters button[aria-pressed='true'] {
    border-color: var(--ochre);
    background: var(--ochre);
    color: var(--paper);
  }
  .outputs {
    position: absolute;
    right: 12px;
    bottom: 74px;
    z-index: 30;
    width: 330px;
    padding: 12px;
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--sheet);
    box-shadow: 0 10px 34px rgb(0 0 0 / 0.2);
  }
  header {
    display: flex;
    align-items: center;
    gap: 8px;
    margin-bottom: 8px;
  }
  header :global(input) {
    flex: 1;
  }
  .close {
    width: 22px;
    font-size: 16px;
  }
  .pair {
    display: grid;
    grid-template-columns: 40px 120px minmax(0, 1fr);
    align-items: center;
    gap: 8px;
    height: 26px;
  }
  canvas {
    width: 120px;
    height: 8px;
  }
  .fed {
    overflow: hidden;
    color: var(--muted);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  p {
    margin: 8px 0 0;
    color: var(--muted);
    font-size: 12px;
  }
</style>

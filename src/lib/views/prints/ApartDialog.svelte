<!-- Channels that a version sets apart: each by so many dB, or muted or not; what needs a pass of its own. -->
<script lang="ts">
  import { Button, Modal, Select } from 'flowbite-svelte';
  import { chainOf } from '$core/routing/chain';
  import { sounds } from '$core/session/vcas';
  import type { SetApart, Version, Written } from '$core/session/entities';
  import { inOrder } from '$core/session/select';
  import { useDesk } from '$lib/state/desk';
  import { dbText, parseDb } from '$lib/ui/format';
  import NumberField from '$lib/ui/NumberField.svelte';

  let { version, onclose }: { version: Version; onclose: () => void } = $props();
  const { store } = useDesk();
  const own = $derived(store.versions.find(({ id }) => id === version.id)?.channels ?? []);
  const others = $derived.by(() => {
    void store.tree;
    const chain = chainOf(store.session);
    const taken = new Set(own.map(({ id }) => id));
    return inOrder(store.session).filter(
      (channel) =>
        sounds(channel) &&
        channel.kind !== 'cue' &&
        channel.kind !== 'key' &&
        !channel.resting &&
        !chain.has(channel.id) &&
        !taken.has(channel.id)
    );
  });
  const set = (channels: readonly SetApart[]) => store.act([{ do: 'versions.set', id: version.id, channels }]);
  const change = (id: string, fields: Partial<SetApart>) => set(own.map((each) => (each.id === id ? { ...each, ...fields } : each)));
  const levelOf = ({ by = 0 }: SetApart): number => (by === '-inf' ? -Infinity : by);
  const written = (level: number): Written => (level < -120 ? '-inf' : Math.min(12, level));
  const MUTES = [
    ['', 'muted as in the mix'],
    ['true', 'muted'],
    ['false', 'not muted']
  ] as const;
  const setMute = ({ id, by }: SetApart, value: string) =>
    set(
      own.map((each) =>
        each.id === id ? { id, ...(by === undefined ? {} : { by }), ...(value === '' ? {} : { mute: value === 'true' }) } : each
      )
    );
</script>

<Modal open {onclose} size="sm" title="Set apart in {version.name}">
  <p class="muted">Other than in the mix, by dB on what the fader and its VCAs make. The version is rendered by itself then.</p>
  {#each own as each (each.id)}
    {@const name = store.channel(each.id)?.name ?? 'gone'}
    <div class="line">
      <strong>{name}</strong>
      <NumberField
        value={levelOf(each)}
        text="{dbText(levelOf(each))} dB"
        label="{name}, dB other than in the mix"
        width={76}
        parse={parseDb}
        onset={(level) => change(each.id, { by: written(level) })}
        onnudge={(by, fine) => change(each.id, { by: written(levelOf(each) + by * (fine ? 0.1 : 0.5)) })}
        ondefault={() => change(each.id, { by: 0 })}
      />
      <Select
        placeholder=""
        aria-label="Mute of {name}"
        value={each.mute === undefined ? '' : String(each.mute)}
        onchange={(event) => setMute(each, event.currentTarget.value)}
      >
        {#each MUTES as [value, word] (value)}<option {value}>{word}</option>{/each}
      </Select>
      <button
        class="gone"
        aria-label="As in the mix: {name}"
        data-hint="As in the mix"
        onclick={() => set(own.filter(({ id }) => id !== each.id))}>×</button
      >
    </div>
  {:else}<p>Nothing yet.</p>{/each}
  <Select
    placeholder=""
    aria-label="Set a channel apart"
    onchange={(event) => {
      const id = event.currentTarget.value;
      event.currentTarget.value = '';
      if (id) set([...own, { id, mute: true }]);
    }}
  >
    <option value="">+ channel…</option>
    {#each others as { id, name, kind } (id)}<option value={id}>{name}{kind === 'track' ? '' : ` · ${kind}`}</option>{/each}
  </Select>
  <div class="end"><Button size="sm" onclick={onclose}>Done</Button></div>
</Modal>

<style>
  .muted {
    color: var(--muted);
  }
  .line {
    display: grid;
    grid-template-columns: 1fr auto auto 20px;
    gap: 8px;
    align-items: center;
  }
  .gone {
    color: var(--muted);
  }
  .end {
    display: flex;
    justify-content: flex-end;
  }
</style>

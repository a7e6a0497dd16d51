<!-- A VCA in the side sheet: what it holds, what holds it, and what its level comes to. -->
<script lang="ts">
  import { dbText } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import { heldBy, holdersOf, withHeld } from '$core/session/vcas';
  import type { Channel } from '$core/session/entities';
  import { inOrder } from '$core/session/select';
  import MemberRow from './MemberRow.svelte';

  let { vca }: { vca: Channel } = $props();
  const { store, now } = useDesk();
  /** With the VCAs above, and as lanes play them. */
  const levelOf = (id: string) => now.level(id) ?? store.level(id);
  const [own, whole] = $derived([now.fader(vca.id) ?? vca.faderDb, levelOf(vca.id)]);
  const named = (ids: readonly string[]) => {
    const wanted = new Set(ids);
    return inOrder(store.session).filter(({ id }) => wanted.has(id));
  };
  const groups = $derived.by(() => {
    store.watchGroups();
    const direct = heldBy(store.session, vca.id);
    return { held: named(direct), above: named(holdersOf(store.session, vca.id)), all: withHeld(store.session, [vca.id]).size - 1 };
  });
  const remove = (of: string, id: string) => store.act([{ do: 'vcas.members', id: of, remove: [id] }]);
</script>

<p class="hint">
  Its fader offsets those of what it holds, sends behind them too; no audio goes through it.
  {#if Math.abs(whole - own) > 1e-6}With those above it: {dbText(whole)} dB.{/if}
</p>
<h3 class="caps">Holds{groups.all > groups.held.length ? ` · ${groups.all} in all` : ''}</h3>
<ul>
  {#each groups.held as channel (channel.id)}
    <MemberRow {channel} group={vca.name} level={levelOf(channel.id)} onout={() => remove(vca.id, channel.id)} />
  {:else}
    <li class="hint">Nothing yet. Select channels and put them into it, or tick them in Links.</li>
  {/each}
</ul>
{#if groups.above.length}
  <h3 class="caps">In</h3>
  <ul>
    {#each groups.above as channel (channel.id)}
      <MemberRow {channel} group={vca.name} level={store.channel(channel.id)?.faderDb ?? 0} onout={() => remove(channel.id, vca.id)} />
    {/each}
  </ul>
{/if}

<style>
  .hint {
    color: var(--muted);
    font-size: 12px;
  }
  h3 {
    margin: 14px 0 6px;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
</style>

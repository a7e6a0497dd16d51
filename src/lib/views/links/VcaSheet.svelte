<!-- A VCA in the side sheet: what it holds, what holds it, and what its level comes to. -->
<script lang="ts">
  import { dbText } from '$lib/ui/format';
  import { family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';
  import { heldBy, holdersOf, withHeld } from '$core/session/vcas';
  import type { Channel } from '$core/session/entities';
  import { inOrder } from '$core/session/select';

  let { vca }: { vca: Channel } = $props();
  const { store, selection } = useDesk();
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
  {#if store.level(vca.id) !== vca.faderDb}With those above it: {dbText(store.level(vca.id))} dB.{/if}
</p>
<h3 class="caps">Holds{groups.all > groups.held.length ? ` · ${groups.all} in all` : ''}</h3>
<ul>
  {#each groups.held as { id, name, colour } (id)}
    <li>
      <i style:background={family(colour)}></i>
      <button class="grow" onclick={() => selection.set([id], id)}>{name}</button>
      <span class="num">{dbText(store.level(id))}</span>
      <button class="out" title="Take {name} out" aria-label="Take {name} out of {vca.name}" onclick={() => remove(vca.id, id)}>×</button>
    </li>
  {:else}
    <li class="hint">Nothing yet. Select channels and put them into it, or tick them in Links.</li>
  {/each}
</ul>
{#if groups.above.length}
  <h3 class="caps">In</h3>
  <ul>
    {#each groups.above as { id, name } (id)}
      <li>
        <button class="grow" onclick={() => selection.set([id], id)}>VCA {name}</button>
        <span class="num">{dbText(store.channel(id)?.faderDb ?? 0)}</span>
        <button class="out" title="Take it out" aria-label="Take {vca.name} out of {name}" onclick={() => remove(id, vca.id)}>×</button>
      </li>
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
  li {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 26px;
  }
  i {
    width: 8px;
    height: 8px;
    border-radius: 50%;
  }
  .grow {
    flex: 1;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .num {
    color: var(--muted);
    font-size: 12.5px;
  }
  .out {
    width: 18px;
    color: var(--muted);
  }
</style>

<!-- What a session of these stems usually delivers, before any of it is made: ticked is what it can give and does not have yet. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Checkbox, Modal } from 'flowbite-svelte';
  import { usualVersions, type Usual } from '$core/prints/usual';
  import { useDesk } from '$lib/state/desk';
  import { freeName, making } from './cells';

  let { onclose }: { onclose: () => void } = $props();
  const { store } = useDesk();
  const usual = $derived.by(() => {
    void [store.soundness, store.versions];
    store.watchRows();
    return usualVersions(store.session);
  });
  /** The mix is printed as it is besides. */
  const MIX = 'Mix';
  let turned = $state.raw<ReadonlySet<string>>(new Set());
  const offered = ({ fits, there }: Usual) => fits && there === null;
  const ticked = (each: Usual) => offered(each) && turned.has(each.name) === (each.name === MIX);
  const chosen = $derived(usual.filter(ticked));
  const turn = (name: string) => {
    const next = new Set(turned);
    if (!next.delete(name)) next.add(name);
    turned = next;
  };
  const make = () => {
    const wanted = chosen.map(({ name, parts }) => ({ name: freeName(store.session, name), parts }));
    store.act(making(store.session, wanted, null, () => uuid()));
    onclose();
  };
</script>

<Modal open {onclose} size="md" title="Usual versions">
  <ul>
    {#each usual as each (each.name)}
      <li class:off={!offered(each)}>
        <Checkbox checked={ticked(each)} disabled={!offered(each)} onchange={() => turn(each.name)}><strong>{each.name}</strong></Checkbox>
        <span>{each.there ? `There already: ${each.there.name}.` : each.why}</span>
      </li>
    {/each}
  </ul>
  <div class="end">
    <Button size="sm" color="alternative" onclick={onclose}>Leave it</Button>
    <Button size="sm" disabled={chosen.length === 0} onclick={make}
      >Make {chosen.length === 1 ? 'this version' : `these ${chosen.length || ''} versions`.replace('  ', ' ')}</Button
    >
  </div>
</Modal>

<style>
  ul {
    display: grid;
    gap: 8px;
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: 190px 1fr;
    gap: 8px;
    align-items: baseline;
  }
  .off,
  li span {
    color: var(--muted);
  }
  .end {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
</style>

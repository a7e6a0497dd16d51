<!-- How much of the session is shown, and the saved sets of what is shown: kept under a number, recalled, forgotten. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Checkbox, Input, Select } from 'flowbite-svelte';
  import type { RowFilter } from '$core/session/entities';
  import { EVERYTHING } from '$core/session/filter';
  import { inOrder } from '$core/session/select';
  import { useDesk } from '$lib/state/desk';
  import type { MenuEntry } from '$lib/ui/Menu.svelte';

  type Props = {
    /** Rows on screen, and all rows that could be. */
    shown: number;
    total: number;
    hidden: number;
    narrowed: boolean;
    sorted: boolean;
    filter: RowFilter;
    showHidden: boolean;
    onunsort: () => void;
    onmenu: (menu: { x: number; y: number; entries: MenuEntry[] }) => void;
  };
  let { shown, total, hidden, narrowed, sorted, filter = $bindable(), showHidden = $bindable(), onunsort, onmenu }: Props = $props();
  const { store } = useDesk();
  const NUMBERS = [1, 2, 3, 4, 5, 6, 7, 8, 9];
  let keeping = $state<{ number: string; name: string } | null>(null);

  const sets = $derived.by(() => {
    store.watchRows();
    return [...store.session.showing.values()].sort((a, b) => a.number - b.number);
  });
  const freeNumber = () => String(NUMBERS.find((n) => !sets.some(({ number }) => number === n)) ?? 9);
  const keep = () => {
    if (!keeping?.name.trim()) return;
    const what = narrowed
      ? { filter: { ...filter } }
      : { ids: inOrder(store.session).flatMap(({ id, hidden: gone }) => (gone ? [] : [id])) };
    store.act([{ do: 'showings.save', id: uuid(), number: Number(keeping.number), name: keeping.name.trim(), ...what }]);
    keeping = null;
  };
  const focused = (input: HTMLInputElement) => input.focus();
</script>

<div class="sets">
  <span class="muted">{shown} of {total} rows</span>
  {#if hidden}
    <Checkbox bind:checked={showHidden}>{hidden} hidden</Checkbox>
    <button class="quiet" onclick={() => store.act([{ do: 'showings.recall' }])}>show all</button>
  {/if}
  {#if narrowed}<button class="quiet" onclick={() => (filter = { ...EVERYTHING, kind: 'track' })}>clear the filter</button>{/if}
  {#if sorted}<button class="quiet" onclick={onunsort}>back to the session’s order</button>{/if}
  <span class="grow"></span>
  {#each sets as set (set.id)}
    <button
      class="set"
      data-hint="{set.filter ? 'Shows what its filter finds' : 'Shows these rows'}. Key {set.number}; right-click to forget."
      onclick={() => store.act([{ do: 'showings.recall', id: set.id }])}
      oncontextmenu={(event) => {
        event.preventDefault();
        const forget = () => void store.act([{ do: 'showings.remove', ids: [set.id] }]);
        onmenu({ x: event.clientX, y: event.clientY, entries: [{ label: `Forget “${set.name}”`, run: forget }] });
      }}><kbd>{set.number}</kbd>{set.name}</button
    >
  {/each}
  {#if keeping}
    <form
      onsubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <Select placeholder="" aria-label="Number of the set" bind:value={keeping.number}>
        {#each NUMBERS as n (n)}<option value={String(n)}>{n}</option>{/each}
      </Select>
      <Input aria-label="Name of the set" placeholder="Name" maxlength={120} bind:value={keeping.name} {@attach focused} />
      <Button color="alternative" type="submit">Keep</Button>
    </form>
  {/if}
  <button class="quiet" onclick={() => (keeping = keeping ? null : { number: freeNumber(), name: '' })}
    >{keeping ? 'cancel' : narrowed ? 'keep this filter as a set' : 'keep what is shown as a set'}</button
  >
</div>

<style>
  .sets {
    display: flex;
    align-items: center;
    gap: 12px;
    min-height: 32px;
    padding: 0 12px 5px;
    border-bottom: 1px solid var(--line);
    font-size: 12px;
  }
  form {
    display: flex;
    gap: 5px;
  }
  .grow {
    flex: 1;
  }
  .muted {
    color: var(--muted);
  }
  .quiet {
    color: var(--kelp);
  }
  .quiet:hover {
    text-decoration: underline;
  }
  .set {
    display: flex;
    align-items: center;
    gap: 5px;
  }
  kbd {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    background: var(--sheet);
    font: 11px var(--font-mono);
  }
</style>

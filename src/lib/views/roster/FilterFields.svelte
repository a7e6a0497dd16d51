<!-- What narrows the rows for looking: words and figures, kind, role, colour, destination. -->
<script lang="ts">
  import type { RowFilter } from '$core/session/entities';
  import { ROLES } from '$core/session/roles';
  import { useDesk } from '$lib/state/desk';
  import { COLOUR_NAMES } from '$lib/ui/colours';

  let { filter = $bindable() }: { filter: RowFilter } = $props();
  const { store } = useDesk();
  let search = $state<HTMLInputElement>();
  const buses = $derived(store.channels.filter(({ kind }) => kind !== 'track' && kind !== 'vca'));

  export const focus = () => search?.focus();
</script>

<input
  class="field search"
  bind:this={search}
  bind:value={filter.text}
  placeholder="Find: words, peak>-6, automated"
  aria-label="Find rows by words or figures"
  onkeydown={(event) => event.key === 'Escape' && ((filter = { ...filter, text: '' }), event.currentTarget.blur())}
/>
<select class="field" aria-label="Kind" bind:value={filter.kind}>
  <option value="">all kinds</option><option value="track">tracks</option><option value="bus">buses</option><option value="return"
    >returns</option
  >
</select>
<select class="field" aria-label="Role" bind:value={filter.role}>
  <option value="">any role</option><option value="none">no role</option>
  {#each ROLES as { id, word } (id)}<option value={id}>{word}</option>{/each}
</select>
<select class="field" aria-label="Family colour" bind:value={filter.family}>
  <option value="">any colour</option>{#each COLOUR_NAMES as name, i (name)}<option value={String(i)}>{name}</option>{/each}
</select>
<select class="field" aria-label="Destination" bind:value={filter.to}>
  <option value="">goes anywhere</option><option value="mix">MIX</option><option value="nowhere">nowhere</option>
  {#each buses as { id, name } (id)}<option value={id}>{name}</option>{/each}
</select>

<style>
  select {
    max-width: 120px;
  }
  .search {
    width: 200px;
  }
</style>

<!-- What narrows the rows for looking: words and figures, kind, role, colour, destination. -->
<script lang="ts">
  import { Input, Select } from 'flowbite-svelte';
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

<Input
  class="w-[200px]!"
  bind:elementRef={search}
  bind:value={filter.text}
  placeholder="Find: words, peak>-6, automated"
  aria-label="Find rows by words or figures"
  onkeydown={(event: KeyboardEvent) => event.key === 'Escape' && ((filter = { ...filter, text: '' }), search?.blur())}
/>
<Select class="max-w-[120px]" placeholder="" aria-label="Kind" bind:value={filter.kind}>
  <option value="">all kinds</option><option value="track">tracks</option><option value="bus">buses</option><option value="return"
    >returns</option
  >
</Select>
<Select class="max-w-[120px]" placeholder="" aria-label="Role" bind:value={filter.role}>
  <option value="">any role</option><option value="none">no role</option>
  {#each ROLES as { id, word } (id)}<option value={id}>{word}</option>{/each}
</Select>
<Select class="max-w-[120px]" placeholder="" aria-label="Family colour" bind:value={filter.family}>
  <option value="">any colour</option>{#each COLOUR_NAMES as name, i (name)}<option value={String(i)}>{name}</option>{/each}
</Select>
<Select class="max-w-[120px]" placeholder="" aria-label="Destination" bind:value={filter.to}>
  <option value="">goes anywhere</option><option value="mix">MIX</option><option value="nowhere">nowhere</option>
  {#each buses as { id, name } (id)}<option value={id}>{name}</option>{/each}
</Select>

<!-- Renaming the selection by pattern; every name is shown as it will be. -->
<script lang="ts">
  import { Button, Checkbox, Input, Modal, Select } from 'flowbite-svelte';
  import { untrack } from 'svelte';
  import { renamed, renameDefaults, type RenameOptions } from '$core/organise/rename';
  import { inOrder } from '$core/session/select';
  import { useDesk } from '$lib/state/desk';

  let { ids, onclose }: { ids: readonly string[]; onclose: () => void } = $props();
  const { store } = useDesk();
  let options = $state<RenameOptions & Record<string, unknown>>({ ...renameDefaults });
  const wanted = untrack(() => new Set(ids));
  const channels = inOrder(store.session).filter(({ id }) => wanted.has(id));
  const names = channels.map(({ name }) => name);
  const result = $derived(renamed(names, { ...options, from: Number(options.from) || 0, digits: Number(options.digits) || 1 }));
  const changed = $derived(
    result.ok ? channels.flatMap(({ id, name }, i) => (result.value[i] === name ? [] : [{ id, name: result.value[i] }])) : []
  );
  const apply = () => {
    if (changed.length && store.act([{ do: 'channels.rename', names: changed }])) onclose();
  };
</script>

<Modal open title="Rename {channels.length} channel{channels.length === 1 ? '' : 's'}" size="lg" outsideclose={false} {onclose}>
  <form
    class="form"
    onsubmit={(event) => {
      event.preventDefault();
      apply();
    }}
  >
    <label>Find<Input bind:value={options.find} /></label>
    <label>Replace with<Input bind:value={options.replace} /></label>
    <Checkbox bind:checked={options.pattern as boolean}>Pattern ($1 in the replacement is its first group)</Checkbox>
    <Checkbox bind:checked={options.strip as boolean}>Take off what all names begin and end with</Checkbox>
    <label>Put before<Input bind:value={options.before} /></label>
    <label>Put after<Input bind:value={options.after} /></label>
    <label
      >Letters<Select placeholder="" bind:value={options.letters}>
        <option value="keep">as they are</option>
        <option value="upper">UPPER CASE</option>
        <option value="lower">lower case</option>
        <option value="words">Each Word</option>
      </Select></label
    >
    <label
      >Number<Select placeholder="" bind:value={options.number}>
        <option value="none">none</option>
        <option value="before">before the name</option>
        <option value="after">after the name</option>
      </Select></label
    >
    {#if options.number !== 'none'}
      <label>From<Input type="number" min="0" max="9999" bind:value={options.from} /></label>
      <label>Digits<Input type="number" min="1" max="4" bind:value={options.digits} /></label>
    {/if}
    <button class="sr-only" type="submit">Rename</button>
  </form>
  {#if !result.ok}<p class="wrong" role="alert">{result.error.message}</p>{/if}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls: the keyboard must reach it) -->
  <div class="list" role="region" aria-label="Names before and after" tabindex="0">
    {#each channels as { id, name }, i (id)}
      {@const next = result.ok ? result.value[i] : name}
      <div class:same={next === name}><span>{name}</span><span>{next}</span></div>
    {/each}
  </div>
  <div class="foot">
    <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    <Button size="sm" disabled={changed.length === 0} onclick={apply}>Rename {changed.length}</Button>
  </div>
</Modal>

<style>
  .form {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px 14px;
  }
  label {
    display: grid;
    gap: 3px;
    color: var(--muted);
    font-size: 12px;
  }
  .list {
    max-height: 260px;
    overflow: auto;
    border-top: 1px solid var(--line);
    color: var(--ink);
  }
  .list div {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 12px;
    padding: 3px 2px;
    border-bottom: 1px solid var(--hair);
  }
  .list span:first-child {
    color: var(--muted);
  }
  .same span {
    color: var(--muted);
  }
  .wrong {
    color: var(--persimmon);
  }
  .foot {
    display: flex;
    justify-content: end;
    gap: 8px;
  }
</style>

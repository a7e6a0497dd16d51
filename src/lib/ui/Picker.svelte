<!-- A typeahead list of destinations: searches by name, kind and branch, and offers to make what is not there yet. -->
<script lang="ts" module>
  export type Choice = { readonly id: string; readonly name: string; readonly detail: string; readonly colour?: string };
</script>

<script lang="ts">
  import { Input } from 'flowbite-svelte';
  import Fuse from 'fuse.js';

  let {
    title,
    choices,
    makes,
    placeholder = 'Type a name',
    none = 'Nothing there yet. Type a name to make one.',
    onpick,
    onmake,
    onclose
  }: {
    title: string;
    choices: readonly Choice[];
    /** What a typed name can become, e.g. "bus". */
    makes: readonly string[];
    placeholder?: string;
    /** What is said where nothing fits. */
    none?: string;
    onpick: (id: string) => void;
    onmake: (what: string, name: string) => void;
    onclose: () => void;
  } = $props();

  let query = $state('');
  let at = $state(0);
  const fuse = $derived(new Fuse(choices, { keys: ['name', 'detail'], threshold: 0.35 }));
  const name = $derived(query.trim());
  // What holds the words as typed comes first, then what can be made, then what is merely similar: Enter never surprises.
  const holding = $derived(choices.filter((choice) => `${choice.name} ${choice.detail}`.toLowerCase().includes(name.toLowerCase())));
  const similar = $derived(name ? fuse.search(name).flatMap(({ item }) => (holding.includes(item) ? [] : item)) : []);
  const makeable = $derived(name && !choices.some((choice) => choice.name.toLowerCase() === name.toLowerCase()) ? makes : []);
  const entries = $derived([
    ...holding.map((choice) => ({ key: choice.id, choice, what: '' })),
    ...makeable.map((what) => ({ key: `new ${what}`, choice: null, what })),
    ...similar.map((choice) => ({ key: choice.id, choice, what: '' }))
  ]);
  $effect(() => {
    void query;
    at = 0;
  });

  const pick = (index: number) => {
    const entry = entries[index];
    if (entry?.choice) onpick(entry.choice.id);
    else if (entry) onmake(entry.what, name);
  };
  const onkeydown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onclose();
    else if (event.key === 'Enter') pick(at);
    else if (event.key === 'ArrowDown') at = Math.min(entries.length - 1, at + 1);
    else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
    else return;
    event.preventDefault();
  };
  const focused = (input: HTMLInputElement) => input.focus();
</script>

<div class="veil" role="presentation" onpointerdown={(event) => event.target === event.currentTarget && onclose()}>
  <div class="picker" role="dialog" aria-label={title}>
    <label class="caps" for="picker">{title}</label>
    <Input
      id="picker"
      class="w-full!"
      autocomplete="off"
      {placeholder}
      role="combobox"
      aria-expanded="true"
      aria-controls="picker-list"
      aria-activedescendant="picker-{at}"
      bind:value={query}
      {@attach focused}
      {onkeydown}
    />
    <ul id="picker-list" role="listbox" aria-label={title}>
      {#each entries as { key, choice, what }, i (key)}
        <!-- The field above has the keyboard: arrows choose, Enter takes. -->
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <li id="picker-{i}" role="option" aria-selected={i === at} class="entry" class:at={i === at} onclick={() => pick(i)}>
          {#if choice}
            <span class="dot" style:background={choice.colour ?? 'var(--line)'}></span>
            <span class="name">{choice.name}</span><span class="detail">{choice.detail}</span>
          {:else}
            <span class="dot new">+</span><span class="name">New {what} “{name}”</span>
          {/if}
        </li>
      {/each}
    </ul>
    {#if entries.length === 0}<p class="none">{none}</p>{/if}
  </div>
</div>

<style>
  .veil {
    position: fixed;
    inset: 0;
    z-index: 40;
    background: color-mix(in oklch, var(--ink) 18%, transparent);
  }
  .picker {
    display: grid;
    gap: 8px;
    width: 360px;
    margin: 96px auto 0;
    padding: 14px;
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--sheet);
    box-shadow: 0 12px 40px rgb(0 0 0 / 0.22);
  }
  ul {
    max-height: 340px;
    margin: 0;
    padding: 0;
    overflow: auto;
    list-style: none;
  }
  .entry {
    cursor: pointer;
    display: flex;
    align-items: center;
    gap: 8px;
    width: 100%;
    height: 28px;
    padding: 0 8px;
    border-radius: 5px;
    text-align: left;
  }
  .entry:hover,
  .at {
    background: var(--picked);
  }
  .dot {
    width: 9px;
    height: 9px;
    flex: none;
    border-radius: 50%;
  }
  .new {
    display: grid;
    place-items: center;
    color: var(--kelp);
    font-weight: 700;
  }
  .detail {
    margin-left: auto;
    color: var(--muted);
    font-size: 12px;
  }
  .none {
    padding: 6px 8px;
    color: var(--muted);
  }
</style>

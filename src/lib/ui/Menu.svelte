<!-- A small menu at a place on screen, for the context of a row or crosspoint. Arrow keys move, Escape closes. -->
<script lang="ts" module>
  export type MenuEntry = { readonly label: string; readonly keys?: string; readonly run: () => void; readonly off?: boolean };
</script>

<script lang="ts">
  let { x, y, entries, onclose }: { x: number; y: number; entries: readonly MenuEntry[]; onclose: () => void } = $props();
  let list = $state<HTMLElement>();
  $effect(() => list?.querySelector('button')?.focus());

  const onkeydown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape' || event.key === 'Tab') onclose();
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const buttons = [...(list?.querySelectorAll<HTMLButtonElement>('button:not(:disabled)') ?? [])];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    buttons[(at + (event.key === 'ArrowDown' ? 1 : buttons.length - 1)) % buttons.length]?.focus();
  };
  const left = $derived(Math.min(x, window.innerWidth - 240));
  const top = $derived(Math.max(8, Math.min(y, window.innerHeight - entries.length * 28 - 16)));
</script>

<div
  class="veil"
  role="presentation"
  onpointerdown={(event) => event.target === event.currentTarget && onclose()}
  oncontextmenu={(event) => event.preventDefault()}
>
  <div class="menu" role="menu" tabindex="-1" bind:this={list} style:left="{left}px" style:top="{top}px" {onkeydown}>
    {#each entries as { label, keys, run, off }, i (i)}
      <button
        role="menuitem"
        disabled={off}
        onclick={() => {
          onclose();
          run();
        }}
        ><span>{label}</span>{#if keys}<kbd>{keys}</kbd>{/if}</button
      >
    {/each}
  </div>
</div>

<style>
  .veil {
    position: fixed;
    inset: 0;
    z-index: 40;
  }
  .menu {
    position: fixed;
    min-width: 200px;
    max-height: calc(100vh - 16px);
    overflow-y: auto;
    padding: 4px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--sheet);
    box-shadow: 0 8px 28px rgb(0 0 0 / 0.2);
  }
  button {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    width: 100%;
    height: 28px;
    align-items: center;
    padding: 0 8px;
    border-radius: 5px;
  }
  button:hover:not(:disabled),
  button:focus-visible {
    background: var(--picked);
  }
  button:disabled {
    color: var(--muted);
  }
  kbd {
    color: var(--muted);
    font: 11px var(--font-mono);
  }
</style>

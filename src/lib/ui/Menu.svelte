<!-- A small menu at a place on screen, for the context of a row or crosspoint. Arrow keys move, Escape closes. -->
<script lang="ts" module>
  export type MenuEntry = {
    readonly label: string;
    readonly keys?: string;
    readonly run: () => void;
    readonly off?: boolean;
    /** What it opens, in the place of the menu; then it does nothing itself. */
    readonly more?: readonly MenuEntry[];
  };
</script>

<script lang="ts">
  import { DropdownGroup, DropdownItem } from 'flowbite-svelte';

  let { x, y, entries, onclose }: { x: number; y: number; entries: readonly MenuEntry[]; onclose: () => void } = $props();
  let list = $state<HTMLElement>();
  /** The entry that was opened. */
  let opened = $state.raw<MenuEntry | null>(null);
  const shown = $derived(opened?.more ?? entries);
  $effect(() => {
    void shown;
    // What cannot be done now takes no keys: without any that can, the menu itself hears them.
    (list?.querySelector<HTMLElement>('button:not(.back):enabled') ?? list)?.focus();
  });

  const onkeydown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'ArrowLeft' && opened) return void (opened = null);
    const at = document.activeElement as HTMLElement | null;
    if (event.key === 'ArrowRight' && at?.matches('[aria-haspopup]')) return at.click();
    if (event.key === 'Escape' || event.key === 'Tab') onclose();
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const buttons = [...(list?.querySelectorAll<HTMLButtonElement>('button:not(:disabled)') ?? [])];
    const place = buttons.indexOf(at as HTMLButtonElement);
    buttons[(place + (event.key === 'ArrowDown' ? 1 : buttons.length - 1)) % buttons.length]?.focus();
  };
  const left = $derived(Math.min(x, window.innerWidth - 240));
  const top = $derived(Math.max(8, Math.min(y, window.innerHeight - shown.length * 28 - (opened ? 28 : 0) - 16)));
</script>

<div
  class="veil"
  role="presentation"
  onpointerdown={(event) => event.target === event.currentTarget && onclose()}
  oncontextmenu={(event) => event.preventDefault()}
>
  <div class="menu" role="menu" tabindex="-1" bind:this={list} style:left="{left}px" style:top="{top}px" {onkeydown}>
    <DropdownGroup role="presentation">
      {#if opened}<DropdownItem role="menuitem" class="back" onclick={() => (opened = null)}><span>‹ {opened.label}</span></DropdownItem
        >{/if}
      {#each shown as entry, i (`${opened?.label} ${i}`)}
        <DropdownItem
          role="menuitem"
          disabled={entry.off}
          aria-haspopup={entry.more ? 'menu' : undefined}
          onclick={() => {
            if (entry.more) return void (opened = entry);
            onclose();
            entry.run();
          }}
          ><span>{entry.label}</span>{#if entry.more}<span class="more">›</span>{:else if entry.keys}<kbd>{entry.keys}</kbd
            >{/if}</DropdownItem
        >
      {/each}
    </DropdownGroup>
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
  .menu :global(button:focus-visible) {
    outline: none;
    background: var(--picked);
  }
  .menu :global(button:disabled) {
    color: var(--muted);
  }
  .menu :global(.back) {
    border-bottom: 1px solid var(--hair);
    color: var(--muted);
    font-weight: 600;
  }
  .more {
    color: var(--muted);
  }
  kbd {
    color: var(--muted);
    font: 11px var(--font-mono);
  }
</style>

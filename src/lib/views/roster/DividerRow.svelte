<!-- The caption between two families of rows: renamed in place, removed by its menu. -->
<script lang="ts">
  import { useDesk } from '$lib/state/desk';
  import type { MenuEntry } from '$lib/ui/Menu.svelte';
  import NameEdit from '$lib/ui/NameEdit.svelte';

  type Props = {
    divider: { readonly id: string; readonly caption: string };
    top: number;
    onmenu: (menu: { x: number; y: number; entries: MenuEntry[] }) => void;
  };
  let { divider, top, onmenu }: Props = $props();
  const { store } = useDesk();
  let editing = $state(false);

  const open = (event: MouseEvent) => {
    event.preventDefault();
    onmenu({
      x: event.clientX,
      y: event.clientY,
      entries: [
        { label: `Rename “${divider.caption}”`, run: () => (editing = true) },
        { label: 'Remove divider', run: () => void store.act([{ do: 'dividers.remove', ids: [divider.id] }]) }
      ]
    });
  };
</script>

<div class="caption caps" role="row" tabindex="-1" style:top="{top}px" oncontextmenu={open}>
  <span role="gridcell">
    {#if editing}
      <NameEdit
        value={divider.caption}
        label="Caption"
        onname={(caption) => store.act([{ do: 'dividers.set', id: divider.id, caption }])}
        onclose={() => (editing = false)}
      />
    {:else}<button ondblclick={() => (editing = true)} onclick={open}>{divider.caption}</button>{/if}
  </span>
</div>

<style>
  .caption {
    position: absolute;
    left: 0;
    display: flex;
    align-items: end;
    width: 100%;
    height: 32px;
    padding: 0 12px 4px 6px;
    border-bottom: 1.5px solid var(--line);
    font-weight: 650;
  }
  button {
    letter-spacing: inherit;
    text-transform: inherit;
  }
</style>

<!-- The session's name: rename it, open another one, export it as a package; all else that is done to sessions is on their own page. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { ask } from '$lib/state/api';
  import type { SessionStore } from '$lib/state/session.svelte';
  import type { SessionBrief } from '$lib/state/shelf.svelte';
  import NameDialog from './sessions/NameDialog.svelte';

  let { store }: { store: SessionStore } = $props();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let renaming = $state(false);
  /** Sessions offered here: those last changed. */
  const OFFERED = 8;

  const open = async (event: MouseEvent) => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const answer = await ask<{ sessions: SessionBrief[] }>('GET', '/api/sessions');
    if (!answer.ok) return store.say(answer.error.message);
    const last = answer.value.sessions.toSorted((a, b) => (a.changedAt < b.changedAt ? 1 : -1)).slice(0, OFFERED);
    menu = {
      x: box.left,
      y: box.bottom + 4,
      entries: [
        { label: 'All sessions…', run: () => void goto('/') },
        ...last.map(({ id, name, channels }) => ({
          label: name,
          keys: id === store.id ? 'open' : `${channels} ch`,
          run: () => void goto(`/s/${id}/ledger`)
        })),
        { label: 'Rename this session…', run: () => (renaming = true) },
        { label: 'Export as a package', run: () => location.assign(`/api/sessions/${store.id}/package`) }
      ]
    };
  };
</script>

<button class="name" data-hint="Open another session" onclick={open}><span>{store.settings.name}</span><ChevronDown size={14} /></button>
{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
{#if renaming}
  <NameDialog
    title="Rename session"
    name={store.settings.name}
    action="Rename"
    onname={(name) => {
      if (store.act([{ do: 'settings.set', name }])) renaming = false;
    }}
    onclose={() => (renaming = false)}
  />
{/if}

<style>
  .name {
    display: flex;
    align-items: center;
    gap: 4px;
    max-width: 250px;
    color: var(--muted);
  }
  .name span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>

<!-- The session's name: rename it, open another one, make a new one, export it as a package or open one. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { Button, Modal } from 'flowbite-svelte';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { ask } from '$lib/state/api';
  import type { SessionStore } from '$lib/state/session.svelte';

  let { store }: { store: SessionStore } = $props();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let dialog = $state<'new' | 'rename' | null>(null);
  let name = $state('');
  let rate = $state(48000);
  let bpm = $state(120);
  let problem = $state('');

  const open = async (event: MouseEvent) => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const [answer, door] = await Promise.all([
      ask<{ sessions: { id: string; name: string; channels: number }[] }>('GET', '/api/sessions'),
      ask<{ guarded: boolean }>('GET', '/api/door')
    ]);
    if (!answer.ok) return store.say(answer.error.message);
    menu = {
      x: box.left,
      y: box.bottom + 4,
      entries: [
        ...answer.value.sessions.map(({ id, name, channels }) => ({
          label: name,
          keys: id === store.id ? 'open' : `${channels} ch`,
          run: () => void goto(`/s/${id}/ledger`)
        })),
        {
          label: 'Rename this session…',
          run: () => {
            name = store.settings.name;
            dialog = 'rename';
          }
        },
        { label: 'Export as a package', run: () => location.assign(`/api/sessions/${store.id}/package`) },
        { label: 'Open a package…', run: () => packages.click() },
        {
          label: 'New session…',
          run: () => {
            name = '';
            problem = '';
            dialog = 'new';
          }
        },
        { label: 'Licences of what this is made with', run: () => window.open('/third-party-notices.txt', '_blank', 'noopener') },
        ...(door.ok && door.value.guarded
          ? [
              { label: 'End this login', run: () => void leave('') },
              { label: 'End every login', run: () => void leave('?all') }
            ]
          : [])
      ]
    };
  };
  const leave = async (which: string) => {
    await ask('DELETE', `/enter${which}`);
    location.assign('/enter');
  };
  let packages: HTMLInputElement;
  const openPackage = async (event: Event & { currentTarget: HTMLInputElement }) => {
    const file = event.currentTarget.files?.[0];
    event.currentTarget.value = '';
    if (!file) return;
    store.say(`Opening ${file.name}…`);
    const answer = await ask<{ id: string; name: string; mended: string[] }>('POST', '/api/packages', file);
    if (!answer.ok) return store.say(`${file.name} was not opened: ${answer.error.message}`);
    await goto(`/s/${answer.value.id}/ledger`, { state: { said: answer.value.mended.join(' ') } });
  };
  const accept = async (event: SubmitEvent) => {
    event.preventDefault();
    if (dialog === 'rename') {
      if (store.act([{ do: 'settings.set', name: name.trim() }])) dialog = null;
      return;
    }
    const answer = await ask<{ id: string }>('POST', '/api/sessions', { name, rate, bpm });
    if (!answer.ok) return void (problem = answer.error.message);
    dialog = null;
    await goto(`/s/${answer.value.id}/ledger`);
  };
</script>

<button class="name" title="Open another session" onclick={open}><span>{store.settings.name}</span><ChevronDown size={14} /></button>
<input type="file" accept=".zip" hidden aria-label="Session package" bind:this={packages} onchange={openPackage} />
{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}
<Modal open={dialog !== null} onclose={() => (dialog = null)} size="xs" title={dialog === 'rename' ? 'Rename session' : 'New session'}>
  <form onsubmit={accept}>
    <label>Name <input class="field" bind:value={name} required maxlength="120" /></label>
    {#if dialog === 'new'}
      <label>
        Sample rate
        <select class="field" bind:value={rate}
          >{#each [44100, 48000, 88200, 96000, 176400, 192000] as hz (hz)}<option value={hz}>{hz / 1000} kHz</option>{/each}</select
        >
      </label>
      <label>Tempo <input class="field" type="number" min="20" max="400" step="any" bind:value={bpm} /></label>
    {/if}
    {#if problem}<p role="alert">{problem}</p>{/if}
    <Button type="submit" size="sm">{dialog === 'rename' ? 'Rename' : 'Make session'}</Button>
  </form>
</Modal>

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
  form {
    display: grid;
    gap: 12px;
  }
  label {
    display: grid;
    gap: 4px;
    color: var(--muted);
    font-size: 12px;
  }
  .field {
    height: 32px;
    color: var(--ink);
  }
  p {
    margin: 0;
    color: var(--persimmon);
  }
</style>

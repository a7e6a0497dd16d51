<!-- All sessions: looked for, opened, made, copied, renamed and removed; the bin; what is on disk. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import {
    Button,
    Dropdown,
    DropdownItem,
    Modal,
    Search,
    TabItem,
    Table,
    TableBody,
    TableBodyCell,
    TableBodyRow,
    TableHead,
    TableHeadCell,
    Tabs
  } from 'flowbite-svelte';
  import Ellipsis from '@lucide/svelte/icons/ellipsis';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import FileInput from '$lib/ui/FileInput.svelte';
  import Message from '$lib/ui/Message.svelte';
  import { icon } from '$lib/ui/theme';
  import DayNight, { isDark, turnTheme } from '../DayNight.svelte';
  import { agoText, clockText, sizeText } from '$lib/ui/format';
  import { ask } from '$lib/state/api';
  import { createShelf, type SessionBrief } from '$lib/state/shelf.svelte';
  import NameDialog from './NameDialog.svelte';
  import NewSession from './NewSession.svelte';
  import StoragePanel from './StoragePanel.svelte';
  import WaysIn from './WaysIn.svelte';

  const shelf = createShelf();
  let tab = $state('sessions');
  let words = $state('');
  let dark = $state(isDark());
  let making = $state<string | null>(null);
  let asked = $state.raw<{ what: 'rename' | 'copy' | 'remove' | 'final'; session: SessionBrief } | null>(null);
  let packages = $state<FileInput>();
  /** The session whose menu is open. */
  let menu = $state<string | null>(null);
  onMount(() => void shelf.load().then(() => page.state.said && shelf.say(page.state.said)));

  const found = (list: readonly SessionBrief[]) =>
    words
      .trim()
      .toLowerCase()
      .split(/\s+/)
      .reduce((left, word) => left.filter(({ name }) => name.toLowerCase().includes(word)), [...list])
      .sort((a, b) => (a.changedAt < b.changedAt ? 1 : -1));
  const sessions = $derived(found(shelf.sessions ?? []));
  const own = $derived((shelf.sessions ?? []).some(({ id }) => !id.startsWith('ferry-shed')));
  const day = (moment: string) => new Date(moment).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

  const opened = async ([file]: File[]) => {
    const made = await shelf.openPackage(file);
    if (made) await goto(`/s/${made.id}/ledger`, { state: { said: made.mended } });
  };
  const leave = async (which: string) => {
    await ask('DELETE', `/enter${which}`);
    location.assign('/enter');
  };
  let toast = $state('');
  $effect(() => {
    toast = shelf.notice;
    if (!toast) return;
    const timer = setTimeout(() => shelf.say(''), 7000);
    return () => clearTimeout(timer);
  });
</script>

<div class="page">
  <header>
    <span class="brand">Isotaxis</span>
    <span class="grow"></span>
    {#if shelf.guarded}
      <Button color="alternative" onclick={() => void leave('')}>End this login</Button>
      <Button color="alternative" onclick={() => void leave('?all')}>End every login</Button>
    {/if}
    <a class="small" href="/third-party-notices.txt" target="_blank" rel="noopener">Licences of what this is made with</a>
    <DayNight {dark} onturn={() => (dark = turnTheme())} />
  </header>
  <main>
    {#if shelf.sessions && !own}<WaysIn {shelf} ontemplate={() => (making = shelf.templates[0]?.name ?? '')} />{/if}
    <div class="tools">
      <Tabs bind:selected={tab} classes={{ content: 'hidden' }} divider={false}>
        <TabItem key="sessions" open={tab === 'sessions'} title="Sessions" onclick={() => (tab = 'sessions')} />
        <TabItem key="bin" title="Bin{shelf.bin.length ? ` (${shelf.bin.length})` : ''}" onclick={() => (tab = 'bin')} />
        <TabItem key="storage" title="Storage and backup" onclick={() => (tab = 'storage')} />
      </Tabs>
      <span class="grow"></span>
      {#if tab !== 'storage'}<Search size="sm" placeholder="Find a session" aria-label="Find a session" bind:value={words} />{/if}
      <Button size="xs" color="alternative" onclick={() => packages?.choose()}>Open a package…</Button>
      <Button size="xs" onclick={() => (making = '')}>New session…</Button>
    </div>
    {#if tab === 'sessions'}
      <Table>
        <TableHead>
          <TableHeadCell>Name</TableHeadCell>
          <TableHeadCell class="text-right">Length</TableHeadCell>
          <TableHeadCell class="text-right">Channels</TableHeadCell>
          <TableHeadCell class="text-right">Rate</TableHeadCell>
          <TableHeadCell>Last change</TableHeadCell>
          <TableHeadCell class="text-right">On disk</TableHeadCell>
          <TableHeadCell><span class="sr-only">What to do</span></TableHeadCell>
        </TableHead>
        <TableBody>
          {#each sessions as session (session.id)}
            <TableBodyRow data-session={session.id}>
              <TableBodyCell class="w-full max-w-0 truncate"><a class="name" href="/s/{session.id}/ledger">{session.name}</a></TableBodyCell
              >
              <TableBodyCell class="num text-right">{session.seconds ? clockText(session.seconds) : 'empty'}</TableBodyCell>
              <TableBodyCell class="num text-right">{session.channels}</TableBodyCell>
              <TableBodyCell class="num text-right">{session.rate / 1000} kHz</TableBodyCell>
              <TableBodyCell><span data-hint={day(session.changedAt)}>{agoText(session.changedAt)}</span></TableBodyCell>
              <TableBodyCell class="num text-right"
                ><span
                  data-hint="Recordings, some of which other sessions may use too{session.printBytes
                    ? `, and ${sizeText(session.printBytes)} of prints`
                    : ''}">{sizeText(session.bytes)}</span
                ></TableBodyCell
              >
              <TableBodyCell class="text-right">
                <Button color="alternative" class={icon} aria-label="What to do with {session.name}" id="do-{session.id}"
                  ><Ellipsis size={16} /></Button
                >
                <Dropdown
                  simple
                  placement="bottom-end"
                  triggeredBy="#do-{CSS.escape(session.id)}"
                  bind:isOpen={() => menu === session.id, (open) => (menu = open ? session.id : menu === session.id ? null : menu)}
                >
                  <DropdownItem onclick={() => ((menu = null), (asked = { what: 'rename', session }))}>Rename…</DropdownItem>
                  <DropdownItem onclick={() => ((menu = null), (asked = { what: 'copy', session }))}>Duplicate…</DropdownItem>
                  <DropdownItem href="/api/sessions/{session.id}/package" download>Export as a package</DropdownItem>
                  <DropdownItem onclick={() => ((menu = null), (asked = { what: 'remove', session }))}>Remove…</DropdownItem>
                </Dropdown>
              </TableBodyCell>
            </TableBodyRow>
          {:else}
            <TableBodyRow
              ><TableBodyCell colspan={7}>
                {#if !shelf.sessions}Looking…{:else if words}No session is called “{words}”.{:else}There is no session yet: make one, open a
                  package, or look into the bin.{/if}
              </TableBodyCell></TableBodyRow
            >
          {/each}
        </TableBody>
      </Table>
    {:else if tab === 'bin'}
      <Table>
        <TableHead>
          <TableHeadCell>Name</TableHeadCell>
          <TableHeadCell class="text-right">Channels</TableHeadCell>
          <TableHeadCell>Removed</TableHeadCell>
          <TableHeadCell>Goes for good</TableHeadCell>
          <TableHeadCell class="text-right">On disk</TableHeadCell>
          <TableHeadCell><span class="sr-only">What to do</span></TableHeadCell>
        </TableHead>
        <TableBody>
          {#each found(shelf.bin) as session (session.id)}
            <TableBodyRow data-session={session.id}>
              <TableBodyCell class="w-full max-w-0 truncate">{session.name}</TableBodyCell>
              <TableBodyCell class="num text-right">{session.channels}</TableBodyCell>
              <TableBodyCell><span data-hint={day(session.removedAt!)}>{agoText(session.removedAt!)}</span></TableBodyCell>
              <TableBodyCell><span data-hint={day(session.goesAt!)}>{agoText(session.goesAt!)}</span></TableBodyCell>
              <TableBodyCell class="num text-right">{sizeText(session.bytes)}</TableBodyCell>
              <TableBodyCell class="text-right">
                <Button color="alternative" onclick={() => void shelf.restore(session)}>Bring back</Button>
                <Button color="alternative" onclick={() => (asked = { what: 'final', session })}>Remove for good…</Button>
              </TableBodyCell>
            </TableBodyRow>
          {:else}
            <TableBodyRow
              ><TableBodyCell colspan={6}>Nothing lies in the bin. What is removed stays here for 30 days.</TableBodyCell></TableBodyRow
            >
          {/each}
        </TableBody>
      </Table>
    {:else}
      <StoragePanel {shelf} />
    {/if}
  </main>
  <FileInput bind:this={packages} label="Session package" accept=".zip" multiple={false} onfiles={(files) => void opened(files)} />
  {#if making !== null}<NewSession {shelf} template={making} onclose={() => (making = null)} />{/if}
  {#if asked?.what === 'rename' || asked?.what === 'copy'}
    {@const { what, session } = asked}
    <NameDialog
      title={what === 'rename' ? 'Rename session' : 'Duplicate session'}
      name={what === 'rename' ? session.name : `${session.name.slice(0, 110)} – copy`}
      action={what === 'rename' ? 'Rename' : 'Duplicate'}
      onname={(name) => {
        void (what === 'rename' ? shelf.rename(session, name) : shelf.duplicate(session, name));
        asked = null;
      }}
      onclose={() => (asked = null)}
    />
  {:else if asked}
    {@const { what, session } = asked}
    <Modal open size="xs" title={what === 'remove' ? 'Remove session' : 'Remove for good'} onclose={() => (asked = null)}>
      {#if what === 'remove'}
        <p><strong>{session.name}</strong> goes into the bin with its {session.channels} channels, and stays there for 30 days.</p>
      {:else}
        <p><strong>{session.name}</strong>, what can be undone in it and its prints go for good. This cannot be undone.</p>
      {/if}
      <Button
        size="sm"
        onclick={() => {
          void (what === 'remove' ? shelf.remove(session) : shelf.removeForGood(session));
          asked = null;
        }}>{what === 'remove' ? 'Into the bin' : 'Remove for good'}</Button
      >
    </Modal>
  {/if}
  <Message text={toast} ondismiss={() => shelf.say('')} />
</div>

<style>
  .page {
    display: grid;
    grid-template-rows: 46px minmax(0, 1fr);
    height: 100vh;
  }
  header {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 0 14px;
    border-bottom: 1px solid var(--line);
  }
  .brand {
    font-size: 15px;
    font-weight: 700;
  }
  .small {
    color: var(--muted);
    font-size: 12px;
  }
  .grow {
    flex: 1;
  }
  main {
    display: grid;
    align-content: start;
    gap: 18px;
    overflow-y: auto;
    padding: 22px max(22px, calc(50vw - 520px));
  }
  .tools {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .name {
    font-weight: 600;
  }
  .name:hover {
    color: var(--kelp);
    text-decoration: underline;
  }
  p {
    margin: 0 0 12px;
  }
</style>

<!-- The import: progress while it runs, and a report of what was refused and why. It goes on when closed. -->
<script lang="ts">
  import { Button, Modal, Progressbar } from 'flowbite-svelte';
  import { useDesk } from '$lib/state/desk';

  const { importer, store } = useDesk();
  const items = $derived(importer.items);
  const count = (state: string) => items.filter((item) => item.state === state).length;
  const bytes = $derived(items.reduce((sum, item) => sum + item.size, 0));
  const share = $derived(bytes ? items.reduce((sum, item) => sum + item.size * item.sent, 0) / bytes : 0);
  const title = $derived(
    importer.running
      ? `Importing ${items.length} file${items.length === 1 ? '' : 's'}`
      : importer.known
        ? importer.known === 1
          ? 'One file stands in the session already'
          : `${importer.known} files stand in the session already`
        : count('taken') === 0
          ? 'Nothing was imported'
          : `${count('taken')} of ${items.length} files imported`
  );
  const WORDS = {
    waiting: 'Waiting',
    sending: 'Sending',
    checking: 'Checking',
    converting: 'Converting',
    taken: 'Imported',
    known: 'There already',
    refused: 'Refused',
    cancelled: 'Cancelled'
  } as const;
  /** What asks for something stands first. */
  const FIRST: readonly string[] = ['refused', 'known'];
</script>

<Modal bind:open={importer.open} {title} size="md" outsideclose={false}>
  {#if importer.running}
    <Progressbar progress={Math.round(share * 100)} size="h-1.5" />
    <p class="muted">
      {importer.secondsLeft === null
        ? 'Working out how long this takes…'
        : `About ${Math.max(1, Math.round(importer.secondsLeft))} s left.`}
    </p>
  {:else if count('refused')}
    <p class="muted">
      {count('taken') ? 'The session holds the files that could be read.' : 'The session is as it was.'} Nothing of the refused files was kept.
    </p>
  {/if}
  <ul>
    {#each [...items].sort((a, b) => FIRST.indexOf(b.state) - FIRST.indexOf(a.state)) as item, i (i)}
      <li class={item.state}>
        <span class="state">{WORDS[item.state]}</span>
        <span class="what"><strong>{item.name}</strong><span>{item.message}</span></span>
      </li>
    {/each}
  </ul>
  <div class="foot">
    {#if importer.running}
      <Button size="sm" color="alternative" onclick={importer.cancel}>Cancel</Button>
      <Button size="sm" color="alternative" onclick={() => (importer.open = false)}>Go on in the background</Button>
    {:else}
      {#if importer.known}
        <Button size="sm" onclick={importer.bringAgain}>Bring {importer.known === 1 ? 'it' : 'them'} in once more</Button>
        <Button size="sm" color="alternative" onclick={importer.leaveOut}>Leave {importer.known === 1 ? 'it' : 'them'} out</Button>
      {/if}
      {#if importer.cutOff}
        <Button size="sm" color="alternative" onclick={importer.keep}
          >Keep what is there of {importer.cutOff === 1 ? 'the cut file' : `${importer.cutOff} cut files`}</Button
        >
      {/if}
      {#if importer.convertible}
        <Button size="sm" onclick={importer.convert}
          >Convert {importer.convertible === 1 ? 'it' : importer.convertible} to {store.settings.rate / 1000} kHz</Button
        >
      {/if}
      <Button size="sm" color={importer.convertible || importer.known ? 'alternative' : 'primary'} onclick={() => (importer.open = false)}
        >Close</Button
      >
    {/if}
  </div>
</Modal>

<style>
  ul {
    max-height: 340px;
    margin: 0;
    padding: 0;
    overflow: auto;
    list-style: none;
  }
  li {
    display: flex;
    gap: 12px;
    padding: 7px 2px;
    border-bottom: 1px solid var(--hair);
  }
  .state {
    width: 68px;
    flex: none;
    color: var(--muted);
    font-size: 12px;
  }
  .refused .state {
    color: var(--persimmon);
    font-weight: 600;
  }
  .known .state {
    color: var(--ochre);
  }
  .taken .state {
    color: var(--kelp);
  }
  .what {
    display: grid;
    min-width: 0;
  }
  .what span {
    color: var(--muted);
  }
  .refused .what span {
    color: var(--ink);
  }
  strong {
    overflow: hidden;
    color: var(--ink);
    font-weight: 600;
    text-overflow: ellipsis;
  }
  .muted {
    color: var(--muted);
  }
  .foot {
    display: flex;
    justify-content: end;
    gap: 8px;
    margin-top: 14px;
  }
</style>

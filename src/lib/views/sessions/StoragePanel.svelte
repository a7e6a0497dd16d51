<!-- What is on disk, what of it nothing needs, and backups of everything. -->
<script lang="ts">
  import { Button, Modal, Progressbar } from 'flowbite-svelte';
  import { onMount } from 'svelte';
  import FileInput from '$lib/ui/FileInput.svelte';
  import { sizeText } from '$lib/ui/format';
  import { lacking, type Shelf } from '$lib/state/shelf.svelte';

  let { shelf }: { shelf: Shelf } = $props();
  onMount(() => void shelf.loadStorage());
  const told = $derived(shelf.storage);
  let asked = $state<'clear' | File | null>(null);
  let chosen = $state<FileInput>();
  const parts = $derived(
    told
      ? [
          { what: 'Recordings', count: told.recordings.count, bytes: told.recordings.bytes, note: 'with their peaks; each is kept once' },
          { what: 'Prints', count: told.prints.count, bytes: told.prints.bytes, note: 'mixes, versions and stems' },
          { what: 'Database', count: null, bytes: told.database.bytes, note: 'sessions and what can be undone' },
          { what: 'In the bin', count: told.bin.count, bytes: told.bin.bytes, note: 'of the above, what would be free without it' },
          { what: 'For undo', count: told.undo.count, bytes: told.undo.bytes, note: 'recordings of tracks that were removed' }
        ]
      : []
  );
  const loose = $derived((told?.unused.recordings.length ?? 0) + (told?.unused.prints.length ?? 0));
</script>

{#if told}
  <div class="panel">
    <section aria-labelledby="on-disk">
      <h2 id="on-disk">On disk: <span class="num">{sizeText(told.bytes)}</span></h2>
      <dl>
        {#each parts as { what, count, bytes, note } (what)}
          <dt>{what}</dt>
          <dd class="num">{sizeText(bytes)}</dd>
          <dd class="note">{count === null ? note : `${count}, ${note}`}</dd>
        {/each}
      </dl>
      <p class="note">In {told.directory}; {sizeText(told.freeBytes)} are free on that disk.</p>
    </section>
    <section aria-labelledby="unused">
      <h2 id="unused">Not used: <span class="num">{sizeText(told.unused.bytes)}</span></h2>
      {#if loose}
        <p>
          {told.unused.recordings.length} recordings and {told.unused.prints.length} prints: no session needs them, none in the bin, and nothing
          that can be undone.
        </p>
        <Button size="xs" color="alternative" onclick={() => (asked = 'clear')}>Remove them…</Button>
      {:else}
        <p class="note">Every recording and print is needed by a session, the bin, or what can be undone.</p>
      {/if}
    </section>
    <section aria-labelledby="backup">
      <h2 id="backup">Backup of everything</h2>
      <p>One file: all sessions with what can be undone in them, the bin, recordings, prints, templates.</p>
      <div class="act">
        <Button size="xs" href="/api/backup" download>Make a backup</Button>
        <Button size="xs" color="alternative" disabled={shelf.restoring !== null} onclick={() => chosen?.choose()}>Restore one…</Button>
      </div>
      {#if told.backup && told.backup.missing.length + told.backup.damaged.length}
        <p class="wrong">
          The last backup, of {new Date(told.backup.made).toLocaleString()}, does not hold everything.{lacking(
            told.backup,
            told.backup.names
          )} Import them again, or restore an older backup: what is whole in it is put back.
        </p>
      {/if}
      {#if shelf.restoring !== null}
        <p role="status">{shelf.restoring < 1 ? 'Sending the backup…' : 'Checking it and putting it back…'}</p>
        <Progressbar progress={Math.round(shelf.restoring * 100)} size="h-1.5" />
      {/if}
    </section>
  </div>
{/if}
<FileInput bind:this={chosen} label="Backup" accept=".zip" multiple={false} onfiles={([file]) => (asked = file)} />
{#if asked}
  <Modal open size="xs" title={asked === 'clear' ? 'Remove what is not used' : 'Restore a backup'} onclose={() => (asked = null)}>
    {#if asked === 'clear'}
      <p>{sizeText(told?.unused.bytes ?? 0)} go from the disk for good: {loose} files that nothing needs. This cannot be undone.</p>
      <Button
        size="sm"
        onclick={() => {
          asked = null;
          void shelf.clearUnused();
        }}>Remove them</Button
      >
    {:else}
      {@const file = asked}
      <p>
        Sessions will be as they were when <strong>{file.name}</strong> was made. Sessions that are here and are not in it, or are otherwise in
        it, go into the bin: nothing is lost.
      </p>
      <Button
        size="sm"
        onclick={() => {
          void shelf.restoreBackup(file);
          asked = null;
        }}>Restore</Button
      >
    {/if}
  </Modal>
{/if}

<style>
  .panel {
    display: grid;
    gap: 22px;
    max-width: 760px;
  }
  h2 {
    margin: 0 0 6px;
    font-size: 14px;
    font-weight: 700;
  }
  dl {
    display: grid;
    grid-template-columns: auto auto 1fr;
    gap: 3px 18px;
    margin: 0;
  }
  dd {
    margin: 0;
  }
  dd.num {
    text-align: right;
  }
  p {
    margin: 0 0 8px;
  }
  .note {
    color: var(--muted);
  }
  .wrong {
    margin-top: 10px;
    color: var(--persimmon);
  }
  dl + .note {
    margin-top: 8px;
  }
  .act {
    display: flex;
    gap: 8px;
  }
</style>

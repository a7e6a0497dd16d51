<!-- Pouring recordings into waiting tracks: what goes where, what is left on both sides; each can be changed before it is done. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Modal, Select } from 'flowbite-svelte';
  import { tracksFor, type Taken } from '$core/commands/intake';
  import { pourPlan, waitingTracks, type Empties } from '$core/organise/pour';
  import type { RuleBook } from '$core/organise/ruleBook';
  import { settingsOf } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import { untrack } from 'svelte';

  let { taken, book, onclose }: { taken: readonly Taken[]; book: RuleBook; onclose: () => void } = $props();
  const { store } = useDesk();
  const tracks = untrack(() => tracksFor(taken, () => uuid(), 7));
  const waiting = waitingTracks(store.session);
  let chosen = $state.raw<Readonly<Record<number, string>>>({});
  let empties = $state<Empties>('rest');
  const { zero } = settingsOf(store.session);
  const plan = $derived(
    pourPlan(store.session, tracks, { book, chosen, empties, start: ({ timeReference }) => Math.max(0, (timeReference ?? zero) - zero) })
  );
  const matched = $derived(plan.files.filter(({ into }) => into !== null).length);
  const nameOf = (id: string) => store.session.channel.get(id)?.name ?? '';
  const apply = () => {
    if (store.act(plan.commands)) onclose();
  };
</script>

<Modal
  open
  title="Pour {tracks.length} recording{tracks.length === 1 ? '' : 's'} into the waiting tracks"
  size="lg"
  outsideclose={false}
  {onclose}
>
  <p class="muted">
    {matched} matched by name and role, new tracks: {tracks.length - matched}, {plan.empty.length} waiting tracks stay empty.
  </p>
  <div class="list">
    {#each plan.files as { track, into }, i (track.id)}
      <div class="row" class:none={into === null}>
        <span data-hint={track.media.name}>{track.media.name}</span>
        <Select
          classes={{ select: 'h-6' }}
          placeholder=""
          aria-label="Track for {track.media.name}"
          value={into ?? ''}
          onchange={(event) => (chosen = { ...chosen, [i]: event.currentTarget.value })}
        >
          <option value="">new track “{track.name}”</option>
          {#each waiting as { id, name } (id)}<option value={id}>{name}</option>{/each}
        </Select>
      </div>
    {/each}
  </div>
  {#if plan.empty.length}
    <p class="empty">
      <label
        >Empty: {plan.empty.slice(0, 6).map(nameOf).join(', ')}{plan.empty.length > 6 ? ` and ${plan.empty.length - 6} more` : ''}
        <Select classes={{ select: 'h-6' }} placeholder="" bind:value={empties}>
          <option value="rest">left resting</option>
          <option value="hide">hidden</option>
          <option value="drop">removed</option>
          <option value="keep">left as they are</option>
        </Select></label
      >
    </p>
  {/if}
  <div class="foot">
    <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    <Button size="sm" onclick={apply}>Pour</Button>
  </div>
</Modal>

<style>
  .list {
    max-height: 380px;
    overflow: auto;
    border-top: 1px solid var(--line);
  }
  .row {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 10px;
    align-items: center;
    padding: 2px 0;
    border-bottom: 1px solid var(--hair);
    color: var(--ink);
  }
  .row span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .none span {
    color: var(--persimmon);
  }
  .muted,
  .empty {
    color: var(--muted);
  }
  .foot {
    display: flex;
    justify-content: end;
    gap: 8px;
  }
</style>

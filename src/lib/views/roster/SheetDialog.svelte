<!-- A track sheet that comes back from a spreadsheet: what it would change, before it does. -->
<script lang="ts">
  import { Button, Modal } from 'flowbite-svelte';
  import { readSheet } from '$core/organise/sheet';
  import { useDesk } from '$lib/state/desk';

  let { name, text, onclose }: { name: string; text: string; onclose: () => void } = $props();
  const { store } = useDesk();
  const plan = $derived(readSheet(store.session, text));
  const apply = () => {
    if (plan.ok && store.act(plan.value.commands)) onclose();
  };
</script>

<Modal open title={name} size="lg" outsideclose={false} {onclose}>
  {#if !plan.ok}
    <p class="wrong" role="alert">{plan.error.message}</p>
    <p class="muted">The session is as it was.</p>
  {:else}
    {@const { changes, notes, missing } = plan.value}
    <p class="muted">
      {changes.length ? `${changes.length} change${changes.length === 1 ? '' : 's'}.` : 'The sheet changes nothing.'}
      {#if missing.length}Not in the sheet, left as they are: {missing.slice(0, 5).join(', ')}{missing.length > 5
          ? ` and ${missing.length - 5} more`
          : ''}.{/if}
    </p>
    <div class="list">
      {#each notes as note (note)}<p class="wrong">{note}</p>{/each}
      {#each changes as { id, name: channel, column, from, to }, i (`${id} ${column} ${i}`)}
        <div class="row">
          <span>{channel}</span><span class="muted">{column === 'id' ? 'order' : column.replace('_', ' ')}</span><span class="muted"
            >{from || 'none'}</span
          ><span>{to || 'none'}</span>
        </div>
      {/each}
    </div>
  {/if}
  <div class="foot">
    <Button size="sm" color="alternative" onclick={onclose}>{plan.ok && plan.value.changes.length ? 'Cancel' : 'Close'}</Button>
    {#if plan.ok && plan.value.changes.length}<Button size="sm" onclick={apply}
        >Make {plan.value.changes.length} change{plan.value.changes.length === 1 ? '' : 's'}</Button
      >{/if}
  </div>
</Modal>

<style>
  .list {
    max-height: 380px;
    overflow: auto;
  }
  .row {
    display: grid;
    grid-template-columns: 1.4fr 90px 1fr 1fr;
    gap: 10px;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
    color: var(--ink);
  }
  .muted {
    color: var(--muted);
  }
  .wrong {
    color: var(--persimmon);
  }
  .foot {
    display: flex;
    justify-content: end;
    gap: 8px;
  }
</style>

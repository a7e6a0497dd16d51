<!-- Many buses at once from a typed or pasted list; indentation makes the tree. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Input, Modal, Select, Textarea } from 'flowbite-svelte';
  import { planBatch } from '$core/commands/plan';
  import { busesFromList, treeDefaults } from '$core/organise/tree';
  import { commit } from '$core/session/changes';
  import { useDesk } from '$lib/state/desk';
  import TreeList from './TreeList.svelte';

  let { onclose }: { onclose: () => void } = $props();
  const { store } = useDesk();
  const EXAMPLE = 'RHYTHM\n  DRUMS\n  PERCUSSION\nVOICES\n  CHOIR';
  let text = $state('');
  let naming = $state(treeDefaults.naming);
  let mark = $state(treeDefaults.mark);
  const made = $derived(text.trim() ? busesFromList(store.session, text, { naming, mark }, () => uuid()) : null);
  const after = $derived.by(() => {
    if (!made?.ok) return null;
    const planned = planBatch(store.session, made.value);
    if (!planned.ok) return null;
    const session = { ...store.session, channel: new Map(store.session.channel) };
    commit(session, planned.value.changes);
    return session;
  });
  const fresh = $derived(new Set(made?.ok ? made.value.flatMap((command) => (command.do === 'buses.add' ? [command.id!] : [])) : []));
  const apply = () => {
    if (made?.ok && store.act(made.value)) onclose();
  };
</script>

<Modal open title="Many buses at once" size="lg" outsideclose={false} {onclose}>
  <div class="body">
    <label
      >A name a line; deeper lines go into the line above
      <Textarea rows={14} bind:value={text} placeholder={EXAMPLE}></Textarea></label
    >
    {#if after}<TreeList session={after} label="As it will be" {fresh} tracks={false} />{:else}<p class="muted">
        The tree shows here as you type.
      </p>{/if}
  </div>
  {#if made && !made.ok}<p class="wrong" role="alert">{made.error.message}</p>{/if}
  <div class="foot">
    <label class="row"
      >Names<Select placeholder="" bind:value={naming}>
        <option value="upper">UPPER CASE</option><option value="mark">with a tier mark</option><option value="typed">as typed</option>
      </Select></label
    >
    {#if naming === 'mark'}<Input class="w-12!" aria-label="Tier mark" maxlength={4} bind:value={mark} />{/if}
    <span class="grow"></span>
    <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    <Button size="sm" disabled={fresh.size === 0} onclick={apply}>Make {fresh.size} bus{fresh.size === 1 ? '' : 'es'}</Button>
  </div>
</Modal>

<style>
  .body {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: 1fr 1fr;
    gap: 20px;
    height: 330px;
  }
  label {
    display: grid;
    grid-template-rows: auto 1fr;
    gap: 4px;
    color: var(--muted);
    font-size: 12px;
  }
  label :global(textarea) {
    height: 100%;
    padding: 8px;
    resize: none;
    tab-size: 4;
  }
  .row,
  .foot {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .grow {
    flex: 1;
  }
  .muted {
    color: var(--muted);
  }
  .wrong {
    color: var(--persimmon);
  }
</style>

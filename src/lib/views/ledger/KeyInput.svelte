<!-- What a processor listens to: its own input, or another channel at a tap. -->
<script lang="ts">
  import { Select } from 'flowbite-svelte';
  import type { Insert, Tap } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';

  let { insert }: { insert: Insert } = $props();
  const { store } = useDesk();
  const others = $derived(store.channels.filter(({ id }) => id !== insert.channelId && id !== 'mix'));
  /** Whether the channel that it listened to is no longer there. */
  const gone = $derived(insert.keyId !== null && insert.keyId !== insert.channelId && !others.some(({ id }) => id === insert.keyId));
  const resting = $derived(others.find(({ id }) => id === insert.keyId)?.resting ?? false);
  const set = (source: string, tap: Tap) =>
    store.act([{ do: 'inserts.key', id: insert.id, ...(source ? { source } : { source: null }), tap }]);
</script>

<div class="key">
  <span>Key from</span>
  <Select
    class="min-w-0 flex-1"
    classes={{ select: 'px-1 text-[12px]' }}
    placeholder=""
    aria-label="Key from"
    value={insert.keyId ?? ''}
    onchange={(event) => {
      set(event.currentTarget.value, insert.keyTap);
      event.currentTarget.value = insert.keyId ?? '';
    }}
  >
    <option value="">its own input</option>
    {#if gone}<option value={insert.keyId}>a removed channel</option>{/if}
    {#each others as { id, name } (id)}<option value={id}>{name}</option>{/each}
  </Select>
  {#if insert.keyId !== null && !gone}
    <Select
      class="min-w-0 flex-1"
      classes={{ select: 'px-1 text-[12px]' }}
      placeholder=""
      aria-label="Tap of the key"
      value={insert.keyTap}
      onchange={(event) => set(insert.keyId!, event.currentTarget.value as Tap)}
    >
      <option value="input">input</option>
      <option value="pre">pre</option>
      <option value="post">post</option>
    </Select>
  {/if}
</div>
{#if gone || resting}
  <p class="deaf" role="status">
    It hears nothing: {gone ? 'what it listened to was removed. Choose another key.' : 'what it listens to rests.'}
  </p>
{/if}

<style>
  .deaf {
    margin: 0 0 4px 86px;
    color: var(--persimmon);
    font-size: 12px;
  }
  .key {
    display: flex;
    align-items: center;
    gap: 6px;
    min-height: 27px;
    font-size: 12px;
  }
  .key span {
    flex: 0 0 80px;
  }
</style>

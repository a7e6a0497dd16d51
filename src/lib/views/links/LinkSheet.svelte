<!-- A link group in the side sheet: what goes together and how, who is in it, its keys, and what it means beside a VCA. -->
<script lang="ts">
  import { Badge, Button, Checkbox } from 'flowbite-svelte';
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import { keyOf } from '$lib/ui/keyOf';
  import { useDesk } from '$lib/state/desk';
  import { heldInGroup } from '$core/links/reach';
  import type { Attribute, Link } from '$core/session/entities';
  import { ATTRIBUTES } from '$core/session/tables/link';
  import { ATTRIBUTE_WORDS, membersOf } from '../linkWords';
  import MemberRow from './MemberRow.svelte';

  let { link }: { link: Link } = $props();
  const { store, selection, now } = useDesk();
  let naming = $state<'name' | 'badge' | null>(null);
  /** Whether the next keys become the group's own. */
  let listening = $state(false);
  const members = $derived.by(() => {
    store.watchGroups();
    return membersOf(store.session, link.id);
  });
  const twice = $derived.by(() => {
    store.watchGroups();
    return link.attributes.includes('level') ? heldInGroup(store.session, members) : [];
  });
  const mirrored = (id: string) => store.session.linkMember.get(`${link.id}\n${id}`)?.mirrored ?? false;
  const set = (fields: Partial<Omit<Link, 'id' | 'attributes'>> & { attributes?: Attribute[] }) =>
    store.act([{ do: 'links.set', id: link.id, ...fields }]);
  const turn = (attribute: Attribute) =>
    set({
      attributes: link.attributes.includes(attribute)
        ? link.attributes.filter((each) => each !== attribute)
        : [...link.attributes, attribute]
    });
  const mirror = (id: string) =>
    store.act([
      {
        do: 'links.members',
        id: link.id,
        mirrored: members.filter((each) => mirrored(each) !== (each === id))
      }
    ]);
  const listen = (event: KeyboardEvent) => {
    if (!listening || ['Control', 'Alt', 'Shift', 'Meta', 'Tab'].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    listening = false;
    if (event.key === 'Escape') return;
    if (event.key === 'Backspace' || event.key === 'Delete') return set({ shortcut: '' });
    if (event.key.length !== 1 || event.key === ' ') return store.say('A letter or a digit, with Alt, Ctrl or Shift if you like.');
    const held = [event.ctrlKey && 'Ctrl', event.altKey && 'Alt', event.metaKey && 'Meta', event.shiftKey && 'Shift'].filter(Boolean);
    set({ shortcut: [...held, keyOf(event)].join('+') });
  };
  const MODES = [
    ['difference', 'by difference'],
    ['alike', 'all alike']
  ] as const;
</script>

<header>
  {#if naming === 'badge'}
    <NameEdit
      value={link.badge}
      label="Badge of {link.name}"
      onname={(badge) => set({ badge: badge.slice(0, 8) })}
      onclose={() => (naming = null)}
    />
  {:else}
    <button data-hint="Its badge. Double-click to change it." ondblclick={() => (naming = 'badge')}
      ><Badge class={['badge', link.active && !store.settings.linksPaused && 'active']}>{link.badge}</Badge></button
    >
  {/if}
  {#if naming === 'name'}
    <NameEdit value={link.name} label="Name of {link.name}" onname={(name) => set({ name })} onclose={() => (naming = null)} />
  {:else}
    <button class="title" data-hint="Double-click to rename" ondblclick={() => (naming = 'name')}>{link.name}</button>
  {/if}
  <Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={() => set({ active: !link.active })}
    >{link.active ? 'Pause' : 'Take up'}</Button
  >
</header>
<p class="hint">
  {members.length} channel{members.length === 1 ? '' : 's'}. {link.mode === 'alike'
    ? 'What one becomes, the others become.'
    : 'A move of one moves the others by the same difference.'}
  {#if store.settings.linksPaused}All groups are paused now.{:else if !link.active}Paused: offsets made now are kept.{/if}
</p>
{#each twice as { vcaId, held } (vcaId)}
  <p class="twice">
    {store.channel(vcaId)?.name} and {held} that it holds are both in here: a move of 1 dB is heard as 2 dB.
  </p>
{/each}
<h3 class="caps">Moves together</h3>
<div class="attributes">
  {#each ATTRIBUTES as attribute (attribute)}
    <Checkbox
      checked={link.attributes.includes(attribute)}
      onchange={() => turn(attribute)}
      class="font-normal text-[var(--ink)] dark:text-[var(--ink)]">{ATTRIBUTE_WORDS[attribute]}</Checkbox
    >
  {/each}
</div>
<p class="hint small">Automation, cuts, moves and fades are kept for the Timeline.</p>
<div class="how">
  <span class="hint">How</span>
  {#each MODES as [mode, words] (mode)}
    <button class="choice" aria-pressed={link.mode === mode} onclick={() => set({ mode })}>{words}</button>
  {/each}
  <span class="hint">Pause with</span>
  <button
    class="choice keys"
    class:listening
    data-listening={listening ? '' : undefined}
    data-hint="Click, then press the keys; Delete takes them away"
    onclick={() => (listening = !listening)}
    onblur={() => (listening = false)}
    onkeydown={listen}>{listening ? 'press keys' : link.shortcut || 'no keys yet'}</button
  >
</div>
<h3 class="caps">In it</h3>
<ul>
  {#each members as id (id)}
    {@const channel = store.channel(id)}
    {#if channel}
      <MemberRow
        {channel}
        group={link.name}
        level={now.fader(id) ?? channel.faderDb}
        onout={() => store.act([{ do: 'links.members', id: link.id, remove: [id] }])}
      >
        {#if link.attributes.includes('pan')}
          <button class="choice" aria-pressed={mirrored(id)} data-hint="Whether its pan goes the other way" onclick={() => mirror(id)}
            >mirrored</button
          >
        {/if}
      </MemberRow>
    {/if}
  {:else}
    <li class="hint">Nobody yet. Tick channels in its column.</li>
  {/each}
</ul>
<div class="end">
  <Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={() => selection.set(members, members[0] ?? null)}
    >Select all</Button
  >
  <Button size="xs" color="alternative" class="text-[12px] font-medium" onclick={() => store.act([{ do: 'links.remove', ids: [link.id] }])}
    >Remove group</Button
  >
</div>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .title {
    flex: 1;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .hint {
    color: var(--muted);
    font-size: 12px;
  }
  .small {
    margin: 8px 0 0;
    font-size: 11.5px;
  }
  .twice {
    padding: 6px 9px;
    border-left: 3px solid var(--ochre);
    background: color-mix(in oklab, var(--ochre) 9%, var(--sheet));
    font-size: 12px;
  }
  h3 {
    margin: 14px 0 8px;
  }
  .attributes {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 7px 10px;
  }
  .attributes :global(label) {
    gap: 8px;
    font-size: 12.5px;
    font-weight: 400;
  }
  .attributes :global(input) {
    accent-color: var(--kelp);
  }
  .how {
    display: grid;
    grid-template-columns: 76px auto auto 1fr;
    align-items: center;
    gap: 7px;
    margin-top: 12px;
    padding-top: 12px;
    border-top: 1px solid var(--hair);
  }
  .how .hint {
    grid-column: 1;
  }
  .choice {
    padding: 0 7px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 11.5px;
    line-height: 19px;
    white-space: nowrap;
  }
  .choice[aria-pressed='true'] {
    border-color: var(--kelp);
    color: var(--kelp);
    font-weight: 600;
  }
  .keys {
    grid-column: 2 / span 2;
    justify-self: start;
  }
  .listening {
    border-color: var(--kelp);
    color: var(--kelp);
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .end {
    display: flex;
    gap: 8px;
    margin-top: 16px;
  }
</style>

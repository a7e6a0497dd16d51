<!-- What can be done to the selection at once: name, role, colour, level, place, pairs, showing and resting. -->
<script lang="ts">
  import { Button, Input } from 'flowbite-svelte';
  import Menu, { type MenuEntry } from '$lib/ui/Menu.svelte';
  import { COLOUR_NAMES, family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';
  import type { RosterActions } from './actions';

  let { actions, onrename, onsort }: { actions: RosterActions; onrename: () => void; onsort: () => void } = $props();
  const { selection } = useDesk();
  let menu = $state.raw<{ x: number; y: number; entries: MenuEntry[] } | null>(null);
  let ask = $state<'by' | 'peak' | 'loudness' | 'divider' | null>(null);
  let typed = $state('');
  let gradientFrom = $state<number | null>(null);
  let colours = $state(false);

  const open = (event: MouseEvent, entries: MenuEntry[]) => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    menu = { x: box.left, y: box.bottom + 4, entries };
  };
  const QUESTIONS = {
    by: ['Trim by', 'dB', '-3'],
    peak: ['Trim to a peak of', 'dBFS', '-12'],
    loudness: ['Trim to a loudness of', 'LUFS', '-24'],
    divider: ['Divider above the selection', '', '']
  } as const;
  const begin = (what: keyof typeof QUESTIONS) => {
    ask = what;
    typed = QUESTIONS[what][2];
  };
  const answer = () => {
    const number = Number(typed.replace('−', '-').replace(',', '.'));
    if (ask === 'divider') {
      if (!typed.trim()) return;
      actions.divider(typed.trim());
    } else if (ask) {
      if (!typed.trim() || !Number.isFinite(number)) return;
      actions.trim(ask === 'by' ? { by: number } : ask === 'peak' ? { peak: number } : { loudness: number });
    }
    ask = null;
  };
  const pick = (colour: number) => {
    if (gradientFrom === -1) gradientFrom = colour;
    else if (gradientFrom !== null) {
      actions.gradient(gradientFrom, colour);
      gradientFrom = null;
      colours = false;
    } else {
      actions.colour(colour);
      colours = false;
    }
  };
  const focused = (input: HTMLInputElement) => {
    input.focus();
    input.select();
  };
</script>

<div class="bar" role="toolbar" aria-label="Selected rows">
  <strong class="num">{selection.ids.size}</strong>
  <Button color="alternative" onclick={onrename}>Rename…</Button>
  <Button color="alternative" onclick={(event: MouseEvent) => open(event, actions.roleEntries())}>Role</Button>
  <Button color="alternative" aria-expanded={colours} onclick={() => ((colours = !colours), (gradientFrom = null))}>Colour</Button>
  <Button
    color="alternative"
    onclick={(event: MouseEvent) =>
      open(event, [
        { label: 'By so many dB…', run: () => begin('by') },
        { label: 'To a common peak…', run: () => begin('peak') },
        { label: 'To a common loudness…', run: () => begin('loudness') },
        { label: 'Trim back to 0 dB', run: actions.untrim }
      ])}>Trim</Button
  >
  <Button
    color="alternative"
    onclick={(event: MouseEvent) =>
      open(event, [
        { label: 'Pair two mono tracks', run: actions.pair },
        { label: 'Split into left and right', run: actions.split }
      ])}>Pair</Button
  >
  <Button color="alternative" onclick={() => begin('divider')}>Divider</Button>
  <Button color="alternative" data-hint="Out of every view, still heard (h)" onclick={actions.hide}>Hide</Button>
  <Button color="alternative" onclick={actions.rest}>{actions.allRest() ? 'Wake' : 'Rest'}</Button>
  <Button color="alternative" onclick={onsort}>Sort these…</Button>
</div>
{#if colours}
  <div class="colours" role="group" aria-label="Colour">
    {#each COLOUR_NAMES as name, i (name)}
      <button
        data-hint={name}
        aria-label="Colour {name}"
        class:from={gradientFrom === i}
        style:background={family(i)}
        onclick={() => pick(i)}
      ></button>
    {/each}
    <Button color="alternative" aria-pressed={gradientFrom !== null} onclick={() => (gradientFrom = gradientFrom === null ? -1 : null)}
      >{gradientFrom === null ? 'Gradient…' : gradientFrom === -1 ? 'Choose where it begins' : 'Choose where it ends'}</Button
    >
  </div>
{/if}
{#if ask}
  <form
    class="ask"
    onsubmit={(event) => {
      event.preventDefault();
      answer();
    }}
  >
    <label
      >{QUESTIONS[ask][0]}
      <Input
        class={ask === 'divider' ? '' : 'num w-16!'}
        maxlength={120}
        bind:value={typed}
        {@attach focused}
        onkeydown={(event: KeyboardEvent) => {
          event.stopPropagation();
          if (event.key === 'Escape') ask = null;
        }}
      />
      {QUESTIONS[ask][1]}</label
    >
    <Button type="submit">{ask === 'divider' ? 'Set' : 'Trim'}</Button>
    <Button color="alternative" type="button" onclick={() => (ask = null)}>Cancel</Button>
  </form>
{/if}
{#if menu}<Menu {...menu} onclose={() => (menu = null)} />{/if}

<style>
  .bar,
  .colours,
  .ask {
    display: flex;
    align-items: center;
    gap: 6px;
    padding: 5px 12px;
    border-bottom: 1px solid var(--line);
    background: var(--picked);
  }
  strong {
    min-width: 28px;
    font-weight: 600;
  }
  .colours button {
    width: 24px;
    height: 20px;
    border-radius: 5px;
  }
  .from {
    outline: 2px solid var(--ink);
  }
  .ask label {
    display: flex;
    align-items: center;
    gap: 7px;
  }
</style>

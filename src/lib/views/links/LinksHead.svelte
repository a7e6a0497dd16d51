<!-- The head of Links: for each VCA its level, for each link group what it links. -->
<script lang="ts">
  import { Badge } from 'flowbite-svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { followPointer } from '$lib/ui/drag';
  import { dbText, parseDb } from '$lib/ui/format';
  import { dbAt, railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import { rowsBy } from '$core/session/lookup';
  import { heldBy, sounds } from '$core/session/vcas';
  import type { DrawnColumn } from '../ledger/drawnRows.svelte';
  import type { LedgerActions } from '../ledger/actions';
  import { attributeWords } from '../linkWords';
  import { COLUMN, FIXED } from './columns';

  type Props = {
    columns: readonly DrawnColumn[];
    rows: number;
    chosen: string | null;
    actions: LedgerActions;
    onchoose: (id: string) => void;
  };
  let { columns, rows, chosen, actions, onchoose }: Props = $props();
  const { store, now } = useDesk();
  /** A VCA's level, as its lane has it where one plays. */
  const levelOf = (id: string) => now.fader(id) ?? store.session.channel.get(id)!.faderDb;
  const total = $derived(store.channels.filter(sounds).length);

  const heads = $derived.by(() => {
    store.watchGroups();
    return columns.map((column) => {
      const link = store.session.link.get(column.id) ?? null;
      const vca = link ? null : (store.channel(column.id) ?? null);
      const count = link ? rowsBy(store.session, 'linkMember', 'linkId', link.id).length : heldBy(store.session, column.id).length;
      return { ...column, link, vca, count, active: link !== null && link.active && !store.settings.linksPaused };
    });
  });
  const drag = (event: PointerEvent, id: string) => {
    if (event.button !== 0) return;
    event.preventDefault();
    const rail = (event.currentTarget as HTMLElement).parentElement!;
    const hold = actions.grip(id, [id]);
    const [startX, startPlace] = [event.clientX, railAt(levelOf(id))];
    followPointer(event, (moved) => {
      const place = startPlace + ((moved.clientX - startX) / rail.clientWidth) * (moved.shiftKey ? 0.2 : 1);
      const level = dbAt(Math.max(0, Math.min(1, place)));
      actions.faders(hold, Math.abs(level) < 0.25 && !moved.shiftKey ? 0 : Math.round(level * 10) / 10);
    });
  };
</script>

<div class="head" role="row">
  <span class="corner" role="columnheader">{rows === total ? rows : `${rows} of ${total}`} channels</span>
  <span class="corner level" role="columnheader">level</span>
  {#each heads as { id, index, slot, link, vca, count, active } (slot)}
    <div
      class="group"
      class:vca={vca !== null}
      class:chosen={chosen === id}
      role="columnheader"
      style:left="{FIXED + index * COLUMN}px"
      data-moves={vca ? 'level' : undefined}
      data-of={vca ? id : undefined}
    >
      {#if vca}
        {@const level = levelOf(id)}
        <Badge class="badge vca">VCA</Badge>
        <button class="title" data-hint={vca.name} onclick={() => onchoose(id)}>{vca.name}</button>
        <NumberField
          value={level}
          text={dbText(level)}
          label="Fader of {vca.name} in dB"
          parse={parseDb}
          width={52}
          onset={(db) => actions.setFaders([id], db)}
          onnudge={(by, fine) => actions.nudge([id], by * (fine ? 0.1 : 0.5), null)}
          ondefault={() => actions.setFaders([id], 0)}
        />
        <span class="rail"
          ><button
            class="pin"
            tabindex="-1"
            aria-label="Fader of VCA {vca.name}"
            data-hint="{dbText(level)} dB. Drag; Shift for fine."
            style:left="{railAt(level) * 100}%"
            onpointerdown={(event) => drag(event, id)}
            ondblclick={() => actions.setFaders([id], 0)}
          ></button></span
        >
        <small>{count} in it{vca.mute ? ' · muted' : ''}{vca.solo ? ' · soloed' : ''}</small>
      {:else if link}
        <button
          data-hint="{link.active ? 'Pause' : 'Take up'} {link.name}{link.shortcut ? ` (${link.shortcut})` : ''}"
          onclick={() => actions.pauseLink(id)}
          ><Badge class={['badge', active && 'active']}>{link.badge}{active ? '' : ' · paused'}</Badge></button
        >
        <button class="title" data-hint={link.name} onclick={() => onchoose(id)}>{link.name}</button>
        <small data-hint={attributeWords(link.attributes)}>{attributeWords(link.attributes)}</small>
      {/if}
    </div>
  {/each}
</div>

<style>
  .head {
    position: relative;
    height: 128px;
    border-bottom: 1px solid var(--line);
    background: var(--paper);
  }
  .corner {
    position: sticky;
    left: 0;
    z-index: 2;
    float: left;
    width: 240px;
    height: 127px;
    padding: 104px 0 0 14px;
    border-right: 1px solid var(--hair);
    background: var(--paper);
    color: var(--muted);
    font-size: 11.5px;
  }
  .level {
    left: 240px;
    width: 64px;
    padding: 104px 10px 0 0;
    border-right: 1px solid var(--line);
    text-align: right;
  }
  .group {
    position: absolute;
    top: 0;
    display: flex;
    flex-direction: column;
    align-items: flex-start;
    justify-content: flex-end;
    gap: 3px;
    width: 80px;
    height: 127px;
    padding: 6px 7px 7px;
    overflow: hidden;
    border-right: 1px solid var(--hair);
  }
  .group.vca {
    background: color-mix(in oklab, var(--ochre) 5%, var(--sheet));
  }
  .chosen {
    box-shadow: inset 0 -3px 0 var(--kelp);
  }
  .group.vca.chosen {
    box-shadow: inset 0 -3px 0 var(--ochre);
  }
  .title {
    display: -webkit-box;
    max-width: 100%;
    overflow: hidden;
    -webkit-box-orient: vertical;
    line-clamp: 2;
    -webkit-line-clamp: 2;
    font-weight: 700;
    line-height: 16px;
    text-align: left;
    overflow-wrap: anywhere;
  }
  .vca .title {
    line-clamp: 1;
    -webkit-line-clamp: 1;
    letter-spacing: 0.02em;
  }
  small {
    display: -webkit-box;
    max-height: 42px;
    overflow: hidden;
    color: var(--muted);
    font-size: 11px;
    line-height: 14px;
    -webkit-box-orient: vertical;
    line-clamp: 3;
    -webkit-line-clamp: 3;
  }
  .vca :global(button.num),
  .vca :global(input.num) {
    margin-left: -4px;
    text-align: left;
  }
  .rail {
    position: relative;
    width: 62px;
    height: 6px;
    margin: 3px 0 5px;
    border-radius: 3px;
    background: var(--rail);
  }
  .pin {
    position: absolute;
    top: -6px;
    width: 15px;
    height: 18px;
    margin-left: -7.5px;
    cursor: ew-resize;
    touch-action: none;
  }
  .pin::before {
    position: absolute;
    top: 2px;
    left: 6px;
    width: 3px;
    height: 14px;
    border-radius: 1.5px;
    background: var(--ochre);
    content: '';
  }
</style>

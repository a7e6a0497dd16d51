<!-- One row of Links: a channel's name and level, and a tick for each group on screen. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Badge } from 'flowbite-svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { family } from '$lib/ui/colours';
  import { dbText, parseDb } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import type { DrawnColumn } from '../ledger/drawnRows.svelte';
  import type { LedgerActions } from '../ledger/actions';
  import type { Line } from '../ledger/rows';
  import { COLUMN, FIXED, tickOf } from './columns';

  type Props = {
    line: Line;
    top: number;
    columns: readonly DrawnColumn[];
    order: readonly string[];
    actions: LedgerActions;
    /** The group that the sheet shows. */
    chosen: string | null;
  };
  let { line, top, columns, order, actions, chosen }: Props = $props();
  const { store, selection, linking, folding, now } = useDesk();
  const channel = $derived(store.channel(line.id)!);
  const level = $derived(now.level(line.id) ?? store.level(line.id));
  /** What its lane makes of the fader, where one plays. */
  const moving = $derived(now.fader(line.id));
  const fader = $derived(moving ?? channel.faderDb);
  const reached = $derived(linking.reached(line.id) !== null);
  const colour = $derived(channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const cells = $derived.by(() => {
    store.watchGroups();
    return columns.map((column) => {
      const link = store.session.link.get(column.id);
      const member = link && store.session.linkMember.get(`${column.id}\n${line.id}`);
      return {
        ...column,
        tick: tickOf(store.session, line.id, column.id),
        link: link !== undefined,
        active: link !== undefined && link.active && !store.settings.linksPaused,
        mirrored: member?.mirrored ?? false
      };
    });
  });
  let gesture: string | null = null;
  let last = 0;
  const nudge = (by: number) => {
    if (performance.now() - last > 700) gesture = uuid();
    last = performance.now();
    actions.nudge(selection.around(line.id), by, gesture);
  };
</script>

<div
  class="row"
  class:reached
  class:selected={selection.has(line.id)}
  class:vca={channel.kind === 'vca'}
  class:faded={channel.resting}
  role="row"
  aria-level={line.depth + 1}
  aria-selected={selection.has(line.id)}
  data-row={line.id}
  style:top="{top}px"
>
  <div class="name" role="rowheader" style:padding-left="{14 + line.depth * 10}px">
    <i class="band" style:background={colour}></i>
    {#if line.members}
      <button class="fold" tabindex="-1" aria-label="Fold or unfold {channel.name}" onclick={() => folding.turn(line.id)}
        >{line.folded ? '▸' : '▾'}</button
      >
    {/if}
    {#if channel.kind === 'vca'}<Badge class="badge vca">VCA</Badge>{/if}
    <button
      class="label"
      class:summing={channel.kind === 'bus' || channel.kind === 'mix'}
      tabindex="-1"
      onclick={(event) => selection.click(line.id, order, { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey })}
      >{channel.name}</button
    >
    {#if Math.abs(level - fader) > 1e-6}<span class="whole num" data-hint="With its VCAs and what trims it">{dbText(level)}</span>{/if}
  </div>
  <div class="level" class:laned={moving !== null} role="gridcell" data-moves="level" data-of={line.id}>
    <NumberField
      value={fader}
      text={dbText(fader)}
      label="Fader of {channel.name} in dB"
      parse={parseDb}
      width={52}
      onset={(db) => actions.setFaders(selection.around(line.id), db)}
      onnudge={(by, fine) => nudge(by * (fine ? 0.1 : 0.5))}
      ondefault={() => actions.setFaders(selection.around(line.id), 0)}
    />
  </div>
  {#each cells as { id, index, slot, tick, link, active, mirrored } (slot)}
    <div
      class="cell {tick}"
      class:link
      class:active
      class:chosen={chosen === id}
      role="gridcell"
      tabindex="-1"
      aria-label="{channel.name} in {store.session.channel.get(id)?.name ?? store.session.link.get(id)?.name}: {tick === 'in'
        ? 'yes'
        : tick === 'out'
          ? 'no'
          : 'cannot be'}"
      style:left="{FIXED + index * COLUMN}px"
      data-cross="{line.id} {id}"
    >
      {#if tick === 'in'}<i class="mark">{mirrored ? '↔' : ''}</i>{/if}
    </div>
  {/each}
</div>

<style>
  .row {
    position: absolute;
    width: 100%;
    height: 28px;
    contain: layout style;
    border-bottom: 1px solid var(--hair);
    background: var(--paper);
  }
  .row:hover {
    background: color-mix(in oklab, var(--sheet) 60%, var(--paper));
  }
  .row.vca {
    background: color-mix(in oklab, var(--ochre) 5%, var(--sheet));
  }
  .row.selected,
  .row.selected:hover {
    background: var(--picked);
  }
  .row.reached,
  .row.reached:hover {
    background: color-mix(in oklab, var(--kelp) 13%, var(--paper));
  }
  .faded .label {
    color: var(--muted);
    font-style: italic;
  }
  .name {
    position: sticky;
    left: 0;
    z-index: 2;
    display: flex;
    align-items: center;
    gap: 6px;
    width: 240px;
    height: 100%;
    padding-right: 8px;
    border-right: 1px solid var(--hair);
    background: inherit;
  }
  .band {
    position: absolute;
    top: 0;
    bottom: -1px;
    left: 0;
    width: 7px;
  }
  .fold {
    width: 14px;
    color: var(--muted);
    font-size: 10px;
  }
  .label {
    flex: 1;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .summing {
    font-weight: 700;
    letter-spacing: 0.03em;
  }
  .whole {
    color: var(--ochre);
    font-size: 11px;
  }
  .level {
    position: sticky;
    left: 240px;
    z-index: 2;
    width: 64px;
    height: 28px;
    margin-top: -28px;
    padding: 3px 6px 0;
    border-right: 1px solid var(--line);
    background: inherit;
    text-align: right;
  }
  .cell {
    position: absolute;
    top: 0;
    display: grid;
    place-items: center;
    width: 80px;
    height: 27px;
    border-right: 1px solid var(--hair);
    cursor: pointer;
  }
  .cell:hover {
    background: color-mix(in oklab, var(--kelp) 10%, transparent);
  }
  .cell:focus-visible {
    outline: 2px solid var(--kelp);
    outline-offset: -2px;
  }
  .chosen {
    background: color-mix(in oklab, var(--sheet) 45%, transparent);
  }
  .cannot {
    cursor: default;
    background: repeating-linear-gradient(135deg, transparent 0 5px, color-mix(in oklch, var(--line) 45%, transparent) 5px 6px);
  }
  .mark {
    display: grid;
    place-items: center;
    width: 13px;
    height: 13px;
    border-radius: 50%;
    background: var(--ochre);
    color: var(--on-kelp);
    font-size: 10px;
    font-style: normal;
    line-height: 1;
  }
  .link .mark {
    border: 1px dashed var(--kelp);
    border-radius: 3px;
    background: none;
    color: var(--kelp);
  }
  .active .mark {
    border-style: solid;
    background: var(--kelp);
    color: var(--on-kelp);
  }
</style>

<!-- One row of the Roster: what a channel is, where it came from, how loud it arrived, where it goes. -->
<script lang="ts">
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import RoleMark from '$lib/ui/RoleMark.svelte';
  import { colourName, family } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { roleWord, setByHand } from '$core/session/roles';
  import { useDesk } from '$lib/state/desk';
  import type { Audition } from '$lib/state/audition.svelte';
  import Thumb from './Thumb.svelte';
  import type { RosterRow } from './rosterRows';

  type Hooks = {
    readonly onselect: (event: MouseEvent, id: string) => void;
    readonly onmenu: (event: MouseEvent, id: string) => void;
    readonly onroles: (event: MouseEvent, id: string) => void;
    readonly ongrab: (event: PointerEvent, id: string) => void;
  };
  let {
    row,
    top,
    tab,
    dropping,
    dark,
    audition,
    hooks
  }: { row: RosterRow; top: number; tab: boolean; dropping: boolean; dark: boolean; audition: Audition; hooks: Hooks } = $props();
  const { store, selection, linking } = useDesk();
  const channel = $derived(row.channel);
  const colour = $derived(family(channel.colour));
  /** No audio goes through it: it has no sides and goes nowhere in particular. */
  const vca = $derived(channel.kind === 'vca');
  let renaming = $state(false);
  /** The channel whose name is being typed: the row may come to show another. */
  let named = '';

  const begin = () => {
    named = channel.id;
    renaming = true;
  };
  const rename = (name: string) => store.act([{ do: 'channels.rename', names: [{ id: named, name }] }]);
  const KIND = { track: '', bus: 'bus', return: 'return', mix: '', cue: 'cue', key: 'key', vca: 'VCA' } as const;
  const lengthText = (seconds: number) => `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, '0')}`;
  const depth = $derived(row.media ? `${row.media.encoding.slice(1)}${row.media.encoding.startsWith('f') ? ' fl' : ''}` : '');
  const hand = $derived(setByHand(channel, 'name'));
</script>

<div
  class="row"
  class:selected={selection.has(channel.id)}
  class:hidden-row={channel.hidden}
  class:resting={channel.resting}
  class:dropping
  class:reached={linking.reached(channel.id) !== null}
  role="row"
  tabindex="-1"
  aria-selected={selection.has(channel.id)}
  data-row={channel.id}
  style:top="{top}px"
  oncontextmenu={(event) => hooks.onmenu(event, channel.id)}
>
  <span
    class="band"
    role="gridcell"
    data-moves="colour"
    data-of={channel.id}
    aria-label={colourName(channel.colour)}
    data-hint={colourName(channel.colour)}
    style:background={colour}
  ></span>
  <span role="gridcell"><Thumb {row} {colour} {audition} {dark} /></span>
  <span class="name" role="rowheader" tabindex="-1" onpointerdown={(event) => hooks.ongrab(event, channel.id)}>
    {#if renaming}
      <NameEdit value={channel.name} label="Name of {channel.name}" onname={rename} onclose={() => (renaming = false)} />
    {:else}
      <button
        class="label"
        class:bus={channel.kind === 'bus'}
        data-focus={channel.id}
        tabindex={tab ? 0 : -1}
        data-hint={hand ? 'Named by hand: no rule changes it' : undefined}
        onclick={(event) => hooks.onselect(event, channel.id)}
        ondblclick={begin}>{channel.name}</button
      >
    {/if}
    {#if hand}<span class="hand" data-hint="Named by hand: no rule changes it">✎</span>{/if}
    {#if KIND[channel.kind]}<span class="tag">{KIND[channel.kind]}</span>{/if}
    {#if channel.resting}<span class="tag">resting</span>{/if}
    {#if channel.hidden}<span class="tag">hidden</span>{/if}
  </span>
  <span class="file" role="gridcell" data-hint={row.file}>{row.file}</span>
  <span role="gridcell">
    <button
      class="role"
      class:none={!channel.role}
      tabindex="-1"
      aria-label="Role of {channel.name}: {roleWord(channel.role) || 'none'}"
      onclick={(event) => hooks.onroles(event, channel.id)}
    >
      <RoleMark role={channel.role} />{roleWord(channel.role) || '·'}
    </button>
  </span>
  <span class="num" role="gridcell">{row.media ? lengthText(row.seconds) : ''}</span>
  <span class="num" role="gridcell">{row.media ? row.media.rate / 1000 : ''}</span>
  <span class="num" role="gridcell">{depth}</span>
  <span class="num" role="gridcell" data-hint={vca ? undefined : channel.width === 2 ? 'stereo' : 'mono'}>{vca ? '' : channel.width}</span>
  <span class="num" role="gridcell" class:hot={row.peakDb > -0.1}>{row.media ? dbText(row.peakDb) : ''}</span>
  <span class="num" role="gridcell">{row.media ? (row.lufs === null ? (row.media.loudness ? '−∞' : '–') : dbText(row.lufs)) : ''}</span>
  <span class="to" role="gridcell" data-hint={vca ? undefined : row.to}>{vca ? '' : row.to}</span>
</div>

<style>
  .row.reached {
    background: color-mix(in oklab, var(--kelp) 13%, var(--paper));
  }
  .row {
    position: absolute;
    left: 0;
    display: grid;
    grid-template-columns: var(--columns);
    align-items: center;
    width: 100%;
    height: 30px;
    border-bottom: 1px solid var(--hair);
    background: var(--paper);
    contain: strict;
  }
  .row > span {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .row:hover {
    background: color-mix(in oklab, var(--sheet) 60%, var(--paper));
  }
  .selected,
  .selected:hover {
    background: var(--picked);
  }
  .dropping {
    box-shadow: inset 0 2px 0 var(--kelp);
  }
  .band {
    align-self: stretch;
    width: 9px;
    margin: 1px 0 1px 6px;
    border-radius: 3px;
  }
  .row > .name {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 100%;
    padding: 0 8px 0 4px;
    touch-action: none;
  }
  .label {
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .label.bus {
    font-weight: 700;
    letter-spacing: 0.03em;
  }
  .hand {
    color: var(--muted);
    font-size: 11px;
  }
  .tag {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 11px;
  }
  .hidden-row .label,
  .resting .label {
    color: var(--muted);
    font-style: italic;
  }
  .file,
  .to {
    padding-right: 10px;
    color: var(--muted);
  }
  .to {
    padding-left: 14px;
    color: var(--ink);
  }
  .role {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 24px;
    padding: 0 6px;
    border: 1px solid transparent;
    border-radius: 5px;
  }
  .role:hover {
    border-color: var(--line);
  }
  .none {
    color: var(--muted);
  }
  .num {
    font-size: 12.5px;
    text-align: right;
  }
  .hot {
    color: var(--persimmon);
    font-weight: 600;
  }
</style>

<!-- The first cell of a row: the contour bands of the branches it lies in, what kind it is, its name, how many go in, its inserts. -->
<script lang="ts">
  import { processors } from '$core/processors/index';
  import type { Channel } from '$core/session/entities';
  import { useDesk } from '$lib/state/desk';
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import { family } from '$lib/ui/colours';
  import { reductionMark } from '$lib/ui/reductions';
  import { attributeWords, membersOf } from '../linkWords';
  import { heldBy } from '$core/session/vcas';
  import type { Line } from './rows';

  type Props = {
    line: Line;
    channel: Channel;
    heard: { readonly heard: string; readonly why: string };
    order: readonly string[];
    onfold: (id: string) => void;
    ongrab: (event: PointerEvent, id: string) => void;
  };
  let { line, channel, heard, order, onfold, ongrab }: Props = $props();
  const { store, selection } = useDesk();
  const inserts = $derived(store.inserts(line.id));
  const colour = $derived(channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const summing = $derived(channel.kind === 'bus' || channel.kind === 'mix');
  const out = $derived(channel.outputPair === null ? '' : `${channel.outputPair * 2 + 1}–${channel.outputPair * 2 + 2}`);
  /** More than these would leave no room for the name. */
  const MOST_BADGES = 2;
  const groups = $derived(store.linksOf(line.id));
  const held = $derived.by(() => {
    if (channel.kind !== 'vca') return 0;
    store.watchGroups();
    return heldBy(store.session, line.id).length;
  });
  /** What is said of a stem, and of what is not as stems need it. */
  const stem = $derived.by(() => {
    const { flaws, stems } = store.soundness;
    const own = flaws.filter(({ edge, stems: crossed }) => edge.from === line.id || crossed.includes(line.id));
    if (!channel.stem && own.length === 0) return null;
    const title = own.length ? own.map(({ text }) => text).join(' ') : channel.common ? 'A common stem: sound' : 'A stem: sound';
    return { title, bad: own.some(({ code }) => code !== 'split'), split: own.length > 0, stem: channel.stem && stems.length > 0 };
  });
  let renaming = $state(false);

  /** The channel whose name is being typed: the row may come to show another. */
  let named = '';
  const begin = () => {
    named = line.id;
    renaming = true;
  };
  const rename = (name: string) => store.act([{ do: 'channels.rename', names: [{ id: named, name }] }]);
</script>

<div
  class="name"
  class:summing
  class:quiet={!['heard', 'also', 'key'].includes(heard.heard)}
  class:resting={heard.heard === 'resting'}
  class:also={heard.heard === 'also'}
  role="rowheader"
  tabindex="-1"
  style:padding-left="{line.bands.length ? line.bands.length * 11 + 4 : 12}px"
  onpointerdown={(event) => ongrab(event, line.id)}
>
  {#each line.bands as band, i (band.id)}
    <button
      class="band"
      tabindex="-1"
      class:first={band.first}
      class:last={band.last}
      style:left="{i * 11}px"
      style:background={band.mix ? 'color-mix(in oklch, var(--muted) 45%, var(--paper))' : family(band.colour)}
      data-hint="Fold or unfold {store.channel(band.id)?.name}"
      aria-label="Fold or unfold {store.channel(band.id)?.name}"
      onpointerdown={(event) => event.stopPropagation()}
      onclick={() => onfold(band.id)}
    ></button>
  {/each}
  {#if channel.kind === 'return'}<span class="mark" role="img" aria-label="Return" style:border-color={colour} data-hint="Return"
    ></span>{/if}
  {#if channel.kind === 'cue'}<span
      class="mark phones"
      role="img"
      aria-label="Cue"
      style:border-color={colour}
      data-hint="Cue: a headphone mix"
    ></span>{/if}
  {#if channel.kind === 'key' || channel.pattern}<span
      class="mark key"
      role="img"
      aria-label={channel.kind === 'key' ? 'Key track' : 'Plays a pattern'}
      data-hint={channel.kind === 'key' ? 'Key track: heard by key inputs only' : 'Plays a pattern'}
    ></span>{/if}
  {#if stem}<span
      class="stem"
      class:bad={stem.bad}
      class:split={stem.split && !stem.bad}
      class:common={channel.common}
      class:stray={!stem.stem}
      role="img"
      aria-label={stem.title}
      data-hint={stem.title}
    ></span>{/if}
  {#if channel.kind === 'vca'}<span class="badge vca" data-hint="VCA: its fader offsets those of what it holds">VCA</span>{/if}
  {#if renaming}
    <NameEdit value={channel.name} label="Name of {channel.name}" onname={rename} onclose={() => (renaming = false)} />
  {:else}
    <button
      class="label"
      data-focus={line.id}
      tabindex={(selection.last ?? order[0]) === line.id ? 0 : -1}
      onclick={(event) => selection.click(line.id, order, { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey })}
      ondblclick={begin}>{channel.name}</button
    >
  {/if}
  {#if channel.kind === 'vca'}<span class="count num">{held}</span>{/if}
  {#if line.members}<span class="count num">{line.folded ? `▸ ${line.members}` : line.members}</span>{/if}
  {#if out}<span class="out num" data-hint="Interface outputs {out}">{out}</span>{/if}
  {#if heard.heard === 'also'}<span class="out" data-hint={heard.why}>also heard</span>{/if}
  <span class="grow"></span>
  {#each groups.slice(0, MOST_BADGES) as { link, active } (link.id)}
    <button
      class="badge"
      class:active
      tabindex="-1"
      data-hint="{link.name}: {attributeWords(link.attributes)}{active ? '' : ', paused'}. Click to select its members."
      onpointerdown={(event) => event.stopPropagation()}
      onclick={() => selection.set(membersOf(store.session, link.id), line.id)}>{link.badge}</button
    >
  {/each}
  {#if groups.length > MOST_BADGES}<span
      class="badge"
      data-hint={groups
        .slice(MOST_BADGES)
        .map(({ link, active }) => `${link.name}${active ? '' : ', paused'}`)
        .join('; ')}>+{groups.length - MOST_BADGES}</span
    >{/if}
  {#each inserts as insert (insert.id)}
    <span
      class="insert"
      role="img"
      aria-label="{processors[insert.type].title}{insert.bypass ? ', bypassed' : ''}"
      use:reductionMark={insert.id}
      class:hollow={insert.bypass}
      class:starved={store.heard.starved.has(insert.id)}
      data-hint="{processors[insert.type].title}{insert.bypass ? ', bypassed' : ''}{store.heard.starved.has(insert.id)
        ? ': its key is starved by solo'
        : ''}"
    ></span>
  {/each}
</div>

<style>
  .name {
    position: sticky;
    left: 0;
    z-index: 2;
    background: inherit;
    display: flex;
    align-items: center;
    gap: 6px;
    height: 100%;
    padding-right: 10px;
    touch-action: none;
  }
  .band {
    position: absolute;
    top: 0;
    bottom: -1px;
    width: 9px;
  }
  .band.first {
    top: 3px;
    border-top-left-radius: 7px;
  }
  .band.last {
    bottom: 2px;
    border-bottom-left-radius: 7px;
  }
  .label {
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  /* The whole cell selects, however short the name; what has a use of its own lies above. */
  .label::after {
    content: '';
    position: absolute;
    inset: 0;
  }
  .band,
  .mark,
  .stem,
  .count,
  .out,
  .badge,
  .insert {
    z-index: 1;
  }
  .summing > .label {
    font-weight: 700;
    letter-spacing: 0.03em;
  }
  .also > .label {
    text-decoration: underline dotted var(--ochre);
    text-underline-offset: 3px;
  }
  .resting > .label {
    font-style: italic;
  }
  .out {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 10.5px;
    white-space: nowrap;
  }
  .mark {
    width: 10px;
    height: 10px;
    flex: none;
    border: 2px solid;
    border-radius: 2px 2px 6px 6px;
    border-top: none;
  }
  .phones {
    border-radius: 6px 6px 2px 2px;
    border-top: 2px solid;
    border-bottom: none;
  }
  .key {
    border: 2px dotted var(--muted);
    border-radius: 0;
    border-width: 0 0 2px 2px;
  }
  /* Where it crosses into the mix bus: a gate, open downwards where it is common, broken where it is not sound. */
  .stem {
    width: 9px;
    height: 13px;
    flex: none;
    border: solid var(--kelp);
    border-width: 2px 2px 2px 0;
  }
  .stem.common {
    border-bottom-style: none;
  }
  .stem.split {
    border-color: var(--ochre);
  }
  .stem.bad {
    border-color: var(--persimmon);
    border-style: dashed;
  }
  .stem.stray {
    border-width: 0 2px 0 0;
  }
  .count {
    color: var(--muted);
    font-size: 11px;
  }
  .grow {
    flex: 1;
  }
  .insert {
    width: 5px;
    height: 12px;
    flex: none;
    border: 1.5px solid var(--muted);
    border-radius: 2px;
    /* What a compressor takes off hangs from the top. */
    background: linear-gradient(var(--ochre) calc(var(--reduced, 0) * 100%), var(--muted) 0);
  }
  .insert.starved {
    border-color: var(--ochre);
    background: none;
  }
  .insert.hollow {
    background: none;
  }
  .quiet > .label {
    color: var(--muted);
  }
</style>

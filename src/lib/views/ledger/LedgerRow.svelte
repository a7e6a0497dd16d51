<!-- One row: contour bands, name, insert marks, level rail with its pin, typed level, pan, state letters, crosspoints. -->
<script lang="ts">
  import NameEdit from '$lib/ui/NameEdit.svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { family } from '$lib/ui/colours';
  import { processors } from '$core/dsp/params';
  import { dbText, panText, parseDb, parsePan } from '$lib/ui/format';
  import { railCanvas } from '$lib/ui/meters';
  import { followPointer } from '$lib/ui/drag';
  import { dbAt, railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import Crosspoints from './Crosspoints.svelte';
  import type { Crossing } from './crosspoints';
  import type { LedgerActions, Toggle } from './actions';
  import Lane from './Lane.svelte';
  import type { Line } from './rows';

  let {
    line,
    top,
    lane,
    crossing,
    order,
    actions,
    dropping,
    onfold,
    onmenu,
    ongrab
  }: {
    line: Line;
    /** Pixels from the top of the list. */
    top: number;
    /** The return whose column is opened. */
    lane: string | null;
    crossing: Crossing;
    order: readonly string[];
    actions: LedgerActions;
    dropping: boolean;
    onfold: (id: string) => void;
    onmenu: (event: MouseEvent, id: string) => void;
    ongrab: (event: PointerEvent, id: string) => void;
  } = $props();
  const { store, selection } = useDesk();
  const channel = $derived(store.channel(line.id)!);
  const heard = $derived(store.heard.state(line.id));
  const inserts = $derived(store.inserts(line.id));
  const colour = $derived(channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const summing = $derived(channel.kind === 'bus' || channel.kind === 'mix');
  const closed = $derived(channel.kind === 'mix' || channel.kind === 'cue' || channel.kind === 'key');
  const out = $derived(channel.outputPair === null ? '' : `${channel.outputPair * 2 + 1}–${channel.outputPair * 2 + 2}`);
  let renaming = $state(false);
  let rail = $state<HTMLElement>();
  let gesture: string | null = null;
  let lastNudge = 0;

  const targets = () => selection.around(line.id);
  const nudgeGesture = () => {
    if (performance.now() - lastNudge > 700) gesture = crypto.randomUUID();
    lastNudge = performance.now();
    return gesture;
  };

  const drag = (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.preventDefault();
    const width = rail!.clientWidth;
    const anchors = actions.anchors(targets());
    // The row may come to show another channel while this one is dragged, where the list is scrolled meanwhile.
    const { id } = line;
    const startX = event.clientX;
    const startPlace = railAt(channel.faderDb);
    const mine = crypto.randomUUID();
    const move = (moved: PointerEvent) => {
      const place = startPlace + ((moved.clientX - startX) / width) * (moved.shiftKey ? 0.2 : 1);
      const level = dbAt(Math.max(0, Math.min(1, place)));
      actions.faders(anchors, id, Math.abs(level) < 0.25 && !moved.shiftKey ? 0 : Math.round(level * 10) / 10, mine);
    };
    followPointer(event, move);
  };

  /** The channel whose name is being typed: the row may come to show another. */
  let named = '';
  const begin = () => {
    named = line.id;
    renaming = true;
  };
  const rename = (name: string) => store.act([{ do: 'channels.rename', names: [{ id: named, name }] }]);
  const LETTERS: readonly [Toggle, string, string][] = [
    ['mute', 'M', 'Mute'],
    ['solo', 'S', 'Solo'],
    ['soloSafe', 'F', 'Solo-safe']
  ];
</script>

<div
  class="row"
  class:selected={selection.has(line.id)}
  class:summing
  class:faded={heard.heard === 'muted' || heard.heard === 'resting'}
  class:resting={heard.heard === 'resting'}
  class:silent={heard.heard === 'silent' || heard.heard === 'cue'}
  class:dimmed={heard.heard === 'dimmed'}
  class:also={heard.heard === 'also'}
  class:dropping
  role="row"
  tabindex="-1"
  aria-selected={selection.has(line.id)}
  aria-level={line.depth + 1}
  data-row={line.id}
  style:top="{top}px"
  title={heard.why || undefined}
  oncontextmenu={(event) => onmenu(event, line.id)}
>
  <div
    class="name"
    role="rowheader"
    tabindex="-1"
    style:padding-left="{line.bands.length * 11 + 4}px"
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
        title="Fold or unfold {store.channel(band.id)?.name}"
        aria-label="Fold or unfold {store.channel(band.id)?.name}"
        onpointerdown={(event) => event.stopPropagation()}
        onclick={() => onfold(band.id)}
      ></button>
    {/each}
    {#if channel.kind === 'return'}<span class="mark" style:border-color={colour} title="Return"></span>{/if}
    {#if channel.kind === 'cue'}<span class="mark phones" style:border-color={colour} title="Cue: a headphone mix"></span>{/if}
    {#if channel.kind === 'key' || channel.pattern}<span
        class="mark key"
        title={channel.kind === 'key' ? 'Key track: heard by key inputs only' : 'Plays a pattern'}
      ></span>{/if}
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
    {#if line.members}<span class="count num">{line.folded ? `▸ ${line.members}` : line.members}</span>{/if}
    {#if out}<span class="out num" title="Interface outputs {out}">{out}</span>{/if}
    {#if heard.heard === 'also'}<span class="out" title={heard.why}>also heard</span>{/if}
    <span class="grow"></span>
    {#each inserts as insert (insert.id)}
      <span
        class="insert"
        class:hollow={insert.bypass}
        class:starved={store.heard.starved.has(insert.id)}
        title="{processors[insert.type].title}{insert.bypass ? ', bypassed' : ''}{store.heard.starved.has(insert.id)
          ? ': its key is starved by solo'
          : ''}"
      ></span>
    {/each}
  </div>

  <div class="rail" role="gridcell" bind:this={rail}>
    <canvas style:color={colour} use:railCanvas={{ id: line.id, colour }} aria-hidden="true"></canvas>
    <button
      class="pin"
      tabindex="-1"
      style:left="{railAt(channel.faderDb) * 100}%"
      aria-label="Fader of {channel.name}"
      title="{channel.name}: {dbText(channel.faderDb)} dB. Drag; Shift for fine; double-click for unity."
      onpointerdown={drag}
      ondblclick={() => actions.setFaders(targets(), 0)}
    ></button>
  </div>

  <div role="gridcell">
    <NumberField
      value={channel.faderDb}
      text={dbText(channel.faderDb)}
      label="Fader of {channel.name} in dB"
      parse={parseDb}
      width={52}
      onset={(level) => actions.setFaders(targets(), level)}
      onnudge={(by, fine) => actions.nudge(targets(), by * (fine ? 0.1 : 0.5), nudgeGesture())}
      onbirth={() => actions.setFaders(targets(), 0)}
    />
  </div>
  <div role="gridcell" class="pan">
    <span class="track"
      ><span class="tick" style:left="{50 + channel.pan / 2}%"></span>{#if channel.panRight !== null}<span
          class="tick"
          style:left="{50 + channel.panRight / 2}%"
        ></span>{/if}</span
    >
    <NumberField
      value={channel.pan}
      text={channel.panRight === null ? panText(channel.pan) : 'L|R'}
      label="Pan of {channel.name}"
      parse={parsePan}
      width={44}
      dim={channel.pan === 0}
      onset={(pan) => actions.pans(targets(), pan)}
      onnudge={(by, fine) => actions.pans(targets(), channel.pan + by * (fine ? 1 : 5), nudgeGesture())}
      onbirth={() => actions.pans(targets(), 0)}
    />
  </div>
  <div class="letters" role="gridcell">
    {#each LETTERS as [what, letter, word] (what)}
      <button
        class={what}
        class:on={channel[what]}
        tabindex="-1"
        disabled={channel.kind === 'key' || (channel.kind === 'cue' && what !== 'mute')}
        aria-pressed={channel[what]}
        aria-label="{word} {channel.name}"
        title={word}
        onclick={() => actions.toggle(what, [line.id, ...targets().filter((id) => id !== line.id)])}>{letter}</button
      >
    {/each}
  </div>
  {#if lane}<Lane source={line.id} target={lane} />{/if}
  <Crosspoints source={line.id} name={channel.name} {closed} {...crossing} />
</div>

<style>
  .row {
    contain: layout style;
    position: absolute;
    top: 0;
    width: 100%;
    background: var(--paper);
    display: grid;
    grid-template-columns: var(--columns);
    height: 30px;
    align-items: center;
    border-bottom: 1px solid var(--hair);
  }
  .row > div {
    min-width: 0;
  }
  .row:hover {
    background: color-mix(in oklab, var(--sheet) 60%, var(--paper));
  }
  .summing {
    background: var(--sheet);
  }
  .selected,
  .selected:hover {
    background: var(--picked);
  }
  .dropping {
    box-shadow: inset 0 0 0 2px var(--kelp);
  }
  .silent {
    background-image: repeating-linear-gradient(135deg, transparent 0 6px, color-mix(in oklch, var(--line) 55%, transparent) 6px 7px);
  }
  .faded .label,
  .silent .label {
    color: var(--muted);
  }
  .faded .rail canvas,
  .silent .rail canvas {
    opacity: 0.5;
  }
  .dimmed .label {
    color: var(--muted);
  }
  .dimmed .rail canvas {
    opacity: 0.6;
  }
  .also .label {
    text-decoration: underline dotted var(--ochre);
    text-underline-offset: 3px;
  }
  .out {
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 10.5px;
    white-space: nowrap;
  }
  .resting .label {
    font-style: italic;
  }
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
  .summing .label {
    font-weight: 700;
    letter-spacing: 0.03em;
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
    background: var(--muted);
  }
  .insert.starved {
    border-color: var(--ochre);
    background: none;
  }
  .insert.hollow {
    background: none;
  }
  .rail {
    position: relative;
    height: 100%;
    margin: 0 8px 0 4px;
  }
  canvas {
    position: absolute;
    top: 11px;
    left: 0;
    width: 100%;
    height: 8px;
  }
  .pin {
    position: absolute;
    top: 3px;
    width: 18px;
    height: 24px;
    margin-left: -9px;
    cursor: ew-resize;
    touch-action: none;
  }
  .pin::before {
    position: absolute;
    top: 1px;
    left: 4.5px;
    width: 9px;
    height: 9px;
    border-radius: 50%;
    background: var(--ink);
    content: '';
  }
  .pin::after {
    position: absolute;
    top: 4px;
    bottom: 2px;
    left: 8px;
    width: 2.5px;
    border-radius: 1px;
    background: var(--ink);
    content: '';
  }
  .pan {
    display: flex;
    align-items: center;
    gap: 2px;
  }
  .track {
    position: relative;
    width: 30px;
    height: 1.5px;
    flex: none;
    background: var(--line);
  }
  .tick {
    position: absolute;
    top: -5px;
    width: 2.5px;
    height: 11px;
    margin-left: -1px;
    border-radius: 1px;
    background: var(--muted);
  }
  .letters {
    display: flex;
    gap: 3px;
    justify-content: center;
  }
  .letters button {
    width: 20px;
    height: 19px;
    border: 1px solid var(--line);
    border-radius: 5px;
    color: var(--muted);
    font-size: 11px;
    font-weight: 600;
  }
  .letters button:disabled {
    opacity: 0.35;
  }
  .letters .mute.on {
    border-color: var(--ink);
    background: var(--ink);
    color: var(--paper);
  }
  .letters .solo.on {
    border-color: var(--kelp);
    background: var(--kelp);
    color: var(--on-kelp);
  }
  .letters .soloSafe.on {
    border: 1.5px dashed var(--ochre);
    color: var(--ochre);
  }
</style>

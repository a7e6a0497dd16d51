<!-- One row: contour bands, name, insert marks, level rail with its pin, typed level, pan, state letters, crosspoints. -->
<script lang="ts">
  import NumberField from '$lib/ui/NumberField.svelte';
  import { family } from '$lib/ui/colours';
  import { processors } from '$core/dsp/params';
  import { dbText, panText, parseDb, parsePan } from '$lib/ui/format';
  import { railCanvas } from '$lib/ui/meters';
  import { dbAt, railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import Crosspoint from './Crosspoint.svelte';
  import type { LedgerActions, Toggle } from './actions';
  import type { Line } from './rows';

  let {
    line,
    top,
    columns,
    order,
    actions,
    dropping,
    onfold,
    onmenu,
    oncrossmenu,
    ongrab,
    onmove
  }: {
    line: Line;
    /** Pixels from the top of the list. */
    top: number;
    /** The returns whose columns are on screen, with their places. */
    columns: readonly { readonly id: string; readonly index: number }[];
    order: readonly string[];
    actions: LedgerActions;
    dropping: boolean;
    onfold: (id: string) => void;
    onmenu: (event: MouseEvent, id: string) => void;
    oncrossmenu: (event: MouseEvent, source: string, target: string) => void;
    ongrab: (event: PointerEvent, id: string) => void;
    onmove: (source: string, target: string, dx: number, dy: number) => void;
  } = $props();
  const { store, selection } = useDesk();
  const channel = $derived(store.channel(line.id)!);
  const heard = $derived(store.heard.state(line.id));
  const inserts = $derived(store.inserts(line.id));
  const colour = $derived(channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const summing = $derived(channel.kind === 'bus' || channel.kind === 'mix');
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
    const startX = event.clientX;
    const startPlace = railAt(channel.faderDb);
    const mine = crypto.randomUUID();
    const pin = event.currentTarget as HTMLElement;
    pin.setPointerCapture(event.pointerId);
    const move = (moved: PointerEvent) => {
      const place = startPlace + ((moved.clientX - startX) / width) * (moved.shiftKey ? 0.2 : 1);
      const level = dbAt(Math.max(0, Math.min(1, place)));
      actions.faders(anchors, line.id, Math.abs(level) < 0.25 && !moved.shiftKey ? 0 : Math.round(level * 10) / 10, mine);
    };
    const done = () => {
      pin.removeEventListener('pointermove', move);
      pin.removeEventListener('pointerup', done);
      pin.removeEventListener('pointercancel', done);
    };
    pin.addEventListener('pointermove', move);
    pin.addEventListener('pointerup', done);
    pin.addEventListener('pointercancel', done);
  };

  const rename = (text: string) => {
    renaming = false;
    if (text.trim() && text.trim() !== channel.name) store.act([{ do: 'channels.rename', names: [{ id: line.id, name: text.trim() }] }]);
  };
  const focused = (input: HTMLInputElement) => {
    input.focus();
    input.select();
  };
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
  class:faded={heard.heard === 'muted'}
  class:silent={heard.heard === 'silent'}
  class:dropping
  role="row"
  tabindex="-1"
  aria-selected={selection.has(line.id)}
  aria-level={line.depth + 1}
  data-row={line.id}
  style:transform="translateY({top}px)"
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
    {#if renaming}
      <input
        class="field rename"
        value={channel.name}
        aria-label="Name of {channel.name}"
        use:focused
        onpointerdown={(event) => event.stopPropagation()}
        onblur={(event) => renaming && rename(event.currentTarget.value)}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') rename(event.currentTarget.value);
          if (event.key === 'Escape') renaming = false;
        }}
      />
    {:else}
      <button
        class="label"
        data-focus={line.id}
        tabindex={(selection.last ?? order[0]) === line.id ? 0 : -1}
        onclick={(event) => selection.click(line.id, order, { shift: event.shiftKey, toggle: event.ctrlKey || event.metaKey })}
        ondblclick={() => (renaming = true)}>{channel.name}</button
      >
    {/if}
    {#if line.members}<span class="count num">{line.folded ? `▸ ${line.members}` : line.members}</span>{/if}
    <span class="grow"></span>
    {#each inserts as insert (insert.id)}
      <span class="insert" class:hollow={insert.bypass} title="{processors[insert.type].title}{insert.bypass ? ', bypassed' : ''}"></span>
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
    <span class="track"><span class="tick" style:left="{50 + channel.pan / 2}%"></span></span>
    <NumberField
      value={channel.pan}
      text={panText(channel.pan)}
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
        aria-pressed={channel[what]}
        aria-label="{word} {channel.name}"
        title={word}
        onclick={() => actions.toggle(what, [line.id, ...targets().filter((id) => id !== line.id)])}>{letter}</button
      >
    {/each}
  </div>
  {#each columns as { id: target, index } (target)}
    <Crosspoint
      column={index + 6}
      {onmove}
      source={line.id}
      {target}
      colour={family(store.channel(target)?.colour ?? 0)}
      blocked={target === line.id || channel.kind === 'mix'}
      onmenu={oncrossmenu}
    />
  {/each}
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
  .rename {
    width: 100%;
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

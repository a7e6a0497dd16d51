<!-- One row: contour bands, name, insert marks, level rail with its pin, typed level, pan, state letters, crosspoints. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { widthBehind } from '$core/routing/width';
  import { withHeld } from '$core/session/vcas';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { family } from '$lib/ui/colours';
  import { dbText, panText, parseDb, parsePan } from '$lib/ui/format';
  import { railCanvas } from '$lib/ui/meters';
  import { followPointer } from '$lib/ui/drag';
  import { dbAt, railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import Crosspoints from './Crosspoints.svelte';
  import type { Crossing } from './crosspoints';
  import type { LedgerActions, Toggle } from './actions';
  import Lane from './Lane.svelte';
  import RowName from './RowName.svelte';
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
  const { store, selection, linking, now } = useDesk();
  const channel = $derived(store.channel(line.id)!);
  const heard = $derived(store.heard.state(line.id));
  const colour = $derived(channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const pinned = $derived(channel.panRight !== null && widthBehind(channel.width, store.inserts(channel.id)) === 2);
  const vca = $derived(channel.kind === 'vca');
  const level = $derived(now.level(line.id) ?? store.level(line.id));
  /** What its lane makes of the fader, where one plays. */
  const moving = $derived(now.fader(line.id));
  const fader = $derived(moving ?? channel.faderDb);
  const led = $derived(now.pan(line.id));
  const pan = $derived(led ?? channel.pan);
  const right = $derived(now.of({ channelId: line.id, of: 'panRight' }) ?? channel.panRight ?? 0);
  const shut = $derived(now.muted(line.id));
  const reached = $derived(linking.reached(line.id));
  const held = $derived.by(() => {
    if (!vca) return null;
    store.watchGroups();
    return [...withHeld(store.session, [line.id])].filter((id) => id !== line.id);
  });
  const summing = $derived(channel.kind === 'bus' || channel.kind === 'mix');
  const closed = $derived(channel.kind === 'mix' || channel.kind === 'cue' || channel.kind === 'key' || vca);
  let rail = $state<HTMLElement>();
  let gesture: string | null = null;
  let lastNudge = 0;

  const targets = () => selection.around(line.id);
  const nudgeGesture = () => {
    if (performance.now() - lastNudge > 700) gesture = uuid();
    lastNudge = performance.now();
    return gesture;
  };

  const drag = (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.preventDefault();
    const width = rail!.clientWidth;
    const hold = actions.grip(line.id, targets());
    const startX = event.clientX;
    const startPlace = railAt(fader);
    const move = (moved: PointerEvent) => {
      const place = startPlace + ((moved.clientX - startX) / width) * (moved.shiftKey ? 0.2 : 1);
      const level = dbAt(Math.max(0, Math.min(1, place)));
      actions.faders(hold, Math.abs(level) < 0.25 && !moved.shiftKey ? 0 : Math.round(level * 10) / 10);
    };
    followPointer(event, move);
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
  class:vca
  class:reached={reached !== null}
  class:faded={heard.heard === 'muted' || heard.heard === 'resting'}
  class:silent={heard.heard === 'silent' || heard.heard === 'cue'}
  class:dimmed={heard.heard === 'dimmed'}
  class:shut
  class:dropping
  role="row"
  tabindex="-1"
  aria-selected={selection.has(line.id)}
  aria-level={line.depth + 1}
  data-row={line.id}
  style:top="{top}px"
  data-hint={heard.why || undefined}
  oncontextmenu={(event) => onmenu(event, line.id)}
>
  <RowName {line} {channel} {heard} {order} {ongrab} {onfold} />

  <div class="rail" role="gridcell" bind:this={rail}>
    <canvas style:color={colour} use:railCanvas={{ id: line.id, colour, of: held }} aria-hidden="true"></canvas>
    {#if Math.abs(level - fader) > 1e-6}<i class="sled" style:transform="translateX({railAt(level) * 100}%)"
        ><i class="whole" data-hint="With its VCAs and what trims it"></i></i
      >{/if}
    <span class="sled" style:transform="translateX({railAt(fader) * 100}%)"
      ><button
        class="pin"
        tabindex="-1"
        data-moves="level"
        data-of={line.id}
        aria-label="Fader of {channel.name}"
        data-hint="Drag; Shift for fine; double-click for unity"
        onpointerdown={drag}
        ondblclick={() => actions.setFaders(targets(), 0)}
      ></button></span
    >
  </div>

  <div role="gridcell" class="db" class:laned={moving !== null} data-moves="level" data-of={line.id}>
    <NumberField
      value={fader}
      text={dbText(fader)}
      label="Fader of {channel.name} in dB"
      parse={parseDb}
      width={52}
      onset={(level) => actions.setFaders(targets(), level)}
      onnudge={(by, fine) => actions.nudge(targets(), by * (fine ? 0.1 : 0.5), nudgeGesture())}
      ondefault={() => actions.setFaders(targets(), 0)}
    />
  </div>
  <div role="gridcell" class="pan" class:laned={led !== null} data-moves="pan" data-of={line.id}>
    {#if !vca}<span class="track"
        ><span class="tick" style:left="{50 + pan / 2}%"></span>{#if pinned && channel.panRight !== null}<span
            class="tick"
            style:left="{50 + right / 2}%"
          ></span>{/if}</span
      >
      <NumberField
        value={pan}
        text={pinned ? 'L|R' : panText(pan)}
        label="Pan of {channel.name}"
        parse={parsePan}
        width={44}
        dim={pan === 0}
        onset={(to) => actions.pans(targets(), to)}
        onnudge={(by, fine) => actions.panBy(targets(), by * (fine ? 1 : 5), nudgeGesture())}
        ondefault={() => actions.pans(targets(), 0)}
      />{/if}
  </div>
  <div class="letters" role="gridcell">
    {#each LETTERS as [what, letter, word] (what)}
      <button
        class={what}
        class:on={channel[what]}
        tabindex="-1"
        data-moves={what === 'soloSafe' ? undefined : what}
        data-of={line.id}
        disabled={channel.kind === 'key' || (vca && what === 'soloSafe') || (channel.kind === 'cue' && what !== 'mute')}
        aria-pressed={channel[what]}
        aria-label="{word} {channel.name}"
        data-hint={word}
        onclick={() => actions.toggle(what, [line.id, ...targets().filter((id) => id !== line.id)])}>{letter}</button
      >
    {/each}
  </div>
  {#if lane}<Lane source={line.id} target={lane} />{/if}
  <Crosspoints source={line.id} name={channel.name} {closed} {...crossing} />
</div>

<style>
  .shut .rail {
    background: repeating-linear-gradient(135deg, transparent 0 5px, var(--line) 5px 6px);
  }
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
  .vca {
    background: color-mix(in oklab, var(--ochre) 5%, var(--sheet));
  }
  .reached,
  .reached:hover {
    background: color-mix(in oklab, var(--kelp) 13%, var(--paper));
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
  .faded .rail canvas,
  .silent .rail canvas {
    opacity: 0.5;
  }
  .dimmed .rail canvas {
    opacity: 0.6;
  }
  /* What moves with a fader is laid out and painted by itself: a linked move moves many rows in one frame. */
  .rail,
  .db {
    contain: layout size style;
    height: 100%;
  }
  .db {
    padding-top: 4px;
  }
  .rail {
    position: relative;
    margin: 0 8px 0 4px;
  }
  canvas {
    position: absolute;
    top: 11px;
    left: 0;
    width: 100%;
    height: 8px;
  }
  /* As wide as the rail: moved by a share of itself, which needs no layout. */
  .sled {
    position: absolute;
    inset: 0;
    will-change: transform;
    pointer-events: none;
  }
  .pin {
    position: absolute;
    left: 0;
    pointer-events: auto;
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
  /* The level with all VCAs above it. */
  .whole {
    position: absolute;
    left: 0;
    top: 5px;
    height: 20px;
    margin-left: -1px;
    border-left: 2px dashed var(--ochre);
    pointer-events: none;
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

<!-- One row of an opened column: its send as a fader, for riding one return across all channels. -->
<script lang="ts">
  import { hair } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { sendId } from '$core/session/entities';
  import { grip, moveOn } from '$lib/state/gestures';
  import { followPointer } from '$lib/ui/drag';
  import { dbAt, railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import { arrivalHair } from './arrivals';

  let { source, target }: { source: string; target: string } = $props();
  const { store, selection, now } = useDesk();
  const send = $derived(store.send(source, target));
  const kind = $derived(store.channel(source)?.kind);
  const closed = $derived(source === target || kind === 'mix' || kind === 'cue' || kind === 'key' || kind === 'vca');
  const colour = $derived(hair(store.channel(target)?.colour ?? 0));
  const level = $derived(now.send(source, target) ?? send?.levelDb ?? -Infinity);
  let rail = $state<HTMLElement>();

  const sources = () => selection.around(source).filter((id) => id !== target && store.session.channel.get(id)?.kind !== 'mix');
  const levelOf = (id: string) => {
    const row = store.session.send.get(sendId(id, target));
    return { level: now.send(id, target) ?? row?.levelDb ?? -Infinity, last: row?.lastDb ?? null };
  };
  /** The sends of these channels that can be moved by a difference: the one under the hand has a level, and so have they. */
  const movable = () => sources().filter((id) => store.session.send.has(sendId(id, target)));
  /** Selected rows, and what is linked to them, move by the same difference from where the gesture began. */
  const drag = (event: PointerEvent) => {
    if (event.button !== 0) return;
    event.preventDefault();
    const width = rail!.clientWidth;
    const ids = sources();
    const hold = grip(store.session, source, movable(), 'sendLevel', levelOf);
    const raised = levelOf(source).level > -Infinity;
    const [startX, startPlace] = [event.clientX, railAt(levelOf(source).level)];
    const move = (moved: PointerEvent) => {
      const place = Math.max(0, Math.min(1, startPlace + ((moved.clientX - startX) / width) * (moved.shiftKey ? 0.2 : 1)));
      const level = Math.round(dbAt(place) * 10) / 10;
      if (raised) store.act([{ do: 'sends.move', target, ...moveOn(hold, level) }], hold.name);
      else store.act([{ do: 'sends.set', sends: ids.map((id) => ({ source: id, target, level })) }], hold.name);
    };
    followPointer(event, move);
  };
  const onkeydown = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 0.1 : 0.5;
    const begun = by > 0 ? sources().filter((id) => levelOf(id).level === -Infinity) : [];
    const moving = movable().filter((id) => levelOf(id).level > -Infinity);
    store.act([
      ...(begun.length ? [{ do: 'sends.set' as const, sends: begun.map((id) => ({ source: id, target, level: -60 })) }] : []),
      ...(moving.length ? [{ do: 'sends.move' as const, ids: moving, target, by: by * step }] : [])
    ]);
  };
</script>

<div class="lane" role="gridcell" data-moves="sendLevel" data-of={source} data-into={target}>
  {#if !closed}
    <div class="rail" bind:this={rail}>
      <span class="groove"></span>
      <span class="unity" style:left="{railAt(0) * 100}%"></span>
      <span
        class="hair"
        class:off={send && !send.on}
        style:width="{railAt(level) * 100}%"
        style:--of={colour}
        use:arrivalHair={() => [source, target]}
      ></span>
      <button
        class="pin"
        role="slider"
        aria-label="Send of {store.channel(source)?.name} to {store.channel(target)?.name}"
        aria-valuemin={-120}
        aria-valuemax={12}
        aria-valuenow={level > -Infinity ? level : -120}
        aria-valuetext="{dbText(level)} dB"
        data-hint="{dbText(level)} dB. Drag; Shift for fine; double-click for −∞."
        style:left="{railAt(level) * 100}%"
        onpointerdown={drag}
        ondblclick={() =>
          send && store.act([{ do: 'sends.set', sends: sources().map((id) => ({ source: id, target, level: -Infinity })) }])}
        {onkeydown}
      ></button>
    </div>
    <span class="num" class:dim={!send}>{dbText(level)}</span>
  {/if}
</div>

<style>
  .lane {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 46px;
    height: 100%;
    margin: 0 6px 0 10px;
    align-items: center;
  }
  .rail {
    position: relative;
    height: 100%;
  }
  .num {
    font-size: 12px;
    text-align: right;
  }
  .dim {
    color: var(--muted);
    opacity: 0.6;
  }
  .groove,
  .hair {
    position: absolute;
    top: 13px;
    left: 0;
    height: 4px;
    border-radius: 2px;
  }
  .groove {
    width: 100%;
    background: var(--rail);
  }
  .hair {
    background: var(--of);
  }
  .off {
    opacity: 0.35;
  }
  .unity {
    position: absolute;
    top: 8px;
    width: 1px;
    height: 14px;
    background: var(--line);
  }
  .pin {
    position: absolute;
    top: 5px;
    width: 14px;
    height: 20px;
    margin-left: -7px;
    cursor: ew-resize;
    touch-action: none;
  }
  .pin::before {
    position: absolute;
    top: 3px;
    left: 5px;
    width: 4px;
    height: 14px;
    border-radius: 2px;
    background: var(--ink);
    content: '';
  }
</style>

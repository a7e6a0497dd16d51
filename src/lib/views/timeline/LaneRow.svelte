<!-- A lane beneath its row: what it is of, whether it plays, its value at the playhead, and its course with points to drag and to draw. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { snapped } from '$core/clips/snap';
  import { laneTitle } from '$core/lanes/kinds';
  import { restingValue } from '$core/lanes/resting';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { followPointer } from '$lib/ui/drag';
  import type { Edits } from './edits.svelte';
  import { valueAtHeight, valueText } from './laneScale';
  import type { Lanes } from './lanes.svelte';
  import PlaysButton from './PlaysButton.svelte';
  import { fitted, paintsOf, type Paints } from './canvas';
  import { EDGE, paintLane, yOf } from './paintLane';
  import type { TimeSpan } from './span.svelte';

  type Props = {
    id: string;
    top: number;
    height: number;
    span: TimeSpan;
    grid: readonly number[];
    lanes: Lanes;
    edits: Edits;
    dark: boolean;
  };
  let { id, top, height, span, grid, lanes, edits, dark }: Props = $props();
  const { store, selection, transport } = useDesk();
  const NEAR = 8;
  let canvas = $state<HTMLCanvasElement>();
  let stroke = $state.raw<readonly { readonly at: number; readonly value: number }[]>([]);
  const lane = $derived(store.lane(id));
  const channel = $derived(lane && store.channel(lane.channelId));
  const kind = $derived(lane && lanes.kind(lane));
  const points = $derived(store.points(id));
  const colour = $derived(!channel || channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour));
  const mine = $derived(lanes.chosen === id);
  const now = $derived(lane ? lanes.now(lane) : null);
  const own = $derived(height);
  const NOTHING: ReadonlySet<number> = new Set();

  let paints: Paints | null = null;
  $effect(() => {
    void [dark, colour];
    if (canvas) paints = paintsOf(canvas, '--sheet');
  });
  $effect(() => {
    void [dark, colour];
    const { from, perPixel, width } = span;
    if (!canvas || !paints || !lane || !kind) return;
    const scale = fitted(canvas, width, own - 1);
    paintLane(canvas, {
      ...{ from, perPixel, width, height: own - 1, scale, grid, kind, points, stroke, paints },
      plays: lane.plays,
      resting: restingValue(store.session, lane),
      chosen: mine ? lanes.points : NOTHING,
      range: edits.range && selection.has(lane.channelId) ? edits.range : null
    });
  });

  const place = (event: PointerEvent | MouseEvent) => {
    const box = canvas!.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const brought = (frame: number, free: boolean) =>
    Math.max(0, snapped(store.session, free ? 'off' : edits.snap, Math.round(frame), transport.position));
  const valueAtY = (y: number) => valueAtHeight(kind!, (own - 1 - EDGE - y) / (own - 1 - 2 * EDGE));
  const pointNear = ({ x, y }: { x: number; y: number }) =>
    points
      .filter(({ at }) => Math.abs(span.xOf(at) - x) <= NEAR)
      .map((point) => ({ point, off: Math.hypot(span.xOf(point.at) - x, yOf(kind!, point.value, own - 1) - y) }))
      .sort((a, b) => a.off - b.off)
      .find(({ off }) => off <= NEAR + 2)?.point;

  const dragPoints = (event: PointerEvent, grabbed: number) => {
    const gesture = uuid();
    const index = points.findIndex(({ at }) => at === grabbed);
    const began = points[index];
    const from = place(event);
    let moved = false;
    followPointer(event, (pointer) => {
      const here = place(pointer);
      if (!moved && Math.hypot(here.x - from.x, here.y - from.y) < 3) return;
      moved = true;
      const present = store.points(id)[index];
      if (!present) return;
      const to = brought(began.at + (here.x - from.x) * span.perPixel, pointer.altKey || edits.snap === 'playhead');
      // Straight up or down it stays where it is in time.
      const by = Math.abs(here.x - from.x) < 4 ? began.at - present.at : to - present.at;
      const value = valueAtY(yOf(kind!, began.value, own - 1) + here.y - from.y);
      const level = present.value === -Infinity || value === -Infinity;
      if (level && value !== present.value) {
        store.act([{ do: 'points.set', lane: id, points: [{ at: present.at, value }] }], gesture);
        if (by) lanes.move(by, 0, gesture);
        return;
      }
      const add = value === present.value ? 0 : kind!.scale === 'ratio' ? (value / present.value - 1) * 100 : value - present.value;
      if (kind!.scale === 'steps' && value !== present.value)
        store.act([{ do: 'points.set', lane: id, points: [{ at: present.at, value, shape: 'hold' }] }], gesture);
      if (by || add) lanes.move(by, add, gesture);
    });
  };
  const press = (event: PointerEvent) => {
    if (event.button !== 0 || !kind || !lane) return;
    event.stopPropagation();
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    const from = place(event);
    const found = pointNear(from);
    if (found) {
      const toggle = event.ctrlKey || event.metaKey || event.shiftKey;
      if (toggle) lanes.choose(id, mine ? [...lanes.points, found.at] : [found.at]);
      else if (!mine || !lanes.points.has(found.at)) lanes.choose(id, [found.at]);
      return dragPoints(event, found.at);
    }
    const drawn: { at: number; value: number }[] = [];
    let reached = from.x;
    followPointer(
      event,
      (pointer) => {
        const here = place(pointer);
        if (event.shiftKey) {
          const [low, high] = [Math.min(from.x, here.x), Math.max(from.x, here.x)].map((x) => span.frameAt(x));
          return lanes.choose(
            id,
            points.flatMap(({ at }) => (at >= low && at <= high ? [at] : []))
          );
        }
        if (drawn.length === 0 && Math.abs(here.x - from.x) < 5) return;
        if (drawn.length === 0) drawn.push({ at: Math.max(0, Math.round(span.frameAt(from.x))), value: valueAtY(from.y) });
        // Only onwards: what was drawn is not drawn over.
        if (here.x <= reached) return;
        reached = here.x;
        drawn.push({ at: Math.max(drawn.at(-1)!.at + 1, Math.round(span.frameAt(here.x))), value: valueAtY(here.y) });
        stroke = [...drawn];
      },
      (last) => {
        stroke = [];
        if (last.type !== 'pointerup' || event.shiftKey) return void lanes.choose(id, lanes.points);
        if (drawn.length > 1) lanes.draw(id, drawn);
        else lanes.add(id, brought(span.frameAt(from.x), event.altKey), valueAtY(from.y));
      }
    );
  };
  const fine = (by: 1 | -1) =>
    kind!.scale === 'ratio' ? by * 3 : kind!.scale === 'level' ? by * 0.5 : ((kind!.max - kind!.min) / 100) * by;
  const onkeydown = (event: KeyboardEvent) => {
    const ms = Math.round(store.settings.rate / 1000);
    const acts: Record<string, () => void> = {
      ArrowLeft: () => (event.altKey ? lanes.move(-1, 0) : event.shiftKey ? lanes.move(-ms, 0) : lanes.step(-1)),
      ArrowRight: () => (event.altKey ? lanes.move(1, 0) : event.shiftKey ? lanes.move(ms, 0) : lanes.step(1)),
      ArrowUp: () => lanes.move(0, fine(1) * (event.shiftKey ? 0.2 : 1)),
      ArrowDown: () => lanes.move(0, fine(-1) * (event.shiftKey ? 0.2 : 1)),
      Delete: lanes.remove,
      Backspace: lanes.remove,
      Enter: lanes.addAtPlayhead,
      h: () => lanes.shape('hold'),
      l: () => lanes.shape('linear'),
      e: () => lanes.shape('eased')
    };
    const run = acts[event.key];
    if (!run || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    if (!mine) lanes.choose(id);
    run();
  };
</script>

{#if lane && channel && kind}
  <div class="row" class:mine class:off={!lane.plays} role="row" data-lane-row={id} style:top="{top}px" style:height="{height}px">
    <div class="name" role="rowheader" style:padding-left="26px">
      <i class="band" style:background={colour}></i>
      <button class="label" tabindex="-1" data-hint="{laneTitle(store.session, lane)} of {channel.name}" onclick={() => lanes.choose(id)}
        >{channel.kind === 'vca' ? `${channel.name}: ` : ''}{laneTitle(store.session, lane)}</button
      >
      <PlaysButton {lane} {lanes} />
      <span class="num value">{now === null ? '' : valueText(kind, now)}</span>
    </div>
    <div
      class="course"
      role="gridcell"
      tabindex="0"
      aria-label="{laneTitle(store.session, lane)} of {channel.name}: {points.length} point{points.length === 1 ? '' : 's'}"
      data-points={id}
      onpointerdown={press}
      onfocus={() => lanes.chosen !== id && lanes.choose(id)}
      {onkeydown}
    >
      <canvas bind:this={canvas} style:color={colour}></canvas>
    </div>
  </div>
{/if}

<style>
  .row {
    position: absolute;
    display: grid;
    grid-template-columns: var(--names) minmax(0, 1fr);
    width: 100%;
    contain: layout style;
    border-bottom: 1px solid var(--hair);
    background: var(--sheet);
  }
  .name {
    position: relative;
    display: flex;
    align-items: center;
    gap: 6px;
    min-width: 0;
    padding-right: 8px;
    border-right: 1px solid var(--line);
    color: var(--muted);
    font-size: 12.5px;
  }
  .mine .name {
    background: var(--picked);
    color: var(--ink);
  }
  .band {
    position: absolute;
    inset: 0 auto 0 0;
    width: 8px;
    opacity: 0.5;
  }
  .label {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .value {
    min-width: 38px;
    text-align: right;
    font-size: 11.5px;
  }
  .course {
    position: relative;
    min-width: 0;
    overflow: hidden;
    cursor: crosshair;
    outline-offset: -2px;
    touch-action: pan-y;
  }
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
</style>

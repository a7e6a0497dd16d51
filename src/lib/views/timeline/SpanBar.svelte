<!-- Which part of the song is on screen: dragged along, paged by a press beside it, and by the arrows. -->
<script lang="ts">
  import { followPointer } from '$lib/ui/drag';
  import type { TimeSpan } from './span.svelte';

  let { span }: { span: TimeSpan } = $props();
  let room = $state(1);
  const seen = $derived(span.width * span.perPixel);
  const left = $derived((span.from / span.whole) * room);
  const wide = $derived(Math.max(18, (seen / span.whole) * room));
  const press = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const at = event.clientX - box.left;
    const from = span.from;
    if (at < left || at > left + wide) return span.move(Math.sign(at - left) * span.width * 0.9);
    followPointer(event, (pointer) => span.to(from + ((pointer.clientX - event.clientX) / room) * span.whole));
  };
  const onkeydown = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    span.move(by * span.width * 0.2);
  };
</script>

<div
  class="bar"
  role="scrollbar"
  tabindex="0"
  aria-orientation="horizontal"
  aria-controls="timeline-rows"
  aria-label="Part of the song on screen"
  aria-valuemin="0"
  aria-valuemax="100"
  aria-valuenow={Math.round((span.from / span.whole) * 100)}
  bind:clientWidth={room}
  onpointerdown={press}
  {onkeydown}
>
  <span style:left="{left}px" style:width="{wide}px"></span>
</div>

<style>
  .bar {
    position: relative;
    height: 12px;
    margin-left: var(--names);
    border-top: 1px solid var(--hair);
    touch-action: none;
  }
  span {
    position: absolute;
    top: 3px;
    height: 6px;
    border-radius: 3px;
    background: var(--line);
  }
  .bar:hover span {
    background: var(--muted);
  }
</style>

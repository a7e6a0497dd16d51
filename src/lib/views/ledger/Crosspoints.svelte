<!-- The crosspoints of one row: level, tap and on/off of each send on screen. All are only shown, but the one under the pointer or
     the keyboard, which can be worked on: thousands of them scroll past. -->
<script lang="ts">
  import { tick } from 'svelte';
  import { hair } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import { arrivalHair } from './arrivals';
  import Crosspoint from './Crosspoint.svelte';
  import type { Crossing } from './crosspoints';

  let {
    source,
    name,
    closed,
    count,
    columns,
    block,
    onmove,
    onmenu,
    onclip
  }: Crossing & { source: string; name: string; closed: boolean } = $props();
  const { store, linking, now } = useDesk();
  const into = $derived(linking.reached(source)?.target ?? null);
  /** The return whose crosspoint is worked on. */
  let live = $state.raw<string | null>(null);

  const enliven = async (event: Event, target: string) => {
    const cell = event.currentTarget as HTMLElement;
    if (live === target) return;
    const focused = cell.contains(document.activeElement);
    // What is being typed in one crosspoint is not taken away by a pointer that passes over another.
    if (!focused && cell.parentElement?.querySelector('.cell:focus-within input')) return;
    live = target;
    await tick();
    if (focused && (document.activeElement === cell || !cell.contains(document.activeElement)))
      cell.querySelector<HTMLElement>('button.num')?.focus({ preventScroll: true });
  };
  const rest = (cell: HTMLElement, target: string) => {
    if (live === target && !cell.contains(document.activeElement)) live = null;
  };
</script>

{#each columns as { id: target, index, slot } (slot)}
  {@const send = store.send(source, target)}
  {@const moving = send ? now.send(source, target) : null}
  {@const level = moving ?? send?.levelDb ?? -Infinity}
  {@const blocked = closed || target === source}
  {@const shown = !blocked && live !== target}
  <!-- One element while it is only shown: the tap is drawn before it, the level as a hair along its lower edge. -->
  <div
    class="cell num {shown && send ? send.tap : ''}"
    class:off={send && !send.on}
    class:dim={!send || level === -Infinity}
    class:laned={moving !== null}
    class:mono={send?.mono}
    class:reached={into === target}
    data-moves={blocked ? undefined : 'sendLevel'}
    data-of={source}
    data-into={target}
    class:picked={!blocked && block.has(source, target)}
    role="gridcell"
    aria-label={blocked ? undefined : `Send of ${name} to ${store.channel(target)?.name}: ${send ? dbText(level) : 'none'}`}
    tabindex={shown ? 0 : -1}
    style:right="{(count - 1 - index) * 66 + 8}px"
    style:--of={send && hair(store.channel(target)?.colour ?? 0)}
    style:--to={send && `${railAt(level) * 100}%`}
    data-cross="{source} {target}"
    use:arrivalHair={() => [source, target]}
    onpointerdowncapture={(event) => {
      if (blocked || event.button !== 0) return;
      if (!event.shiftKey) return event.detail === 1 && block.start({ source, target });
      block.extend({ source, target }, { source, target });
      event.preventDefault();
      event.stopPropagation();
    }}
    onpointerover={(event) => blocked || void enliven(event, target)}
    onpointerout={(event) => event.currentTarget.contains(event.relatedTarget as Node | null) || rest(event.currentTarget, target)}
    onfocusin={(event) => blocked || void enliven(event, target)}
    onfocusout={({ currentTarget }) => setTimeout(() => rest(currentTarget, target))}
    oncontextmenu={(event) => !blocked && onmenu(event, source, target)}
  >
    {#if shown}{send ? dbText(level) : '·'}{:else if !blocked}<Crosspoint {source} {target} {block} {onmove} {onclip} />{/if}
  </div>
{/each}

<style>
  .cell {
    position: absolute;
    top: 0;
    width: 66px;
    height: 29px;
    contain: strict;
    padding-right: 6px;
    border-left: 1px solid var(--hair);
    background: linear-gradient(var(--of, transparent), var(--of, transparent)) 0 100% / var(--to, 0) 3px no-repeat;
    font-size: 12.5px;
    line-height: 29px;
    text-align: right;
  }
  .cell:focus-within {
    outline: 2px solid var(--kelp);
    outline-offset: -2px;
  }
  .cell :global(button:focus-visible),
  .cell :global(input:focus-visible) {
    outline: none;
  }
  .cell > :global(span) {
    position: absolute;
    top: 3px;
    right: 2px;
    line-height: 22px;
  }
  .picked {
    background-color: var(--picked);
  }
  .reached {
    box-shadow: inset 0 0 0 1.5px var(--kelp);
  }
  .dim {
    color: var(--muted);
  }
  .off {
    color: var(--muted);
    text-decoration: line-through;
    background-image: linear-gradient(
      color-mix(in oklab, var(--of, transparent) 25%, transparent),
      color-mix(in oklab, var(--of, transparent) 25%, transparent)
    );
  }
  .mono::after {
    position: absolute;
    top: 1px;
    left: 18px;
    color: var(--muted);
    content: '1';
    font-size: 9px;
    line-height: 1;
  }
  .cell :global(.tap) {
    position: absolute;
    left: 3px;
    display: block;
    width: 14px;
    height: 29px;
    color: var(--muted);
  }
  .cell :global(.tap:hover) {
    color: var(--kelp);
  }
  /* The tap as TapGlyph draws it, in one element: a stroke for the fader, a dot before or after it. */
  .post::before,
  .pre::before,
  .input::before,
  .cell :global(.glyph) {
    position: absolute;
    top: 9px;
    left: 3px;
    display: block;
    width: 14px;
    height: 12px;
    background:
      radial-gradient(circle at var(--dot) 6px, var(--muted) 1.9px, transparent 2.3px),
      linear-gradient(var(--muted), var(--muted)) var(--stroke) 1px / 1.4px 10px no-repeat;
    content: '';
  }
  .cell :global(.glyph) {
    left: 0;
  }
  .post,
  .cell :global(.glyph.post) {
    --dot: 11px;
    --stroke: 6.3px;
  }
  .pre,
  .cell :global(.glyph.pre) {
    --dot: 3px;
    --stroke: 6.3px;
  }
  .input,
  .cell :global(.glyph.input) {
    --dot: 2.5px;
    --stroke: 5.8px;
  }
  .input::before,
  .cell :global(.glyph.input) {
    width: 10.2px;
    border-right: 1.4px solid var(--muted);
  }
</style>

<!-- The crosspoint that is being worked on: its tap, its level to type, drag and nudge. The others are only shown (Crosspoints). -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { sendId, type Tap } from '$core/session/entities';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { dbText, parseDb } from '$lib/ui/format';
  import { isPress, pressed } from '$lib/ui/keys';
  import { useDesk } from '$lib/state/desk';
  import { SAID, type Crossing } from './crosspoints';

  let { source, target, block, onmove, onclip }: { source: string; target: string } & Pick<Crossing, 'block' | 'onmove' | 'onclip'> =
    $props();
  const { store, selection, now } = useDesk();
  const send = $derived(store.send(source, target));
  const level = $derived(now.send(source, target) ?? send?.levelDb ?? -Infinity);
  const names = $derived(`Send of ${store.channel(source)?.name} to ${store.channel(target)?.name}`);
  const NEXT: Record<Tap, Tap> = { post: 'pre', pre: 'input', input: 'post' };
  let gesture: string | null = null;
  let last = 0;

  /** The crosspoints a change acts on: this column, in every selected row where this row is selected. */
  const sources = () =>
    selection
      .around(source)
      .filter((id) => id !== target && !['mix', 'cue', 'key', 'vca'].includes(store.session.channel.get(id)?.kind ?? ''));
  const cells = () => (block.has(source, target) ? block.cells() : sources().map((id) => ({ source: id, target })));
  const set = (fields: { level?: number; tap?: Tap; on?: boolean; mono?: boolean; pan?: number | null }) =>
    store.act([{ do: 'sends.set', sends: cells().map((cell) => ({ ...cell, ...fields })) }]);
  const nudge = (by: 1 | -1, fine: boolean) => {
    if (performance.now() - last > 700) gesture = uuid();
    last = performance.now();
    const step = by * (fine ? 0.1 : 0.5);
    const levelOf = (cell: { source: string; target: string }) => store.session.send.get(sendId(cell.source, cell.target))?.levelDb;
    // What is at −∞ begins at the low end of what is heard; what is not there yet stays so, but for the one under the hand.
    const begun = cells().filter((cell) => {
      const level = levelOf(cell);
      return level === undefined ? cell.source === source && cell.target === target : level === -Infinity && by > 0;
    });
    const moving = cells().filter((cell) => (levelOf(cell) ?? -Infinity) > -Infinity);
    store.act(
      [
        ...(begun.length ? [{ do: 'sends.set' as const, sends: begun.map((cell) => ({ ...cell, level: -60 })) }] : []),
        ...[...new Set(moving.map((cell) => cell.target))].map((into) => ({
          do: 'sends.move' as const,
          ids: moving.filter((cell) => cell.target === into).map((cell) => cell.source),
          target: into,
          by: step
        }))
      ],
      gesture
    );
  };
  const remove = () => {
    const there = cells().filter((cell) => store.session.send.has(`${cell.source}\n${cell.target}`));
    const targets = [...new Set(there.map((cell) => cell.target))];
    store.act(
      targets.map((to) => ({
        do: 'sends.remove' as const,
        sources: there.filter((cell) => cell.target === to).map((cell) => cell.source),
        target: to
      }))
    );
  };
  const STEPS: Record<string, readonly [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  /** Before the number sees the key: arrows go from cell to cell, with Ctrl they nudge; Enter and Tab go on after typing. */
  const oncapture = (event: KeyboardEvent) => {
    const typing = (event.target as HTMLElement).tagName === 'INPUT';
    const step = STEPS[event.key];
    if (typing) {
      if (event.key === 'Enter') onmove(source, target, 0, event.shiftKey ? -1 : 1);
      return;
    }
    if (!step || event.altKey) return;
    if (event.ctrlKey || event.metaKey) {
      if (step[1]) nudge(step[1] < 0 ? 1 : -1, event.shiftKey);
    } else onmove(source, target, ...step, event.shiftKey);
    event.stopPropagation();
    event.preventDefault();
  };
  const onkeydown = (event: KeyboardEvent) => {
    if (isPress(event, '$mod+c')) onclip('copy', source, target);
    else if (isPress(event, '$mod+v')) onclip('paste', source, target);
    else if (!send) return;
    else if (isPress(event, ...pressed('='))) set({ level: send.levelDb, tap: send.tap, on: send.on, mono: send.mono, pan: send.pan });
    else if (isPress(event, 't')) set({ tap: send.tap === 'post' ? 'pre' : 'post' });
    else if (isPress(event, 'o')) set({ on: !send.on });
    else if (isPress(event, 'Delete')) remove();
    else return;
    event.stopPropagation();
    event.preventDefault();
  };
</script>

{#if send}
  <button
    class="tap"
    data-moves="tap"
    data-of={source}
    data-into={target}
    tabindex="-1"
    data-hint="{SAID[send.tap]}. Click for {SAID[NEXT[send.tap]].toLowerCase()}."
    aria-label="{names}: tap {send.tap}"
    onclick={() => set({ tap: NEXT[send.tap] })}
  >
    <span class="glyph {send.tap}"></span>
  </button>
{/if}
<span role="presentation" data-moves="sendLevel" data-of={source} data-into={target} onkeydowncapture={oncapture} {onkeydown}>
  <NumberField
    value={level}
    text={send ? dbText(level) : '·'}
    label={names}
    parse={parseDb}
    width={44}
    dim={!send || level === -Infinity}
    onset={(level) => set({ level })}
    onnudge={nudge}
    ondefault={() => send && set({ level: -Infinity })}
  />
</span>

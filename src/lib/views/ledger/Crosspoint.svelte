<!-- One crosspoint: level, tap and on/off of a send; typing a level into an empty one makes the send. -->
<script lang="ts">
  import { tick } from 'svelte';
  import type { Tap } from '$core/session/entities';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { dbText, parseDb } from '$lib/ui/format';
  import { railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';

  let {
    source,
    target,
    colour,
    column,
    blocked,
    onmenu,
    onmove
  }: {
    source: string;
    target: string;
    colour: string;
    /** Its place in the row's grid. */
    column: number;
    blocked: boolean;
    onmove: (source: string, target: string, dx: number, dy: number) => void;
    onmenu: (event: MouseEvent, source: string, target: string) => void;
  } = $props();
  const { store, selection } = useDesk();
  const send = $derived(store.send(source, target));
  const text = $derived(send ? dbText(send.levelDb) : '·');
  const names = $derived(`Send of ${store.channel(source)?.name} to ${store.channel(target)?.name}`);
  const SAID: Record<Tap, string> = { input: 'Before the inserts', pre: 'Before the fader', post: 'After the fader' };
  const NEXT: Record<Tap, Tap> = { post: 'pre', pre: 'input', input: 'post' };
  /** Whether the pointer or the keyboard is here: thousands of cells are only shown, one is worked on. */
  let live = $state(false);
  let cell = $state<HTMLElement>();
  const enliven = async () => {
    if (live || blocked) return;
    const focused = cell?.contains(document.activeElement) ?? false;
    live = true;
    await tick();
    if (focused && !cell?.contains(document.activeElement)) cell?.querySelector<HTMLElement>('button.num')?.focus({ preventScroll: true });
  };
  const rest = () => {
    if (live && !cell?.contains(document.activeElement)) live = false;
  };
  let gesture: string | null = null;
  let last = 0;

  /** The crosspoints a change acts on: this column, in every selected row where this row is selected. */
  const sources = () => selection.around(source).filter((id) => id !== target && store.session.channel.get(id)?.kind !== 'mix');
  const set = (fields: { level?: number; tap?: Tap; on?: boolean }) =>
    store.act([{ do: 'sends.set', sends: sources().map((id) => ({ source: id, target, ...fields })) }]);
  const nudge = (by: 1 | -1, fine: boolean) => {
    if (performance.now() - last > 700) gesture = crypto.randomUUID();
    last = performance.now();
    const sends = sources().flatMap((id) => {
      const level = store.session.send.get(`${id}\n${target}`)?.levelDb;
      if (level === undefined) return id === source ? [{ source: id, target, level: -60 }] : [];
      return [{ source: id, target, level: level === -Infinity ? (by > 0 ? -60 : level) : level + by * (fine ? 0.1 : 0.5) }];
    });
    store.act([{ do: 'sends.set', sends }], gesture);
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
    } else onmove(source, target, ...step);
    event.stopPropagation();
    event.preventDefault();
  };
  const onkeydown = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 't' && send) set({ tap: send.tap === 'post' ? 'pre' : 'post' });
    else if (event.key === 'o' && send) set({ on: !send.on });
    else if (event.key === 'Delete' && send) store.act([{ do: 'sends.remove', sources: sources(), target }]);
    else return;
    event.stopPropagation();
    event.preventDefault();
  };
</script>

<div
  class="cell"
  role="gridcell"
  tabindex="-1"
  class:off={send && !send.on}
  bind:this={cell}
  onpointerover={enliven}
  onpointerout={(event) => cell?.contains(event.relatedTarget as Node | null) || rest()}
  onfocusin={enliven}
  onfocusout={() => setTimeout(rest)}
  style:grid-column={column}
  data-cross="{source} {target}"
  {onkeydown}
  oncontextmenu={(event) => !blocked && onmenu(event, source, target)}
>
  {#if !blocked}
    {#if send}
      <button
        class="tap"
        tabindex="-1"
        title="{SAID[send.tap]}. Click for {SAID[NEXT[send.tap]].toLowerCase()}."
        aria-label="{names}: tap {send.tap}"
        onclick={() => set({ tap: NEXT[send.tap] })}
      >
        <span class="glyph {send.tap}"></span>
      </button>
    {/if}
    {#if live}
      <span role="presentation" onkeydowncapture={oncapture}>
        <NumberField
          value={send?.levelDb ?? -Infinity}
          {text}
          label={names}
          parse={parseDb}
          width={44}
          dim={!send || send.levelDb === -Infinity}
          onset={(level) => set({ level })}
          onnudge={nudge}
          onbirth={() => send && set({ level: -Infinity })}
        />
      </span>
    {:else}
      <button class="num" class:dim={!send || send.levelDb === -Infinity} aria-label="{names}: {text}">{text}</button>
    {/if}
    {#if send?.mono}<span class="mono" title="Mono">1</span>{/if}
    {#if send}<span class="hair" style:background={colour} style:width="{railAt(send.levelDb) * 100}%"></span>{/if}
  {/if}
</div>

<style>
  button.num {
    width: 44px;
    height: 22px;
    padding: 0 4px;
    border: 1px solid transparent;
    font-size: 12.5px;
    text-align: right;
  }
  .dim {
    color: var(--muted);
  }
  /* The tap as TapGlyph draws it, in one element: a stroke for the fader, a dot before or after it. */
  .glyph {
    display: block;
    width: 14px;
    height: 12px;
    background:
      radial-gradient(circle at var(--dot) 6px, currentColor 1.9px, transparent 2.3px),
      linear-gradient(currentColor, currentColor) var(--stroke) 1px / 1.4px 10px no-repeat;
  }
  .post {
    --dot: 11px;
    --stroke: 6.3px;
  }
  .pre {
    --dot: 3px;
    --stroke: 6.3px;
  }
  .input {
    --dot: 2.5px;
    --stroke: 5.8px;
    border-right: 1.4px solid currentColor;
    width: 10.2px;
  }
  .cell {
    position: relative;
    display: flex;
    align-items: center;
    justify-content: flex-end;
    height: 100%;
    padding-right: 2px;
    border-left: 1px solid var(--hair);
  }
  .cell:focus-within {
    outline: 2px solid var(--kelp);
    outline-offset: -2px;
  }
  .cell :global(button:focus-visible),
  .cell :global(input:focus-visible) {
    outline: none;
  }
  .tap {
    position: absolute;
    left: 3px;
    width: 14px;
    height: 20px;
    color: var(--muted);
  }
  .tap:hover {
    color: var(--kelp);
  }
  .mono {
    position: absolute;
    top: 1px;
    left: 18px;
    color: var(--muted);
    font-size: 9px;
  }
  .hair {
    position: absolute;
    bottom: 0;
    left: 0;
    height: 2.5px;
    opacity: 0.85;
  }
  .off :global(.num) {
    color: var(--muted);
    text-decoration: line-through;
  }
  .off .hair {
    opacity: 0.25;
  }
</style>

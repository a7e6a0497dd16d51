<!-- One crosspoint: level, tap and on/off of a send; typing a level into an empty one makes the send. -->
<script lang="ts">
  import type { Tap } from '$core/session/entities';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { dbText, parseDb } from '$lib/ui/format';
  import { railAt } from '$lib/ui/scale';
  import { useDesk } from '$lib/state/desk';
  import TapGlyph from '$lib/ui/TapGlyph.svelte';

  let {
    source,
    target,
    colour,
    blocked,
    onmenu
  }: {
    source: string;
    target: string;
    colour: string;
    blocked: boolean;
    onmenu: (event: MouseEvent, source: string, target: string) => void;
  } = $props();
  const { store, selection } = useDesk();
  const send = $derived(store.send(source, target));
  const names = $derived(`Send of ${store.channel(source)?.name} to ${store.channel(target)?.name}`);
  const SAID: Record<Tap, string> = { input: 'Before the inserts', pre: 'Before the fader', post: 'After the fader' };
  const NEXT: Record<Tap, Tap> = { post: 'pre', pre: 'input', input: 'post' };
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
        <TapGlyph tap={send.tap} />
      </button>
    {/if}
    <NumberField
      value={send?.levelDb ?? -Infinity}
      text={send ? dbText(send.levelDb) : '·'}
      label={names}
      parse={parseDb}
      width={44}
      dim={!send || send.levelDb === -Infinity}
      onset={(level) => set({ level })}
      onnudge={nudge}
      onbirth={() => send && set({ level: -Infinity })}
    />
    {#if send?.mono}<span class="mono" title="Mono">1</span>{/if}
    {#if send}<span class="hair" style:background={colour} style:width="{railAt(send.levelDb) * 100}%"></span>{/if}
  {/if}
</div>

<style>
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

<!-- A cell of the version sheet: in, out, or by how much, drawn; typed into where a number is begun. -->
<script lang="ts">
  import { family } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { isIn, levelOf, parseCell, type Row, type Value } from './cells';
  import type { Version } from '$core/session/entities';

  let {
    version,
    row,
    text,
    selected,
    typing,
    ontyped,
    onclose
  }: {
    version: Version;
    row: Row;
    /** What it holds, in words. */
    text: string;
    selected: boolean;
    /** What was typed first, while it is being typed into. */
    typing: string | null;
    ontyped: (value: Value) => void;
    onclose: () => void;
  } = $props();
  const level = $derived(levelOf(version, row));
  const on = $derived(isIn(version, row));
  const colour = $derived(row.kind === 'stem' ? (row.colour === null ? 'var(--muted)' : family(row.colour)) : 'var(--muted)');
  let wrong = $state(false);
  const begin = (input: HTMLInputElement) => {
    input.focus();
    input.setSelectionRange(input.value.length, input.value.length);
  };
  const onkeydown = (event: KeyboardEvent & { currentTarget: HTMLInputElement }) => {
    event.stopPropagation();
    if (event.key === 'Escape') onclose();
    if (event.key !== 'Enter') return;
    const value = parseCell(event.currentTarget.value, row);
    if (value === null) wrong = true;
    else ontyped(value);
  };
</script>

{#if typing !== null}
  <input
    class="num"
    class:wrong
    value={typing}
    aria-label="{row.name} in {version.name}, dB"
    aria-invalid={wrong}
    data-hint={wrong ? 'Type a number of dB, such as +1 or -6, or "in", "out"' : undefined}
    use:begin
    {onkeydown}
    onblur={onclose}
  />
{:else if row.kind === 'apart'}
  <span class="words" class:selected data-hint={text}>{text}</span>
{:else}
  <span class="mark" class:selected style:--own={colour} data-hint="{row.name}: {text}">
    {#if level !== null}<span class="num level">{dbText(level)}</span>
    {:else}<i class:out={!on} class:stem={row.kind === 'stem'}></i>{/if}
  </span>
{/if}

<style>
  .mark,
  .words {
    display: grid;
    place-items: center;
    width: 100%;
    height: 100%;
  }
  .selected {
    background: color-mix(in oklch, var(--kelp) 13%, transparent);
  }
  i {
    width: 30px;
    height: 6px;
    border-radius: 3px;
    background: var(--own);
  }
  i.stem {
    height: 11px;
    border-radius: 5px;
  }
  i.out {
    height: 1.5px;
    background: var(--line);
  }
  .level {
    color: color-mix(in oklch, var(--own) 55%, var(--ink));
    font-size: 12.5px;
    font-weight: 650;
  }
  .words {
    overflow: hidden;
    padding: 3px 5px;
    font-size: 10.5px;
    line-height: 1.15;
    text-align: center;
  }
  input {
    width: 100%;
    height: 100%;
    padding: 0 4px;
    border: 1.5px solid var(--kelp);
    background: var(--sheet);
    color: var(--ink);
    font-size: 12.5px;
    text-align: center;
  }
  .wrong {
    border-color: var(--persimmon);
  }
</style>

<!-- A number that can be typed, nudged by arrows (Shift: finer) or wheel, dragged up and down, and double-clicked to its default. -->
<script lang="ts">
  let {
    value,
    text,
    label,
    parse,
    onset,
    onnudge,
    ondefault,
    width = 48,
    dim = false,
    write = (number) => (number === -Infinity ? '-inf' : String(Math.round(number * 100) / 100)),
    hint = 'Type a number, such as -6, +2 or -inf',
    open = $bindable(false)
  }: {
    value: number;
    text: string;
    label: string;
    parse: (typed: string) => number | null;
    onset: (value: number) => void;
    onnudge: (by: 1 | -1, fine: boolean) => void;
    ondefault: () => void;
    width?: number;
    dim?: boolean;
    /** What stands in the field when it opens. */
    write?: (value: number) => string;
    /** What is said of what cannot be understood. */
    hint?: string;
    open?: boolean;
  } = $props();
  let typed = $state('');
  let wrong = $state(false);
  let button = $state<HTMLButtonElement>();

  const edit = (first = '') => {
    typed = first || write(value);
    wrong = false;
    open = true;
  };
  const accept = () => {
    const parsed = parse(typed);
    if (parsed === null) return void (wrong = true);
    open = false;
    onset(parsed);
    queueMicrotask(() => button?.focus());
  };
  const focused = (input: HTMLInputElement) => {
    input.focus();
    if (typed.length > 1) input.select();
  };
  const onkeydown = (event: KeyboardEvent) => {
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault();
      event.stopPropagation();
      onnudge(event.key === 'ArrowUp' ? 1 : -1, event.shiftKey);
    } else if (event.key === 'Enter') {
      event.preventDefault();
      edit();
    } else if (/^[-−+\d.]$/.test(event.key) && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      event.stopPropagation();
      edit(event.key);
    }
  };
  const onwheel = (event: WheelEvent) => {
    if (document.activeElement !== button) return;
    event.preventDefault();
    onnudge(event.deltaY < 0 ? 1 : -1, event.shiftKey);
  };
</script>

{#if open}
  <input
    class="num"
    class:wrong
    style:width="{width}px"
    aria-label={label}
    aria-invalid={wrong}
    data-hint={wrong ? hint : undefined}
    bind:value={typed}
    use:focused
    ondblclick={() => {
      open = false;
      ondefault();
    }}
    onblur={() => {
      if (!open) return;
      if (parse(typed) === null) open = false;
      else accept();
    }}
    onkeydown={(event) => {
      event.stopPropagation();
      if (event.key === 'Enter') {
        // Else the key would also press the button that takes the focus.
        event.preventDefault();
        accept();
      }
      if (event.key === 'Escape') open = false;
    }}
  />
{:else}
  <button
    class="num"
    class:dim
    style:width="{width}px"
    bind:this={button}
    aria-label="{label}: {text}"
    onclick={() => edit()}
    ondblclick={(event) => {
      event.preventDefault();
      open = false;
      ondefault();
    }}
    {onkeydown}
    {onwheel}>{text}</button
  >
{/if}

<style>
  button,
  input {
    height: 22px;
    padding: 0 4px;
    border: 1px solid transparent;
    border-radius: 4px;
    background: none;
    color: inherit;
    font-size: 12.5px;
    text-align: right;
    white-space: nowrap;
  }
  /* Its size is given: another text in it moves nothing around it. */
  button {
    contain: layout size style;
  }
  button:hover {
    border-color: var(--line);
  }
  input {
    border-color: var(--kelp);
    background: var(--sheet);
  }
  .wrong {
    border-color: var(--persimmon);
    color: var(--persimmon);
  }
  .dim {
    color: var(--muted);
  }
</style>

<!-- A player's own headphones, for a phone: one wide fader a row, on or off, and the level of it all. Nothing else of the session. -->
<script lang="ts">
  import { Range } from 'flowbite-svelte';
  import { onMount } from 'svelte';
  import type { CueView, WireDb } from '$core/routing/cueView';
  import { ask } from '$lib/state/api';
  import { family } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import { dbAt, railAt } from '$lib/ui/scale';

  let { token, initial }: { token: string; initial: CueView } = $props();
  // svelte-ignore state_referenced_locally (what follows comes over the stream)
  let view = $state.raw<CueView>(initial);
  let closed = $state(false);
  let away = $state(false);
  let wrong = $state('');
  /** What is being moved here is not overwritten by what comes back. */
  let held = $state.raw<{ key: string; level: number } | null>(null);
  const db = (level: WireDb) => (level === '-inf' ? -Infinity : level);

  onMount(() => {
    const events = new EventSource(`/api/cue/${token}/events`);
    events.onmessage = ({ data }) => {
      view = JSON.parse(data as string) as CueView;
      away = false;
    };
    events.addEventListener('closed', () => {
      closed = true;
      events.close();
    });
    events.onerror = () => (away = events.readyState !== EventSource.OPEN);
    return () => events.close();
  });

  // One request at a time: while it is on its way only the newest move waits.
  let sending = false;
  let next: object | null = null;
  const send = async (move: object) => {
    next = move;
    if (sending) return;
    sending = true;
    while (next) {
      const body = next;
      next = null;
      const answer = await ask<CueView>('POST', `/api/cue/${token}`, body);
      wrong = answer.ok ? '' : answer.error.message;
      if (answer.ok) view = answer.value;
    }
    sending = false;
  };
  const rows = $derived([
    { key: '', name: 'All of it', colour: null as number | null, level: db(view.level), on: true },
    ...view.sends.map(({ source, name, colour, level, on }) => ({
      key: source,
      name,
      colour: colour as number | null,
      level: db(level),
      on
    }))
  ]);
  const set = (key: string, level: number) => {
    const rounded = level === -Infinity ? -Infinity : Math.round(level * 2) / 2;
    held = { key, level: rounded };
    const told: WireDb = rounded === -Infinity ? '-inf' : rounded;
    void send(key === '' ? { level: told } : { sends: [{ source: key, level: told }] });
  };
  const shown = ({ key, level }: { key: string; level: number }) => (held?.key === key ? held.level : level);
</script>

<main>
  <header>
    <p class="caps">{view.session}</p>
    <h1>{view.cue}</h1>
    <p class="state" class:bad={away || closed || wrong} role="status">
      {closed
        ? 'This page was closed. Ask the engineer for a new address.'
        : away
          ? 'No connection. Your levels stay as they are.'
          : wrong || 'Your headphones. Nobody else hears what you set here.'}
    </p>
  </header>
  {#if !closed}
    <ul>
      {#each rows as row (row.key)}
        <li class:off={!row.on} class:all={row.key === ''}>
          <button
            class="name"
            disabled={row.key === ''}
            aria-pressed={row.on}
            onclick={() => void send({ sends: [{ source: row.key, on: !row.on }] })}
          >
            <span class="dot" style:background={row.colour === null ? 'var(--ink)' : family(row.colour)}></span>{row.name}
            {#if row.key}<span class="switch">{row.on ? 'on' : 'off'}</span>{/if}
          </button>
          <Range
            class="h-[34px] w-full touch-pan-y"
            min="0"
            max="1"
            step="0.005"
            aria-label="{row.name} in your headphones"
            aria-valuetext="{dbText(shown(row))} dB"
            value={railAt(shown(row))}
            oninput={(event) => set(row.key, dbAt(Number(event.currentTarget.value)))}
            onchange={() => (held = null)}
          />
          <span class="num">{dbText(shown(row))}</span>
        </li>
      {:else}
        <li>Nothing is sent to your headphones yet.</li>
      {/each}
    </ul>
  {/if}
</main>

<style>
  main {
    max-width: 520px;
    height: 100vh;
    margin: 0 auto;
    padding: 14px 16px 40px;
    overflow: auto;
  }
  header p {
    margin: 0;
  }
  h1 {
    margin: 0 0 2px;
    font-size: 26px;
    font-weight: 700;
  }
  .state {
    color: var(--muted);
    font-size: 14px;
  }
  .bad {
    color: var(--persimmon);
  }
  ul {
    margin: 14px 0 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 58px;
    align-items: center;
    padding: 6px 0;
    border-bottom: 1px solid var(--hair);
  }
  .all {
    margin-bottom: 8px;
    padding-bottom: 12px;
    border-bottom: 2px solid var(--line);
  }
  .name {
    display: flex;
    align-items: center;
    gap: 9px;
    grid-column: 1 / 3;
    min-height: 30px;
    font-size: 16px;
    font-weight: 600;
    text-align: left;
  }
  .switch {
    margin-left: auto;
    padding: 1px 10px;
    border: 1px solid var(--line);
    border-radius: 12px;
    color: var(--muted);
    font-size: 13px;
    font-weight: 400;
  }
  .off .name {
    color: var(--muted);
    text-decoration: line-through;
  }
  .dot {
    width: 12px;
    height: 12px;
    border-radius: 50%;
  }
  .num {
    font-size: 16px;
    text-align: right;
  }
</style>

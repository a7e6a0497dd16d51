<!-- Where a channel's signal goes: every path to its output or to a place one chooses, station by station, in dB. -->
<script lang="ts">
  import { Select } from 'flowbite-svelte';
  import { inOrder } from '$core/session/select';
  import { goalOf, pairName, trace, traceText, type Goal } from '$core/routing/trace';
  import { copyText } from '$lib/ui/clipboard';
  import { dbText, timeText } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';

  let { id }: { id: string } = $props();
  const { store, now } = useDesk();
  const LISTED = 6;
  let wanted = $state('');
  /** Levels and pans count too: any change may matter. */
  let version = $state(0);
  $effect(() => store.onChanges(() => void version++));

  const places = $derived(
    inOrder(store.session).filter((row) => void store.tree === undefined && row.id !== id && !['track', 'key'].includes(row.kind))
  );
  const traced = $derived.by(() => {
    void version;
    if (!store.session.channel.has(id)) return null;
    const goal: Goal = wanted && store.session.channel.has(wanted) ? { id: wanted } : goalOf(store.session, id);
    const result = trace(store.session, id, goal, { limit: LISTED, at: now.place() });
    return result.ok ? result.value : null;
  });
  const first = $derived.by(() => {
    void version;
    const goal = goalOf(store.session, id);
    return 'pair' in goal ? pairName(goal.pair) : (store.session.channel.get(goal.id)?.name ?? 'the mix');
  });
</script>

{#if traced}
  <div class="title">
    <h3 class="caps">Where it goes{traced.at === null ? '' : ` at ${timeText(traced.at, store.settings.rate)}`}</h3>
    <button
      onclick={() =>
        void copyText(traceText(store.session, traced)).then((done) =>
          store.say(done ? 'Trace copied as text.' : 'The browser did not allow copying.')
        )}>Copy as text</button
    >
  </div>
  <label
    >to <Select class="min-w-0 flex-1" classes={{ select: 'px-1 text-[12px]' }} placeholder="" bind:value={wanted} aria-label="Trace to"
      ><option value="">{first}</option>{#each places as row (row.id)}<option value={row.id}>{row.name}</option>{/each}</Select
    ></label
  >
  {#if traced.paths.length === 0}<p class="hint">No path leads from here to {traced.to.name}.</p>{/if}
  {#each traced.paths as { stations, levels }, i (i)}
    {#if traced.paths.length > 1}<p class="path caps">Path {i + 1} · {dbText(levels.power)} dB</p>{/if}
    <ol>
      {#each stations as station, n (n)}
        <li>
          <span class="stop" class:sent={station.by === 'send'}></span>
          <span class="name">{station.name}</span>
          <span class="num">{dbText(station.levels.power)}</span>
          <span class="stages">{station.stages.map(({ text, db }) => (db === null ? text : `${text} ${dbText(db)}`)).join(' · ')}</span>
        </li>
      {/each}
    </ol>
  {/each}
  <dl>
    <div>
      <dt>L</dt>
      <dd class="num">{dbText(traced.total.left)}</dd>
    </div>
    <div>
      <dt>R</dt>
      <dd class="num">{dbText(traced.total.right)}</dd>
    </div>
    <div>
      <dt>power</dt>
      <dd class="num">{traced.exact ? '' : '≤ '}{dbText(traced.total.power)} dB</dd>
    </div>
  </dl>
  {#if traced.uncounted.length}<p class="hint">Not counted: {traced.uncounted.join(', ')}.</p>{/if}
{/if}

<style>
  .title {
    display: flex;
    margin: 14px 0 4px;
  }
  h3 {
    flex: 1;
    margin: 0;
  }
  .title button {
    color: var(--kelp);
    font-size: 12px;
    font-weight: 600;
  }
  label {
    display: flex;
    align-items: center;
    gap: 6px;
    margin-bottom: 6px;
    color: var(--muted);
    font-size: 12px;
  }
  .path {
    margin: 8px 0 2px;
  }
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    position: relative;
    display: grid;
    grid-template-columns: 16px minmax(0, 1fr) auto;
    align-items: center;
    padding: 3px 0;
  }
  li:not(:last-child)::after {
    position: absolute;
    top: 16px;
    bottom: -8px;
    left: 4px;
    border-left: 1.5px solid var(--line);
    content: '';
  }
  .stop {
    z-index: 1;
    width: 9px;
    height: 9px;
    border: 2px solid var(--muted);
    border-radius: 50%;
    background: var(--sheet);
  }
  .sent {
    border-style: dashed;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .stages {
    grid-column: 2 / 4;
    color: var(--muted);
    font-size: 11.5px;
    line-height: 1.25;
  }
  dl {
    display: flex;
    gap: 14px;
    margin: 4px 0 8px;
    padding-top: 5px;
    border-top: 1px solid var(--line);
    font-weight: 600;
  }
  dl div {
    display: flex;
    gap: 5px;
  }
  dl div:last-child {
    margin-left: auto;
  }
  dt {
    color: var(--muted);
    font-weight: 400;
  }
  dd {
    margin: 0;
  }
  .hint {
    margin: 0 0 8px;
    color: var(--muted);
    font-size: 12px;
  }
</style>

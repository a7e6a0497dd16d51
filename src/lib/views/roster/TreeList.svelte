<!-- A summing tree as an indented list, for looking at: today's, or that of a preview. -->
<script lang="ts">
  import { treeOf } from '$core/routing/graph';
  import type { Session } from '$core/session/entities';
  import { family } from '$lib/ui/colours';

  let {
    session,
    label,
    fresh = new Set(),
    tracks = true
  }: { session: Session; label: string; fresh?: ReadonlySet<string>; tracks?: boolean } = $props();
  const rows = $derived.by(() => {
    const { chain, mix, elsewhere, cues, nowhere } = treeOf(session);
    const all = [
      ...chain,
      ...mix,
      ...[...elsewhere, ...cues].map((row) => ({ ...row, depth: row.depth + 1 })),
      ...nowhere.map((row) => ({ ...row, away: true }))
    ];
    return all.filter(({ channel }) => tracks || channel.kind !== 'track');
  });
</script>

<section aria-label={label}>
  <h3 class="caps">{label}</h3>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls: the keyboard must reach it) -->
  <ol tabindex="0">
    {#each rows as { channel, depth, ...row } (channel.id)}
      <li style:padding-left="{depth * 14}px" class:bus={channel.kind !== 'track'} class:fresh={fresh.has(channel.id)}>
        <i style:background={channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>{channel.name}{#if 'away' in row}<span
            class="away">nowhere</span
          >{/if}
      </li>
    {/each}
  </ol>
</section>

<style>
  section {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    min-width: 0;
    min-height: 0;
  }
  h3 {
    padding-bottom: 5px;
  }
  ol {
    margin: 0;
    padding: 0;
    overflow: auto;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    gap: 6px;
    height: 21px;
    overflow: hidden;
    color: var(--ink);
    white-space: nowrap;
  }
  .bus {
    font-weight: 650;
    letter-spacing: 0.02em;
  }
  .fresh {
    color: var(--kelp);
  }
  i {
    width: 7px;
    height: 14px;
    flex: none;
    border-radius: 2px;
  }
  .away {
    color: var(--muted);
    font-size: 11px;
  }
</style>

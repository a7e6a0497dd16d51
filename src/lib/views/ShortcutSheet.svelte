<!-- The sheet of shortcuts: what each key does here, by heading. -->
<script lang="ts">
  import { CloseButton, Drawer } from 'flowbite-svelte';
  import type { PageCommand } from '$lib/state/commands.svelte';

  let { commands, onclose }: { commands: readonly PageCommand[]; onclose: () => void } = $props();
  let open = $state(true);
  const WITHIN: readonly (readonly [string, string])[] = [
    ['Typing', 'sets a number: -6, +2, -inf, L30'],
    ['↑ ↓', 'nudge a number by 0.5 dB, with Shift by 0.1'],
    ['← → ↑ ↓', 'go from crosspoint to crosspoint; with Ctrl, ↑ ↓ nudge'],
    ['Enter', 'types into a crosspoint, then goes to the one below'],
    ['t, o, Del', 'tap, on or off, remove, in a crosspoint'],
    ['Double-click', 'back to the default']
  ];
  const groups = $derived(
    [...new Set(commands.map(({ group }) => group))].map((group) => ({
      group: group as string,
      rows: commands.filter((command) => command.group === group && command.keys).map(({ keys, title }) => [keys!, title] as const)
    }))
  );
  const shown = $derived([...groups.filter(({ rows }) => rows.length), { group: 'Numbers and crosspoints', rows: WITHIN }]);
</script>

<!-- The dialog hears Escape only while it has the focus; the page may still have it. -->
<svelte:window onkeydown={(event) => event.key === 'Escape' && (open = false)} />
<Drawer
  bind:open
  {onclose}
  placement="right"
  outsideclose
  dismissable={false}
  aria-label="Shortcuts"
  class="w-[640px] bg-sheet text-ink dark:bg-sheet dark:text-ink"
>
  <div class="head">
    <h2>Shortcuts</h2>
    <CloseButton aria-label="Close" onclick={() => (open = false)} />
  </div>
  <div class="sheet">
    {#each shown as { group, rows } (group)}
      <section>
        <h3 class="caps">{group}</h3>
        <dl>
          {#each rows as [keys, what], i (i)}
            <dt><kbd>{keys}</kbd></dt>
            <dd>{what}</dd>
          {/each}
        </dl>
      </section>
    {/each}
  </div>
</Drawer>

<style>
  .sheet {
    columns: 2;
    column-gap: 36px;
  }
  .head {
    display: flex;
    justify-content: space-between;
    margin-bottom: 14px;
  }
  h2 {
    margin: 2px 0 0;
    font-size: 16px;
    font-weight: 650;
  }
  section {
    margin-bottom: 16px;
    break-inside: avoid;
  }
  h3 {
    margin: 0 0 5px;
    color: var(--muted);
  }
  dl {
    display: grid;
    grid-template-columns: 106px 1fr;
    gap: 4px 10px;
    margin: 0;
  }
  dt {
    text-align: right;
  }
  dd {
    margin: 0;
    color: var(--ink);
  }
  kbd {
    padding: 1px 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    font: 11.5px var(--font-mono);
  }
</style>

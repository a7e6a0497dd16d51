<!-- Sorting by rule: the tree today beside the tree as it would be, what each rule did, what none took; rows can be corrected. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Checkbox, Input, Modal, Select, TabItem, Tabs } from 'flowbite-svelte';
  import { untrack } from 'svelte';
  import { planBatch } from '$core/commands/plan';
  import type { RuleBook } from '$core/organise/ruleBook';
  import { sortPlan, type Correction } from '$core/organise/sort';
  import { sortDefaults } from '$core/organise/sortOptions';
  import { commit } from '$core/session/changes';
  import { decodeSession } from '$core/session/tables';
  import { useDesk } from '$lib/state/desk';
  import TreeList from './TreeList.svelte';

  let { book, ids, onclose, onrules }: { book: RuleBook; ids: readonly string[] | null; onclose: () => void; onrules: () => void } =
    $props();
  const { store } = useDesk();
  let options = $state({ ...sortDefaults, tiers: String(sortDefaults.tiers), least: String(sortDefaults.least) });
  let corrections = $state.raw<Readonly<Record<string, Correction>>>({});
  let only = $state<'all' | 'none' | 'fights' | 'kept'>('all');
  const before = untrack(() => decodeSession(store.document()));

  const made = $derived.by(() => {
    let n = 0;
    const names = new Map<string, string>();
    const plan = sortPlan(before, {
      book,
      options: { ...options, tiers: Number(options.tiers) as 1 | 2 | 3, least: Number(options.least) },
      corrections,
      ...(ids ? { ids } : {}),
      newId: () => {
        const id = `preview-${++n}`;
        names.set(id, id);
        return id;
      }
    });
    const planned = planBatch(before, plan.commands);
    const after = { ...before, channel: new Map(before.channel), send: new Map(before.send), insert: new Map(before.insert) };
    if (planned.ok) commit(after, planned.value.changes);
    return { plan, planned, after, fresh: new Set(names.keys()) };
  });
  const tracks = $derived(made.plan.tracks);
  const unmatched = $derived(tracks.filter(({ rule }) => !rule).length);
  const fights = $derived(tracks.filter((track) => track.fights.length).length);
  const kept = $derived(tracks.filter((track) => track.kept.length).length);
  const shown = $derived(
    tracks.filter((track) =>
      only === 'none'
        ? !track.rule || track.corrected.rule || track.corrected.name
        : only === 'fights'
          ? track.fights.length
          : only === 'kept'
            ? track.kept.length
            : true
    )
  );
  /** What the rules took, a family once however many rules lead to it. */
  const used = $derived.by(() => {
    const families = new Map<string, { count: number; words: string[] }>();
    for (const rule of book.rules) {
      const count = made.plan.taken.get(rule.id);
      if (!count) continue;
      const name = rule.family || rule.role;
      const found = families.get(name) ?? { count: 0, words: [] };
      families.set(name, { count: found.count + count, words: [...found.words, rule.words] });
    }
    return [...families];
  });
  const short = (words: string) => (words.length > 26 ? `${words.slice(0, 25).replace(/,[^,]*$/, '')} …` : words);
  const titleOf = (rule: { words: string; family: string }) => `${rule.family || 'no family'}: ${short(rule.words)}`;
  const correct = (id: string, fields: Correction) => (corrections = { ...corrections, [id]: { ...corrections[id], ...fields } });

  const apply = () => {
    // Ids of the preview are of this page alone: buses that are really made get their own.
    const given = new Map<string, string>();
    const own = (text: string) =>
      text.replace(/"preview-\d+"/g, (quoted) => {
        if (!given.has(quoted)) given.set(quoted, uuid());
        return `"${given.get(quoted)}"`;
      });
    const commands = JSON.parse(own(JSON.stringify(made.plan.commands))) as typeof made.plan.commands;
    if (store.act(commands)) onclose();
  };
</script>

<Modal
  open
  title="Sort {ids ? `${tracks.length} selected` : `all ${tracks.length}`} tracks by rule"
  size="xl"
  outsideclose={false}
  {onclose}
>
  <div class="options">
    <label
      >Tiers<Select placeholder="" bind:value={options.tiers}>
        <option value="1">families only</option>
        <option value="2">sections and families</option>
        <option value="3">stems, sections, families</option>
      </Select></label
    >
    <label
      >Bus names<Select placeholder="" bind:value={options.naming}>
        <option value="upper">UPPER CASE</option>
        <option value="mark">with a tier mark</option>
        <option value="typed">as in the rules</option>
      </Select></label
    >
    <label data-hint="Families with fewer members go into the bus above: a station for one track does nothing."
      >A bus from<Select placeholder="" bind:value={options.least}>
        <option value="1">1 member up</option>
        <option value="2">2 members up</option>
        <option value="3">3 members up</option>
      </Select></label
    >
    {#if options.naming === 'mark'}<label>Mark<Input class="w-12!" maxlength={4} bind:value={options.mark} /></label>{/if}
    {#if options.tiers === '3'}<label>Chain before the mix bus<Input bind:value={options.chain} /></label>{/if}
    <label data-hint="A return in each family’s bus, named by this pattern; {'{bus}'} is the bus. Empty: none."
      >Returns inside families<Input placeholder="{'{bus}'} room" bind:value={options.contained} /></label
    >
    <label data-hint="A bus for returns that all share. Empty: none."
      >Common effects bus<Input placeholder="EFFECTS" bind:value={options.common} /></label
    >
    <Checkbox bind:checked={options.rename}>Names</Checkbox>
    <Checkbox bind:checked={options.reorder}>Order</Checkbox>
  </div>
  <div class="body">
    <TreeList session={before} label="Today" />
    <TreeList session={made.after} label="Sorted" fresh={made.fresh} />
    <section class="rows" aria-label="What the rules did">
      <Tabs divider={false} classes={{ content: 'hidden' }} aria-label="Which rows">
        {#each [['all', `All ${tracks.length}`], ['none', `No rule ${unmatched}`], ['fights', `More than one rule ${fights}`], ['kept', `Left alone ${kept}`]] as const as [key, title] (key)}
          <TabItem {key} {title} open={only === key} onclick={() => (only = key)} />
        {/each}
      </Tabs>
      <div class="listing">
        {#each shown as track (track.id)}
          <div class="track" class:none={!track.rule}>
            <span class="file" data-hint={track.file}>{track.file}</span>
            <Select
              placeholder=""
              aria-label="Rule for {track.file}"
              value={track.rule?.id ?? ''}
              onchange={(event) => correct(track.id, { rule: event.currentTarget.value })}
            >
              <option value="">no rule</option>
              {#each book.rules as rule (rule.id)}<option value={rule.id}>{titleOf(rule)}</option>{/each}
            </Select>
            <Input
              aria-label="Name for {track.file}"
              value={track.name}
              disabled={track.kept.includes('name')}
              onchange={(event) => correct(track.id, { name: event.currentTarget.value.trim() || undefined })}
            />
            <span class="says">
              {#if track.kept.length}left as set by hand: {track.kept.join(', ')}.{/if}
              {#if track.fights.length}Also fits {track.fights.map(({ family, role }) => family || role).join(', ')}; the first rule wins.{/if}
              {#if !track.rule}No rule fits: it stays where it is.{/if}
            </span>
          </div>
        {/each}
      </div>
      <p class="used">
        {#each used as [name, { count, words }] (name)}<span data-hint={words.join('; ')}>{name} <b class="num">{count}</b></span>{/each}
      </p>
    </section>
  </div>
  {#if !made.planned.ok}<p class="wrong" role="alert">{made.planned.error.message}</p>{/if}
  <div class="foot">
    <Button size="sm" color="alternative" onclick={onrules}>Edit the rules…</Button>
    <span class="grow"></span>
    <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    <Button size="sm" disabled={made.plan.commands.length === 0 || !made.planned.ok} onclick={apply}
      >{made.plan.commands.length ? `Sort ${tracks.length - unmatched} tracks` : 'Nothing to do'}</Button
    >
  </div>
</Modal>

<style>
  .options {
    display: flex;
    flex-wrap: wrap;
    align-items: end;
    gap: 6px 12px;
  }
  label {
    display: grid;
    gap: 2px;
    color: var(--muted);
    font-size: 12px;
  }
  .body {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    grid-template-columns: 200px 220px minmax(0, 1fr);
    gap: 18px;
    height: min(440px, 56vh);
  }
  .rows {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    min-width: 0;
    min-height: 0;
  }
  .listing {
    overflow: auto;
    border-top: 1px solid var(--line);
  }
  .track {
    display: grid;
    grid-template-columns: minmax(0, 1.1fr) minmax(0, 1.2fr) minmax(0, 1.1fr);
    gap: 2px 8px;
    align-items: center;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
  }
  .file {
    overflow: hidden;
    color: var(--ink);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .none .file {
    color: var(--persimmon);
  }
  .track :global(:is(input, select)) {
    width: 100%;
    height: 24px;
    padding-block: 0;
    font-size: 12px;
  }
  .says {
    grid-column: span 3;
    color: var(--muted);
    font-size: 11.5px;
  }
  .says:empty {
    display: none;
  }
  .used {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 10px;
    padding-top: 6px;
    color: var(--muted);
    font-size: 11.5px;
  }
  .used b {
    color: var(--ink);
  }
  .wrong {
    color: var(--persimmon);
  }
  .foot {
    display: flex;
    gap: 8px;
  }
  .grow {
    flex: 1;
  }
</style>

<!-- The installation's sorting rules: in order, the first that holds wins. Broken words say where they break. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Input, Modal, Select, TabItem, Tabs } from 'flowbite-svelte';
  import { onMount, tick, untrack } from 'svelte';
  import { readRuleBook, type Rule, type RuleBook } from '$core/organise/ruleBook';
  import { matcherOf, namePartsOf } from '$core/organise/words';
  import { ROLES } from '$core/session/roles';
  import { ask } from '$lib/state/api';
  import { colourName, family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';

  let { book, onclose, onsaved }: { book: RuleBook; onclose: () => void; onsaved: (book: RuleBook) => void } = $props();
  const { store } = useDesk();
  type Draft = { -readonly [K in keyof Rule]: Rule[K] };
  let rules = $state<Draft[]>(untrack(() => book.rules.map((rule) => ({ ...rule }))));
  let families = $state(untrack(() => book.families.map((one) => ({ ...one }))));
  let tab = $state<'rules' | 'families'>('rules');
  let sought = $state('');
  let problem = $state('');
  let list = $state<HTMLElement>();

  const brokenBy = $derived(
    rules.map(({ words }) => {
      const matcher = matcherOf(words);
      return typeof matcher === 'function' ? '' : `At letter ${matcher.at + 1}: ${matcher.message}`;
    })
  );
  /** Rules whose words hold for the file name being tried, or that contain the text. */
  const shown = $derived.by(() => {
    const text = sought.trim();
    if (!text) return rules.map((_, i) => i);
    const parts = namePartsOf(text);
    return rules.flatMap(({ words, family: name }, i) => {
      const matcher = matcherOf(words);
      const holds = typeof matcher === 'function' && matcher(parts, text);
      return holds || words.toLowerCase().includes(text.toLowerCase()) || name.toLowerCase().includes(text.toLowerCase()) ? [i] : [];
    });
  });
  // The dialog is there with what fits into it; the rest of its many fields follow.
  let drawn = $state(14);
  onMount(() => {
    const next = setTimeout(() => (drawn = Infinity), 60);
    return () => clearTimeout(next);
  });
  /** Names of rules that a restored backup put aside. */
  let aside = $state.raw<readonly string[]>([]);
  onMount(async () => {
    const answer = await ask<{ aside: readonly string[] }>('GET', '/api/rules');
    if (answer.ok) aside = answer.value.aside;
    else problem = answer.error.message;
  });
  const takeBack = async (name: string) => {
    const answer = await ask<{ book: RuleBook }>('POST', '/api/rules', { name });
    if (!answer.ok) return void (problem = answer.error.message);
    store.say(`The rules are those put aside as “${name}”; those until now are put aside.`);
    onsaved(answer.value.book);
  };
  const move = (i: number, by: number) => {
    const [one] = rules.splice(i, 1);
    rules.splice(Math.max(0, i + by), 0, one);
  };
  const add = async () => {
    sought = '';
    rules.unshift({ id: uuid(), words: '', role: '', family: '', bus: '', colour: null, name: '', pan: 0, sends: '' });
    await tick();
    list?.querySelector('input')?.focus();
  };
  const save = async () => {
    const read = readRuleBook($state.snapshot({ families, rules }));
    if (!read.ok) return void (problem = read.error.message);
    const answer = await ask<{ book: RuleBook }>('PUT', '/api/rules', read.value);
    if (!answer.ok) return void (problem = answer.error.message);
    onsaved(answer.value.book);
  };
  const reset = async () => {
    const answer = await ask<{ book: RuleBook }>('DELETE', '/api/rules');
    if (!answer.ok) return void (problem = answer.error.message);
    store.say('The rules are those that came with Isotaxis.');
    onsaved(answer.value.book);
  };
</script>

<Modal open title="Sorting rules" size="xl" outsideclose={false} {onclose}>
  <div class="head">
    <Tabs divider={false} classes={{ content: 'hidden' }}>
      <TabItem key="rules" title="Rules {rules.length}" open={tab === 'rules'} onclick={() => (tab = 'rules')} />
      <TabItem key="families" title="Families {families.length}" open={tab === 'families'} onclick={() => (tab = 'families')} />
    </Tabs>
    {#if tab === 'rules'}
      <Input
        class="w-[260px]!"
        placeholder="Try a file name, or find a word"
        aria-label="Try a file name, or find a word"
        bind:value={sought}
      />
      <span class="muted">{sought ? `${shown.length} of ${rules.length}` : ''}</span>
      <Button color="alternative" onclick={add}>New rule</Button>
    {:else}
      <Button color="alternative" onclick={() => families.unshift({ name: 'NEW FAMILY', section: '', stem: '', colour: 0 })}
        >New family</Button
      >
    {/if}
  </div>
  <div class="list" bind:this={list}>
    {#if tab === 'rules'}
      <div class="rule caps">
        <span></span><span>Words, or /pattern/</span><span>Role</span><span>Family</span><span>Own bus path</span><span>Own colour</span
        ><span>Name</span><span>Pan</span><span>Sends</span><span></span>
      </div>
      {#each shown.slice(0, drawn) as i (rules[i].id)}
        {@const rule = rules[i]}
        <div class="rule" class:broken={brokenBy[i]}>
          <span class="num place">{i + 1}</span>
          <Input aria-label="Words of rule {i + 1}" data-hint={rule.words} bind:value={rule.words} />
          <Select placeholder="" aria-label="Role of rule {i + 1}" bind:value={rule.role}
            ><option value="">none</option>{#each ROLES as { id, word } (id)}<option value={id}>{word}</option>{/each}</Select
          >
          <Select placeholder="" aria-label="Family of rule {i + 1}" bind:value={rule.family}
            ><option value="">none</option>{#each families as { name }, f (f)}<option value={name}>{name}</option>{/each}</Select
          >
          <Input
            aria-label="Bus path of rule {i + 1}"
            placeholder="family’s"
            data-hint="From the outermost in: VOICES / CHOIR. NOWHERE: no output."
            bind:value={rule.bus}
          />
          <Select placeholder="" aria-label="Colour of rule {i + 1}" bind:value={rule.colour}>
            <option value={null}>family’s</option>{#each { length: 12 } as _, c (c)}<option value={c}>{colourName(c)}</option>{/each}
          </Select>
          <Input
            aria-label="Name pattern of rule {i + 1}"
            placeholder={'{clean}'}
            data-hint={'{clean} {n} {side} {file}'}
            bind:value={rule.name}
          />
          <Input
            class="num"
            type="number"
            min="0"
            max="100"
            aria-label="Pan of rule {i + 1}"
            data-hint="How far to the side that the name says"
            bind:value={rule.pan}
          />
          <Input
            aria-label="Sends of rule {i + 1}"
            placeholder="none"
            data-hint="Returns that get a send at −∞, commas between"
            bind:value={rule.sends}
          />
          <span class="acts">
            <button data-hint="Earlier" aria-label="Rule {i + 1} earlier" disabled={i === 0} onclick={() => move(i, -1)}>↑</button>
            <button data-hint="Later" aria-label="Rule {i + 1} later" disabled={i === rules.length - 1} onclick={() => move(i, 1)}>↓</button
            >
            <button data-hint="Remove" aria-label="Remove rule {i + 1}" onclick={() => rules.splice(i, 1)}>×</button>
          </span>
          {#if brokenBy[i]}<span class="why">{brokenBy[i]}</span>{/if}
        </div>
      {/each}
    {:else}
      <div class="family caps"><span>Family</span><span>Section</span><span>Stem</span><span>Colour</span><span></span></div>
      {#each families as one, i (i)}
        <div class="family">
          <Input aria-label="Name of family {i + 1}" bind:value={one.name} />
          <Input aria-label="Section of {one.name}" placeholder="none" bind:value={one.section} />
          <Input aria-label="Stem of {one.name}" placeholder="none" bind:value={one.stem} />
          <Select
            placeholder=""
            aria-label="Colour of {one.name}"
            style="border-left: 10px solid {family(one.colour)}"
            bind:value={one.colour}
          >
            {#each { length: 12 } as _, c (c)}<option value={c}>{colourName(c)}</option>{/each}
          </Select>
          <span class="acts"
            ><button data-hint="Remove" aria-label="Remove {one.name}" onclick={() => families.splice(i, 1)}>×</button></span
          >
        </div>
      {/each}
    {/if}
  </div>
  {#if problem}<p class="wrong" role="alert">{problem}</p>{/if}
  <div class="foot">
    <Button size="sm" color="alternative" onclick={reset}>Back to the rules that came with it</Button>
    {#if aside.length}
      <Select
        class="w-[250px]!"
        placeholder=""
        aria-label="Rules put aside"
        data-hint="A restored backup had other rules: these were here before"
        value=""
        onchange={(event) => void takeBack(event.currentTarget.value)}
      >
        <option value="">Put aside…</option>
        {#each aside as name (name)}<option value={name}>Take back “{name}”</option>{/each}
      </Select>
    {/if}
    <span class="grow"></span>
    <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    <Button size="sm" onclick={save}>Keep these rules</Button>
  </div>
</Modal>

<style>
  .head,
  .foot {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .grow {
    flex: 1;
  }
  .muted {
    color: var(--muted);
  }
  .list {
    height: min(430px, 54vh);
    overflow: auto;
  }
  .rule,
  .family {
    display: grid;
    gap: 2px 5px;
    align-items: center;
    padding: 2px 0;
  }
  .rule {
    grid-template-columns: 24px minmax(0, 2.4fr) 100px 112px minmax(0, 1fr) 84px minmax(0, 0.7fr) 50px minmax(0, 0.8fr) 56px;
  }
  .family {
    grid-template-columns: 1fr 1fr 1fr 150px 40px;
  }
  .caps {
    position: sticky;
    top: 0;
    z-index: 1;
    background: var(--sheet);
  }
  .rule :global(:is(input, select)),
  .family :global(:is(input, select)) {
    width: 100%;
    height: 24px;
    padding-block: 0;
    font-size: 12px;
  }
  .place {
    color: var(--muted);
    font-size: 11px;
    text-align: right;
  }
  .acts {
    display: flex;
    gap: 2px;
  }
  .acts button {
    width: 18px;
    height: 22px;
    color: var(--muted);
  }
  .broken > :global(input:first-of-type) {
    border-color: var(--persimmon);
  }
  .why {
    grid-column: 2 / -1;
    color: var(--persimmon);
    font-size: 11.5px;
  }
  .wrong {
    color: var(--persimmon);
  }
</style>

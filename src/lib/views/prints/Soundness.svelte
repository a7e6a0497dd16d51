<!-- Whether the stems add up: in a sentence, or each flaw with its way, station by station, and what mends it. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button } from 'flowbite-svelte';
  import { repairsOf, type Repair } from '$core/stems/repairs';
  import { suggestedStems } from '$core/stems/suggest';
  import type { Flaw } from '$core/stems/soundness';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { ledgerActions } from '../ledger/actions';
  import Asking from '../ledger/Asking.svelte';
  import type { Asked } from '../ledger/asked';

  const desk = useDesk();
  const { store } = desk;
  const actions = ledgerActions(desk);
  const fresh = () => uuid();
  let asked = $state.raw<Asked | null>(null);
  const judged = $derived(store.soundness);
  const common = $derived(judged.stems.filter((stem) => stem.common).map(({ name }) => name));
  const suggested = $derived.by(() => {
    void judged;
    return suggestedStems(store.session);
  });
  /** Buses that would be stems and are none. */
  const more = $derived(suggested.stems.filter((id) => !store.session.channel.get(id)?.stem));
  const names = (ids: readonly string[]) => ids.map((id) => store.session.channel.get(id)?.name ?? '').join(', ');
  const suggest = () => {
    const whole = more.filter((id) => !suggested.common.includes(id));
    const shared = more.filter((id) => suggested.common.includes(id));
    store.act([
      { do: 'batch.name', text: `Stems: ${names(more)}`.slice(0, 110) },
      ...(whole.length ? [{ do: 'stems.set' as const, ids: whole, on: true }] : []),
      ...(shared.length ? [{ do: 'stems.set' as const, ids: shared, on: true, common: true }] : [])
    ]);
  };
  const mend = ({ commands, twins }: Repair) => {
    // The question that exists shows what the copies would be, and whether the sum stays the same.
    if (twins) asked = { kind: 'twin', id: twins.id };
    else store.act(commands);
  };
  const MOST = 12;
  const shown = $derived(judged.flaws.slice(0, MOST));
  const CODES: Record<Flaw['code'], string> = {
    stray: 'Past the stems',
    escape: 'Goes elsewhere',
    'side-entry': 'Behind the mix bus',
    double: 'In two stems',
    split: 'Not whole'
  };
</script>

<section class:sound={judged.sound} class:whole={judged.whole}>
  {#if judged.stems.length === 0}
    <h2>No stems yet</h2>
    <p>A stem is a bus that goes into the mix bus: printed side by side, the stems add up to the mix.</p>
  {:else if judged.whole}
    <h2>The stems are sound</h2>
    <p>
      Every audible way into {store.channel('mix')?.name ?? 'the mix bus'} is a stem’s main output; no way crosses two stems; each track is whole
      in one{common.length ? ` but for ${common.join(', ')}, which ${common.length === 1 ? 'is' : 'are'} common` : ''}.
    </p>
  {:else if judged.sound}
    <h2>The stems add up, and are not whole</h2>
    <p>Their sum is the mix-bus input. Some tracks are in more than one of them.</p>
  {:else}
    <h2>The stems do not add up</h2>
    <p>{judged.flaws.length === 1 ? 'One way is' : `${judged.flaws.length} ways are`} not as stems need it.</p>
  {/if}
  {#if judged.stems.length}
    <ul class="stems">
      {#each judged.stems as stem (stem.id)}
        <li>
          <span class="dot" style:background={family(stem.colour)}></span>{stem.name}
          <button
            class="toggle"
            aria-pressed={stem.common}
            data-hint="Common: wanted across everything, so that a track may have a part in it besides its own stem"
            onclick={() => store.act([{ do: 'stems.set', ids: [stem.id], on: true, common: !stem.common }])}>common</button
          >
          <button
            class="toggle"
            aria-label="{stem.name} is no stem"
            data-hint="No stem any more"
            onclick={() => store.act([{ do: 'stems.set', ids: [stem.id], on: false }])}>×</button
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if more.length}
    <p class="suggest">
      <Button color="alternative" onclick={suggest}>Suggest stems</Button><span class="muted">{names(more)}</span>
    </p>
  {:else if judged.stems.length === 0}
    <p class="muted">No bus goes into the mix bus. Make one in the Ledger, and put a family into it.</p>
  {/if}
  {#each shown as flaw (`${flaw.code} ${flaw.way}`)}
    <div class="flaw">
      <p><strong>{CODES[flaw.code]}.</strong> {flaw.text}</p>
      <p class="way num">{flaw.way}</p>
      <div class="repairs">
        {#each repairsOf(store.session, flaw, fresh) as repair (repair.label)}
          <Button
            color="alternative"
            class="h-auto min-h-[26px] justify-start text-left whitespace-normal"
            data-hint={repair.note}
            onclick={() => mend(repair)}>{repair.label}{repair.twins ? '…' : ''}</Button
          >
        {/each}
      </div>
    </div>
  {/each}
  {#if judged.flaws.length > MOST}<p class="muted">and {judged.flaws.length - MOST} more</p>{/if}
</section>
{#if asked}<Asking {asked} {actions} onclose={() => (asked = null)} />{/if}

<style>
  section {
    padding: 10px 12px;
    border: 1px solid var(--persimmon);
    border-radius: 8px;
  }
  .sound {
    border-color: var(--ochre);
  }
  .whole {
    border-color: var(--kelp);
  }
  h2 {
    margin: 0 0 4px;
    font-weight: 650;
  }
  .whole h2 {
    color: var(--kelp);
  }
  p {
    margin: 0;
  }
  .muted {
    color: var(--muted);
  }
  .stems {
    display: grid;
    gap: 2px;
    margin: 8px 0 0;
    padding: 0;
    list-style: none;
    font-weight: 600;
  }
  .stems li {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  .dot {
    width: 9px;
    height: 9px;
    border-radius: 50%;
  }
  .toggle:first-of-type {
    margin-left: auto;
  }
  .toggle {
    padding: 0 5px;
    border: 1px solid transparent;
    border-radius: 4px;
    color: var(--muted);
    font-size: 11px;
    font-weight: 400;
    line-height: 16px;
  }
  .toggle:hover,
  .toggle[aria-pressed='true'] {
    border-color: var(--ochre);
    color: var(--ochre);
  }
  .suggest {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    margin-top: 8px;
  }
  .flaw {
    margin-top: 10px;
    padding-top: 8px;
    border-top: 1px solid var(--hair);
  }
  .way {
    margin: 3px 0 6px;
    color: var(--muted);
    font-size: 11.5px;
  }
  .repairs {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
</style>

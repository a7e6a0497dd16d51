<!-- The Ledger's questions: where members go, whether a level is kept, into which buses a return is twinned, what a cue begins with. -->
<script lang="ts">
  import { rowsBy } from '$core/session/lookup';
  import { Button, Checkbox, Input, Modal, Select } from 'flowbite-svelte';
  import { processors } from '$core/processors/index';
  import { pairName } from '$core/routing/trace';
  import { planBatch } from '$core/commands/plan';
  import { dbText, parseDb } from '$lib/ui/format';
  import { family } from '$lib/ui/colours';
  import { useDesk } from '$lib/state/desk';
  import { copyText } from '$lib/ui/clipboard';
  import { takeSound } from '$lib/state/taking';
  import type { LedgerActions } from './actions';
  import type { Asked } from './asked';
  import { bends, twinBuses } from './twins';

  let { asked, actions, onclose }: { asked: Asked; actions: LedgerActions; onclose: () => void } = $props();
  const { store } = useDesk();
  const nameOf = (id: string) => store.channel(id)?.name ?? 'it';

  let cueName = $state('Cue');
  let cueFrom = $state<'mix' | 'nothing'>('mix');
  let cuePair = $state('');
  const pairs = $derived(
    Array.from({ length: store.settings.interfaceOutputs / 2 }, (_, pair) => ({
      pair,
      used: store.channels.filter(({ outputPair }) => outputPair === pair).map(({ name }) => name)
    }))
  );

  const offered = $derived(asked.kind === 'twin' ? twinBuses(store.session, asked.id) : []);
  let left = $state.raw<ReadonlySet<string>>(new Set());
  const wanted = $derived(offered.filter(({ id }) => !left.has(id)).map(({ id }) => id));
  const bent = $derived(asked.kind === 'twin' ? bends(store.inserts(asked.id)) : []);
  const shared = $derived(
    asked.kind === 'twin' ? wanted.reduce((sum, id) => sum + (offered.find((bus) => bus.id === id)?.senders ?? 0), 0) : 0
  );
  const planned = $derived.by(() => {
    if (asked.kind !== 'twin' || wanted.length === 0) return null;
    const twins = wanted.map((bus, i) => ({ id: `preview:${i}`, bus }));
    return planBatch(store.session, [{ do: 'returns.twin', id: asked.id, twins }]);
  });

  let driven = $state('+3');
  const by = $derived(parseDb(driven));
  /** The address is opened by asking for it: reading it here follows the change. */
  let opened = $state(0);
  const link = $derived.by(() => {
    void opened;
    const token = asked.kind === 'share' && rowsBy(store.session, 'cueToken', 'channelId', asked.id)[0]?.id;
    return token ? `${location.origin}/cue/${token}` : null;
  });
</script>

{#if asked.kind === 'remove'}
  <Modal open {onclose} size="sm" title="Where do its members go?">
    <p>{asked.orphans.length} channel{asked.orphans.length === 1 ? '' : 's'} go into what you are removing.</p>
    <div class="choices">
      <Button size="sm" onclick={() => (actions.remove(asked.ids), onclose())}>One level up</Button>
      <Button size="sm" color="alternative" onclick={() => (actions.remove(asked.ids, null), onclose())}>Nowhere</Button>
      <Button
        size="sm"
        color="alternative"
        onclick={() => (actions.remove([...asked.ids, ...asked.orphans.flatMap((id) => actions.branch(id))]), onclose())}
        >Remove them too</Button
      >
    </div>
  </Modal>
{:else if asked.kind === 'fold'}
  <Modal open {onclose} size="sm" title="Remove {asked.vcas.length === 1 ? `VCA ${nameOf(asked.vcas[0])}` : `${asked.vcas.length} VCAs`}">
    <p>
      {#each asked.vcas as id (id)}{nameOf(id)} stands at {dbText(store.channel(id)?.faderDb ?? 0)} dB{store.channel(id)?.mute
          ? ' and is muted'
          : ''}.
      {/each}
    </p>
    <p class="hint">Folded in, its level goes into the faders of what it holds, and nothing is heard to change.</p>
    <div class="choices">
      <Button size="sm" onclick={() => (actions.removeVcas(asked.ids, true), onclose())}>Fold it in</Button>
      <Button size="sm" color="alternative" onclick={() => (actions.removeVcas(asked.ids, false), onclose())}>Take it away</Button>
    </div>
  </Modal>
{:else if asked.kind === 'dissolve'}
  <Modal open {onclose} size="sm" title="Dissolve {asked.ids.length === 1 ? nameOf(asked.ids[0]) : `${asked.ids.length} buses`}">
    <p>Its members go one level up.</p>
    <p class="hint">
      {#each asked.ids as id (id)}{nameOf(id)} stands at {dbText(store.channel(id)?.faderDb ?? 0)} dB.
      {/each}
    </p>
    <div class="choices">
      <Button size="sm" onclick={() => (actions.dissolve(asked.ids, 'commit'), onclose())}>Keep what is heard</Button>
      <Button size="sm" color="alternative" onclick={() => (actions.dissolve(asked.ids, 'drop'), onclose())}>Drop its level</Button>
    </div>
  </Modal>
{:else if asked.kind === 'take'}
  <Modal open {onclose} size="sm" title="Take {asked.ids.length === 1 ? nameOf(asked.ids[0]) : `${asked.ids.length} channels`} as a track">
    <p>
      What {asked.ids.length === 1 ? 'it sounds' : 'they sound'} like is printed and comes back in place: at unity, into the same bus, with the
      same sends behind the fader, and muted until you want it.
    </p>
    <p class="hint">Let the original rest, and it costs no processing: unmute the track then to hear it.</p>
    <div class="choices">
      <Button size="sm" onclick={() => (void takeSound(store, asked.ids, 'beside'), onclose())}>Beside it</Button>
      <Button size="sm" color="alternative" onclick={() => (void takeSound(store, asked.ids, 'resting'), onclose())}
        >And let the original rest</Button
      >
    </div>
  </Modal>
{:else if asked.kind === 'twin'}
  <Modal open {onclose} size="md" title="Twin {nameOf(asked.id)}">
    <p>Each bus gets its own copy, named after it, with the same inserts, settings and level. Sends from inside the bus go to the copy.</p>
    {#if offered.length === 0}<p class="hint">Nothing inside a bus is sent to {nameOf(asked.id)}. Raise a send first.</p>{/if}
    <ul>
      {#each offered as { id, name, colour, senders, depth } (id)}
        <li style:padding-left="{depth * 16}px">
          <Checkbox
            checked={!left.has(id)}
            onchange={() => {
              const next = new Set(left);
              if (!next.delete(id)) next.add(id);
              left = next;
            }}
          >
            <span class="dot" style:background={family(colour)}></span><strong>{name}</strong>
            <span class="hint">{senders} send{senders === 1 ? '' : 's'} → {nameOf(asked.id)} {name}</span></Checkbox
          >
        </li>
      {/each}
    </ul>
    <p class="verdict" class:differs={bent.length > 0}>
      {#if bent.length === 0}The sum stays the same: all its inserts are linear.
      {:else}The sum will differ: {bent.map((type) => `the ${processors[type].title}`).join(' and ')} act{bent.length === 1 ? 's' : ''} differently
        on parts than on the whole.{/if}
    </p>
    {#if planned && !planned.ok}<p class="wrong" role="alert">{planned.error.message}</p>
    {:else if planned}<p class="hint">
        {wanted.length} new return{wanted.length === 1 ? '' : 's'}, {shared} sends re-pointed, {planned.value.changes.length} changes in one step.
      </p>{/if}
    <div class="choices">
      <Button size="sm" disabled={!planned?.ok} onclick={() => (actions.twin(asked.id, wanted), onclose())}>Twin</Button>
      <Button size="sm" color="alternative" onclick={onclose}>Leave it shared</Button>
    </div>
  </Modal>
{:else if asked.kind === 'cue'}
  <Modal open {onclose} size="sm" title="New cue">
    <p class="hint">A headphone mix: its sends are taken before the faders, and it leaves by outputs of its own.</p>
    <label class="line">Name <Input bind:value={cueName} /></label>
    <label class="line"
      >Begins
      <Select placeholder="" bind:value={cueFrom}
        ><option value="mix">as the mix stands</option><option value="nothing">empty</option></Select
      ></label
    >
    <label class="line"
      >Outputs
      <Select placeholder="" bind:value={cuePair}>
        <option value="">the first free pair</option>
        {#each pairs as { pair, used } (pair)}<option value={String(pair)}
            >{pairName(pair)}{used.length ? `, in use: ${used.join(', ')}` : ''}</option
          >{/each}
      </Select></label
    >
    <div class="choices">
      <Button
        size="sm"
        disabled={!cueName.trim()}
        onclick={() => actions.newCue(cueName.trim(), cueFrom, cuePair === '' ? null : Number(cuePair)) && onclose()}>Make cue</Button
      >
      <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    </div>
  </Modal>
{:else if asked.kind === 'drive'}
  <Modal open {onclose} size="sm" title="Drive {nameOf(asked.id)}">
    <p>All sends into it go up and its fader goes down by as much: more of its effect, at the same level.</p>
    <label class="line">dB <Input class="num" bind:value={driven} aria-invalid={by === null} /></label>
    {#if by === null}<p class="wrong" role="alert">Type a number of dB, such as +3 or -2.</p>{/if}
    <div class="choices">
      <Button
        size="sm"
        disabled={by === null || !Number.isFinite(by)}
        onclick={() => store.act([{ do: 'returns.drive', id: asked.id, by: by! }]) && onclose()}>Drive</Button
      >
      <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
    </div>
  </Modal>
{:else if asked.kind === 'share'}
  <Modal open {onclose} size="md" title="The player’s page of {nameOf(asked.id)}">
    {#if link}
      <p>Whoever opens this address sets the levels of this cue, and nothing else. It works where this server can be reached.</p>
      <p class="address num">{link}</p>
      <div class="choices">
        <Button
          size="sm"
          onclick={() => void copyText(link).then((done) => store.say(done ? 'Address copied.' : 'Select the address and copy it.'))}
          >Copy address</Button
        >
        <Button size="sm" color="alternative" onclick={() => window.open(link, '_blank')}>Open it here</Button>
        <Button size="sm" color="alternative" onclick={() => (store.act([{ do: 'cues.unshare', ids: [asked.id] }]), opened++)}
          >Close it to the player</Button
        >
      </div>
    {:else}
      <p>It is closed: nobody but you sets this cue. Open it, and a page of its own with its faders can be reached by its address.</p>
      <div class="choices">
        <Button size="sm" onclick={() => (actions.share(asked.id), opened++)}>Open it to the player</Button>
        <Button size="sm" color="alternative" onclick={onclose}>Cancel</Button>
      </div>
    {/if}
  </Modal>
{/if}

<style>
  p {
    margin: 0;
  }
  .choices {
    display: flex;
    gap: 8px;
    margin-top: 4px;
  }
  .hint {
    color: var(--muted);
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  .dot {
    width: 10px;
    height: 10px;
    border-radius: 50%;
  }
  .line {
    display: grid;
    grid-template-columns: 70px 1fr;
    align-items: center;
  }
  .verdict {
    padding: 8px 10px;
    border-left: 3px solid var(--kelp);
    background: var(--paper);
  }
  .differs {
    border-color: var(--ochre);
  }
  .wrong {
    color: var(--persimmon);
  }
  .address {
    padding: 8px 10px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    overflow-wrap: anywhere;
    user-select: all;
  }
</style>

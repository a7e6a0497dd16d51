<!-- A print job: when, what, what it proves; its files with what was measured of them, to hear and to download. -->
<script lang="ts">
  import { Button, Progressbar } from 'flowbite-svelte';
  import type { Print } from '$lib/server/printRows';
  import FileRow from './FileRow.svelte';
  import NullLine from './NullLine.svelte';
  import { FORMAT_WORDS, leftText, lengthText, megabytes, samesOf } from './words';

  type Hands = {
    readonly cancel: () => void;
    readonly remove: () => void;
    readonly again: () => void;
    /** Again, as 32-bit float. */
    readonly float: () => void;
    readonly play: () => void;
    /** Its stems as a session. */
    readonly open: () => void;
    readonly fail: (text: string) => void;
  };
  let { print, prints, hands, open }: { print: Print; prints: readonly Print[]; hands: Hands; open: boolean } = $props();
  const WORDS = {
    queued: 'Waiting',
    running: 'Printing',
    done: 'Done',
    failed: 'Failed',
    cancelled: 'Cancelled',
    interrupted: 'Interrupted'
  } as const;
  let shown = $derived(open);
  let proving = $state(false);
  const when = (iso: string) => new Date(iso).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' });
  const broken = $derived(print.nulls.filter(({ holds }) => !holds));
  const stems = $derived(print.nulls.find(({ of }) => of === 'stems'));
  const chain = $derived(print.nulls.find(({ of }) => of === 'chain'));
  const stemmed = $derived(print.files.some(({ kind }) => kind === 'stem'));
  const bytes = $derived(print.files.reduce((sum, file) => sum + file.bytes, 0));
</script>

<article>
  <header>
    <button class="fold" aria-expanded={shown} onclick={() => (shown = !shown)}>{shown ? '▾' : '▸'}</button>
    <div class="what">
      <strong>{print.name}</strong>
      <span class="muted">
        {when(print.startedAt)} · {FORMAT_WORDS[print.order.format]}, {print.rate / 1000} kHz · revision {print.revision}{#if print.status === 'done'}
          &nbsp;· {lengthText(print.frames, print.rate)} · {megabytes(bytes)}{/if}
      </span>
      {#if print.nulls.length}
        <button class="proof" class:bad={broken.length > 0} aria-expanded={proving} onclick={() => (proving = !proving)}>
          {#if broken.length}✗ does not add up{:else}✓ adds up{/if}:
          {#if stems}stems − input <span class="num">{leftText(stems)}</span>{/if}{#if stems && chain}<span>&nbsp;·&nbsp;</span
            >{/if}{#if chain}through the chain − {chain.name} <span class="num">{leftText(chain)}</span>{/if}
        </button>
      {/if}
    </div>
    <div class="actions">
      {#if print.status === 'running' || print.status === 'queued'}<Button color="alternative" onclick={hands.cancel}>Cancel</Button>
      {:else}
        {#if print.status === 'done' && print.about}
          <Button href="/api/prints/{print.id}/delivery" download data-hint="All files with delivery.json and the delivery sheet"
            >Delivery (ZIP)</Button
          >
          <Button color="alternative" href="/api/prints/{print.id}/sheet" target="_blank" rel="noopener" data-hint="One page, to print"
            >Sheet</Button
          >
          {#if stemmed}<Button color="alternative" data-hint="Each stem at unity into a copy of the mix chain" onclick={hands.open}
              >Stems as a session</Button
            >{/if}
        {/if}
        <Button color="alternative" onclick={hands.again}>Print again</Button>
        <Button color="alternative" onclick={hands.remove}>Delete</Button>
      {/if}
    </div>
  </header>
  {#if print.status === 'running'}
    <div class="running">
      <Progressbar progress={Math.round(print.share * 100)} size="h-1.5" />
      <span class="muted"
        >{Math.round(print.share * 100)} %{print.secondsLeft === null
          ? ''
          : `, about ${Math.max(1, Math.round(print.secondsLeft))} s left`}</span
      >
    </div>
  {:else if print.status === 'queued'}
    <p class="running muted">
      Waits for {print.before === 1 ? 'the print before it' : `${print.before} prints before it`}; it prints the session as it was asked
      for.
    </p>
  {:else if print.status !== 'done'}
    <p class="running">
      <strong class="bad">{WORDS[print.status]}.</strong>
      {print.message === `${WORDS[print.status]}.` ? '' : print.message}
      {#if print.message.includes('over full scale')}<Button color="alternative" onclick={hands.float}>Print as 32-bit float</Button>{/if}
    </p>
  {/if}
  {#each print.notes as note (note)}<p class="running muted">{note}</p>{/each}
  {#if proving}
    <div class="proofs">
      {#each print.nulls as proof, place (place)}
        <NullLine print={print.id} {place} {proof} seconds={print.frames / print.rate} onplay={hands.play} />
      {/each}
    </div>
  {/if}
  {#if shown && print.files.length}
    <table>
      <thead>
        <tr
          ><th>File</th><th class="right">Peak</th><th class="right">True peak</th><th class="right">LUFS</th><th class="right">Range</th
          ><th>Hear</th><th></th></tr
        >
      </thead>
      <tbody>
        {#each print.files as file (file.id)}
          <FileRow {print} {file} others={samesOf(prints, { print, file })} onplay={hands.play} onfail={hands.fail} />
        {/each}
      </tbody>
    </table>
  {/if}
</article>

<style>
  article {
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--sheet);
  }
  header {
    display: flex;
    flex-wrap: wrap;
    align-items: flex-start;
    gap: 8px;
    padding: 8px 12px;
  }
  .what {
    flex: 1;
    min-width: min(100%, 560px);
  }
  .actions {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-left: auto;
  }
  .what strong {
    display: block;
    font-weight: 600;
  }
  .fold {
    width: 20px;
    height: 24px;
    color: var(--muted);
  }
  .proof {
    display: block;
    color: var(--kelp);
    font-weight: 600;
    text-align: left;
  }
  .muted {
    color: var(--muted);
  }
  .bad,
  .proof.bad {
    color: var(--persimmon);
  }
  .running {
    margin: 0;
    padding: 0 12px 10px 40px;
  }
  .proofs {
    padding: 0 12px 8px 40px;
    border-top: 1px solid var(--hair);
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    padding: 4px 8px;
    border-top: 1px solid var(--hair);
    color: var(--muted);
    font-size: 12px;
    font-weight: 500;
    text-align: left;
  }
  th:first-child {
    padding-left: 40px;
  }
  .right {
    text-align: right;
  }
</style>

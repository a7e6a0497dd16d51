<!-- The side sheet: the channel that was touched last; its name and colour, inserts with their editors, sends, and where it goes. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Button, Select } from 'flowbite-svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import TapGlyph from '$lib/ui/TapGlyph.svelte';
  import { COLOUR_NAMES, family } from '$lib/ui/colours';
  import { dbText, panText, parseDb, parsePan } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';
  import EqEditor from './EqEditor.svelte';
  import { INSERT_TYPES, processors } from '$core/processors/index';
  import type { Insert, InsertType } from '$core/session/entities';
  import ParamEditor from './ParamEditor.svelte';
  import PatternEditor from './PatternEditor.svelte';
  import Placement from './Placement.svelte';
  import SessionRules from './SessionRules.svelte';
  import TraceSheet from './TraceSheet.svelte';
  import VcaSheet from '../links/VcaSheet.svelte';
  import type { LedgerActions } from './actions';

  let { actions, oncopy }: { actions: LedgerActions; oncopy: (insertId: string) => void } = $props();
  const { store, selection, now } = useDesk();
  const channel = $derived(selection.last ? store.channel(selection.last) : undefined);
  const inserts = $derived(channel ? store.inserts(channel.id) : []);
  const KIND = { track: 'track', bus: 'bus', return: 'return', mix: 'mix bus', cue: 'cue', key: 'key track', vca: 'VCA' } as const;

  const returns = $derived(
    store.channels.filter(({ kind, id }) => kind !== 'track' && kind !== 'key' && kind !== 'vca' && id !== channel?.id)
  );
  const sends = $derived(channel ? returns.flatMap(({ id }) => store.send(channel.id, id) ?? []) : []);
  const latencyOf = (insert: Insert) => processors[insert.type].latency(store.settings.rate, insert.params);
  const titleOf = (type: InsertType) => processors[type].title.replace(/^./, (letter) => letter.toUpperCase());
  /** Where a mono channel becomes stereo. */
  const widening = $derived(channel?.width === 1 ? inserts.findIndex(({ type }) => processors[type].stereo) : -1);
  const NEXT = { post: 'pre', pre: 'input', input: 'post' } as const;
  const setSend = (target: string, fields: object) => store.act([{ do: 'sends.set', sends: [{ source: channel!.id, target, ...fields }] }]);
</script>

<aside aria-label="Channel">
  {#if channel}
    <header>
      <span class="dot" style:background={channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></span>
      <h2>{channel.name}</h2>
      <span class="kind">{KIND[channel.kind]}</span>
    </header>
    <div class="swatches" role="group" aria-label="Colour" data-moves="colour" data-of={channel.id}>
      {#each COLOUR_NAMES as name, i (name)}
        <button
          data-hint={name}
          aria-label="Colour {name}"
          aria-pressed={channel.colour === i}
          class:on={channel.colour === i}
          style:background={family(i)}
          onclick={() => store.act([{ do: 'channels.colour', ids: selection.around(channel.id), colour: i }])}
        ></button>
      {/each}
    </div>

    {#if channel.kind === 'vca'}
      <VcaSheet vca={channel} />
    {:else}
      <div class="title">
        <h3 class="caps">Inserts</h3>
        <Select
          placeholder=""
          classes={{ select: 'border-0 bg-transparent text-[12px] font-semibold text-kelp dark:bg-transparent dark:text-kelp' }}
          aria-label="Add an insert"
          value=""
          onchange={(event) => {
            store.act([{ do: 'inserts.add', id: uuid(), channelId: channel.id, type: event.currentTarget.value as InsertType }]);
            event.currentTarget.value = '';
          }}
        >
          <option value="" disabled>+ Insert</option>
          {#each INSERT_TYPES as type (type)}<option value={type}>{titleOf(type)}</option>{/each}
        </Select>
      </div>
      {#each inserts as insert, i (insert.id)}
        {@const played = now.insert(insert)}
        <section class="insert" class:bypassed={played.bypass}>
          <div class="bar">
            <strong
              >{titleOf(insert.type)}
              {#if i === widening}<small data-hint="It makes two sides of one">stereo from here</small>{/if}
              {#if latencyOf(insert)}<small data-hint="The rest of the session waits for it">latency {latencyOf(insert)} frames</small
                >{/if}</strong
            >
            <button
              data-moves="bypass"
              data-of={channel.id}
              aria-pressed={played.bypass}
              onclick={() => store.act([{ do: 'inserts.bypass', ids: [insert.id], on: !played.bypass }])}
              >{played.bypass ? 'Bypassed' : 'Bypass'}</button
            >
            <button
              data-hint="Earlier in the chain"
              aria-label="Move {titleOf(insert.type)} earlier"
              disabled={i === 0}
              onclick={() => store.act([{ do: 'inserts.move', id: insert.id, before: inserts[i - 1].id }])}>↑</button
            >
            <button data-hint="To other channels, with its key" onclick={() => oncopy(insert.id)}>Copy…</button>
            <button onclick={() => store.act([{ do: 'inserts.remove', id: insert.id }])}>Remove</button>
          </div>
          {#if insert.type === 'eq'}<EqEditor insert={played} rate={store.settings.rate} />{:else}<ParamEditor insert={played} />{/if}
        </section>
      {:else}
        <p class="hint">None. A reverb for many tracks goes on a return that they share.</p>
      {/each}

      {#if sends.length}
        <h3 class="caps title">Sends</h3>
        <ul>
          {#each sends as send (send.targetId)}
            {@const name = store.channel(send.targetId)?.name}
            {@const moving = now.send(channel.id, send.targetId)}
            {@const level = moving ?? send.levelDb}
            <li
              class="send"
              class:off={!send.on}
              class:laned={moving !== null}
              data-moves="sendLevel"
              data-of={channel.id}
              data-into={send.targetId}
            >
              <span class="dot small" style:background={family(store.channel(send.targetId)?.colour ?? 0)}></span>
              <span class="grow">{name}</span>
              <NumberField
                value={level}
                text={dbText(level)}
                label="Level of send to {name}"
                parse={parseDb}
                onset={(to) => setSend(send.targetId, { level: to })}
                onnudge={(by, fine) => setSend(send.targetId, { level: level === -Infinity ? -60 : level + by * (fine ? 0.1 : 0.5) })}
                ondefault={() => setSend(send.targetId, { level: -Infinity })}
              />
              <span class="break"></span>
              <button class="flip" aria-pressed={send.on} onclick={() => setSend(send.targetId, { on: !send.on })}
                >{send.on ? 'on' : 'off'}</button
              >
              <button
                class="flip"
                aria-label="Tap of send to {name}: {send.tap}"
                onclick={() => setSend(send.targetId, { tap: NEXT[send.tap] })}><TapGlyph tap={send.tap} /> {send.tap}</button
              >
              <button
                class="flip"
                aria-pressed={send.mono}
                data-hint="{send.mono ? 'Left and right together' : 'As wide as the channel'}; pan {send.pan === null
                  ? 'follows'
                  : 'of its own'}"
                onclick={() => setSend(send.targetId, { mono: !send.mono })}>{send.mono ? 'mono' : 'wide'}</button
              >
              <NumberField
                value={send.pan ?? 0}
                text={send.pan === null ? 'follows' : panText(send.pan)}
                label="Pan of send to {name}"
                parse={parsePan}
                width={50}
                dim={send.pan === null}
                onset={(pan) => setSend(send.targetId, { pan })}
                onnudge={(by, fine) => setSend(send.targetId, { pan: (send.pan ?? 0) + by * (fine ? 1 : 5) })}
                ondefault={() => setSend(send.targetId, { pan: null })}
              />
            </li>
          {/each}
        </ul>
      {/if}

      {#if channel.kind !== 'key'}<Placement {channel} />{/if}
      {#if channel.kind === 'key' || channel.pattern}<PatternEditor {channel} />{/if}
      <TraceSheet id={channel.id} />
      {#if channel.kind !== 'mix' && channel.kind !== 'cue' && channel.kind !== 'key'}
        <Button
          color="alternative"
          onclick={() => actions.route([channel.id], null)}
          disabled={channel.outputId === null && channel.outputPair === null}>Route nowhere</Button
        >
      {/if}
    {/if}
  {:else}
    <p class="hint">Select a channel to see its inserts, its sends and where it goes.</p>
    <p class="hint">
      Click, Shift and Ctrl select rows. <kbd>b</kbd> makes a bus from them, <kbd>e</kbd> sends them to a return, <kbd>r</kbd> routes them.
    </p>
    <SessionRules />
  {/if}
</aside>

<style>
  aside {
    overflow: auto;
    padding: 12px 14px 20px;
    border-left: 1px solid var(--line);
    background: var(--sheet);
  }
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  h2 {
    flex: 1;
    margin: 0;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  h3 {
    margin: 0;
  }
  .dot {
    width: 11px;
    height: 11px;
    flex: none;
    border-radius: 50%;
  }
  .small {
    width: 8px;
    height: 8px;
  }
  .kind {
    padding: 1px 7px;
    border-radius: 5px;
    background: var(--paper);
    color: var(--muted);
    font-size: 11.5px;
  }
  .swatches {
    display: flex;
    gap: 4px;
    margin: 10px 0 4px;
  }
  .swatches button {
    width: 17px;
    height: 13px;
    border-radius: 3px;
  }
  .swatches .on {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .title {
    display: flex;
    gap: 10px;
    margin: 14px 0 6px;
  }
  .title h3 {
    flex: 1;
  }
  .insert {
    margin-bottom: 8px;
    padding: 8px 10px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--paper);
  }
  .bypassed :global(.editor) {
    opacity: 0.45;
  }
  .bar {
    display: flex;
    gap: 10px;
    margin-bottom: 6px;
  }
  small {
    display: inline-block;
    white-space: nowrap;
    color: var(--muted);
    font-weight: 400;
  }
  .bar strong {
    flex: 1;
    font-weight: 600;
  }
  .bar button {
    white-space: nowrap;
    color: var(--muted);
    font-size: 12px;
  }
  .bar button:hover {
    color: var(--ink);
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    align-items: center;
    gap: 7px;
    min-height: 25px;
  }
  .send {
    flex-wrap: wrap;
    gap: 3px 7px;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
  }
  .break {
    width: 100%;
    height: 0;
  }
  .send .flip:nth-of-type(2) {
    margin-left: 15px;
  }
  .off {
    color: var(--muted);
    text-decoration: line-through;
  }
  .flip {
    display: inline-flex;
    align-items: center;
    gap: 3px;
    padding: 0 5px;
    border: 1px solid var(--line);
    border-radius: 4px;
    color: var(--muted);
    font-size: 11px;
  }
  .grow {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .hint {
    color: var(--muted);
    font-size: 12px;
  }
  kbd {
    padding: 0 4px;
    border: 1px solid var(--line);
    border-radius: 3px;
    font: 11px var(--font-mono);
  }
</style>

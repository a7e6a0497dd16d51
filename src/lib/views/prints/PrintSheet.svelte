<!-- What is printed, in what format, from where to where, under which names; and the button. -->
<script lang="ts">
  import { Button, Input, Select } from 'flowbite-svelte';
  import { kindOf, ownPass, plannedFiles, readOrder, type FileOrder, type Tail } from '$core/prints/order';
  import { FORMATS } from '$core/prints/order';
  import { fileNames, TOKENS, unknownTokens } from '$core/prints/names';
  import { endOf } from '$core/session/select';
  import { CURVES, type Curve } from '$core/session/tables/settings';
  import { useDesk } from '$lib/state/desk';
  import { timeText } from '$lib/ui/format';
  import { choiceOf, orderOf, type Whole } from './order.svelte';
  import Soundness from './Soundness.svelte';
  import { FORMAT_WORDS, framesOf, KIND_WORDS, megabytes } from './words';

  let { onprint }: { onprint: (order: object) => void } = $props();
  const { store, transport } = useDesk();
  const choice = choiceOf(store);
  const KINDS: readonly (readonly [Whole, string])[] = [
    ['stem', 'stems'],
    ['input', 'mix-bus input'],
    ['mix', 'mix'],
    ['raw', 'tracks'],
    ['dry', 'dry tracks'],
    ['chained', 'chained stems']
  ];
  const HINTS: Partial<Record<Whole, string>> = {
    chained: 'Each stem through the mix chain, whose keyed processors hear the whole mix. Not additive.',
    raw: 'Through their inserts, before their faders',
    dry: 'Before their inserts'
  };
  const RATES = [44100, 48000, 88200, 96000, 176400, 192000];
  const BYTES = { wav16: 2, wav24: 3, wav32: 4, wav32f: 4, flac16: 1.3, flac24: 2.2 };

  const rate = $derived(store.settings.rate);
  const printed = $derived(store.versions.filter(({ id }) => choice.prints(id)));
  const order = $derived(orderOf(choice, store.versions));
  const planned = $derived.by(() => {
    void store.soundness;
    store.watchClips();
    void store.tree;
    if (order.files.length === 0) return { ok: false as const, error: { message: 'Choose what to print.' } };
    const read = readOrder(order);
    if (!read.ok) return read;
    const files = plannedFiles(store.session, read.value);
    return files.ok ? { ok: true as const, value: { order: read.value, files: files.value } } : files;
  });
  const named = $derived(
    planned.ok ? fileNames(store.session, planned.value.order, planned.value.files, new Date().toISOString().slice(0, 10)) : null
  );
  const strange = $derived(unknownTokens(choice.how.names));
  const frames = $derived.by(() => {
    store.watchClips();
    return choice.how.ranges.length ? choice.how.ranges.reduce((sum, { from, to }) => sum + to - from, 0) : endOf(store.session);
  });
  const about = $derived.by(() => {
    if (!planned.ok) return '';
    const { files } = planned.value;
    const bytes = files.length * frames * ((choice.how.rate ?? rate) / rate) * BYTES[choice.how.format] * 2;
    const count = files.length * Math.max(1, choice.how.ranges.length);
    const own = printed.filter(ownPass).map(({ name }) => `“${name}”`);
    return `${count} file${count === 1 ? '' : 's'} of ${timeText(frames, rate).slice(0, -2)} and their tail, about ${megabytes(bytes)}. One pass${
      own.length ? `, and one more for ${own.join(', ')}` : ''
    }.`;
  });
  const button = $derived.by(() => {
    if (!planned.ok) return 'Print';
    const count = (kind: string) => planned.value.files.filter((file) => file.kind === kind).length;
    const [stems, versions] = [count('stem'), count('version')];
    const rest = planned.value.files.length - stems - versions;
    const parts = [
      ...(stems ? [`${stems} stem${stems === 1 ? '' : 's'}`] : []),
      ...(versions ? [`${versions} version${versions === 1 ? '' : 's'}`] : []),
      ...(rest ? [stems || versions ? `${rest} more` : rest === 1 ? planned.value.files[0].name : `${rest} files`] : [])
    ];
    return `Print ${[parts.slice(0, -1).join(', '), parts.at(-1)].filter(Boolean).join(' and ')}`;
  });

  /** What can be added by name: buses, returns, cues, tracks that are not printed as a whole. */
  const channels = $derived(
    store.channels.flatMap((channel) => {
      const kind = kindOf(channel);
      return kind && kind !== 'mix' && !channel.resting ? [{ id: channel.id, name: channel.name, kind }] : [];
    })
  );
  const add = (event: Event & { currentTarget: HTMLSelectElement }) => {
    const found = channels.find(({ id }) => id === event.currentTarget.value);
    if (found) choice.add({ kind: found.kind, id: found.id });
    event.currentTarget.value = '';
  };
  const nameOf = ({ id }: FileOrder) => store.channel(id!)?.name ?? 'gone';

  let [from, to] = $state(['', '']);
  const typed = $derived({ from: framesOf(from, rate), to: framesOf(to, rate) });
  const addRange = () => {
    if (typed.from === null || typed.to === null) return;
    choice.how.ranges = [...choice.how.ranges, { from: typed.from, to: typed.to }];
    [from, to] = ['', ''];
  };
  const addLoop = () => {
    if (transport.loop) choice.how.ranges = [...choice.how.ranges, { from: transport.loop.from, to: transport.loop.to }];
  };
  const addNamed = (event: Event & { currentTarget: HTMLSelectElement }) => {
    const found = store.ranges.find(({ id }) => id === event.currentTarget.value);
    event.currentTarget.value = '';
    if (found) choice.how.ranges = [...choice.how.ranges, { from: found.start, to: found.start + found.length, name: found.name }];
  };
  const tailValue = $derived(typeof choice.how.tail === 'number' ? 'seconds' : choice.how.tail);
  const setTail = (value: string) => (choice.how.tail = value === 'seconds' ? 3 : (value as Tail));
  const bits = $derived(choice.how.format === 'wav32' || choice.how.format === 'wav32f' ? 0 : Number(choice.how.format.slice(-2)));

  const fades = $derived([
    { side: 'in' as const, word: 'Fade-in', frames: store.settings.fadeIn, curve: store.settings.fadeInCurve },
    { side: 'out' as const, word: 'Fade-out', frames: store.settings.fadeOut, curve: store.settings.fadeOutCurve }
  ]);
  const CURVE_WORDS: Record<Curve, string> = { linear: 'linear', power: 'equal power', slow: 'slow', fast: 'fast' };
  const setFade = (side: 'in' | 'out', length: number, curve: Curve) => store.act([{ do: 'fades.set', [side]: { frames: length, curve } }]);
  const fadeTyped = (side: 'in' | 'out', text: string, curve: Curve) => {
    const length = framesOf(text, rate);
    if (length === null) store.say('Type a time in seconds, such as 1.5.');
    else setFade(side, length, curve);
  };
</script>

<aside aria-label="Print">
  <h1>Print</h1>
  <div class="chips">
    {#each KINDS as [kind, word] (kind)}
      <button class="chip" aria-pressed={choice.kinds.has(kind)} data-hint={HINTS[kind]} onclick={() => choice.turn(kind)}>{word}</button>
    {/each}
    {#if store.versions.length}<span class="chip still" class:on={printed.length > 0}
        >{printed.length} version{printed.length === 1 ? '' : 's'}</span
      >{/if}
    {#each choice.channels as file (`${file.kind} ${file.id}`)}
      <button class="chip" aria-pressed="true" aria-label="Do not print {nameOf(file)}" onclick={() => choice.drop(file)}
        >{nameOf(file)} ×</button
      >
    {/each}
    <Select placeholder="" class="w-[92px]" classes={{ select: 'h-6 text-[12px]' }} aria-label="Print a channel by itself" onchange={add}>
      <option value="">+ channel…</option>
      {#each channels as channel (channel.id)}<option value={channel.id}>{channel.name} · {KIND_WORDS[channel.kind]}</option>{/each}
    </Select>
  </div>
  <Soundness />
  <div class="lines">
    <label for="print-format">Format</label>
    <div class="pair">
      <Select placeholder="" id="print-format" bind:value={choice.how.format}>
        {#each FORMATS as format (format)}<option value={format}>{FORMAT_WORDS[format]}</option>{/each}
      </Select>
      <Select
        placeholder=""
        aria-label="Sample rate"
        value={choice.how.rate === null ? '' : String(choice.how.rate)}
        onchange={(event) => (choice.how.rate = event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
      >
        <option value="">{rate / 1000} kHz</option>
        {#each RATES.filter((other) => other !== rate) as other (other)}<option value={String(other)}>{other / 1000} kHz, resampled</option
          >{/each}
      </Select>
    </div>
    {#if bits > 0}
      <span>Dither</span>
      <Select
        placeholder=""
        aria-label="Dither"
        value={choice.how.dither === null ? '' : choice.how.dither ? 'on' : 'off'}
        onchange={(event) => (choice.how.dither = event.currentTarget.value === '' ? null : event.currentTarget.value === 'on')}
      >
        <option value="">{bits === 16 ? 'TPDF' : 'none'}</option>
        <option value={bits === 16 ? 'off' : 'on'}>{bits === 16 ? 'none' : 'TPDF'}</option>
      </Select>
    {/if}
    <span>Range</span>
    <div>
      {#if choice.how.ranges.length === 0}<span class="muted">start to end</span>{/if}
      {#each choice.how.ranges as range, i (i)}
        <span class="range num"
          >{#if range.name}{range.name} ·{/if}
          {timeText(range.from, rate)} – {timeText(range.to, rate)}
          <button aria-label="Remove this range" onclick={() => (choice.how.ranges = choice.how.ranges.filter((_, n) => n !== i))}>×</button
          ></span
        >
      {/each}
      <div class="pair">
        <Input class="num" aria-label="From" placeholder="0:00" bind:value={from} />
        <Input class="num" aria-label="To" placeholder="0:30" bind:value={to} onkeydown={(event) => event.key === 'Enter' && addRange()} />
        <Button color="alternative" disabled={typed.from === null || typed.to === null} onclick={addRange}>Add</Button>
        {#if transport.loop}<Button color="alternative" onclick={addLoop}>The loop</Button>{/if}
      </div>
      {#if store.ranges.length}
        <Select placeholder="" class="mt-1 w-full" aria-label="Add a named range" onchange={addNamed}>
          <option value="">a range by its name…</option>
          {#each store.ranges as range (range.id)}<option value={range.id}>{range.name}</option>{/each}
        </Select>
      {/if}
    </div>
    {#if choice.how.ranges.length}
      <span>Pre-roll</span>
      <Select
        placeholder=""
        aria-label="Pre-roll"
        value={choice.how.preRoll === null ? '' : String(choice.how.preRoll)}
        onchange={(event) => (choice.how.preRoll = event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
      >
        <option value="">from the session’s start: exact</option>
        {#each [0, 2, 5, 10, 30] as seconds (seconds)}<option value={String(seconds)}>{seconds} s before</option>{/each}
      </Select>
    {/if}
    <span>Tail</span>
    <div class="pair">
      <Select placeholder="" aria-label="Tail" value={tailValue} onchange={(event) => setTail(event.currentTarget.value)}>
        <option value="decay">until −90 dBFS</option><option value="none">none</option><option value="seconds">seconds</option>
      </Select>
      {#if typeof choice.how.tail === 'number'}<Input
          class="num"
          type="number"
          min="0"
          max="600"
          step="0.5"
          aria-label="Seconds of tail"
          value={choice.how.tail}
          onchange={(event) => (choice.how.tail = Math.max(0, Math.min(600, Number(event.currentTarget.value) || 0)))}
        />{/if}
    </div>
    {#each fades as { side, word, frames: length, curve } (side)}
      <span>{word}</span>
      <div class="pair">
        <Input
          class="num"
          aria-label="{word} of the mix, seconds"
          value={String(Math.round((length / rate) * 1000) / 1000)}
          onchange={(event) => fadeTyped(side, event.currentTarget.value, curve)}
        />
        <span class="muted">s</span>
        <Select
          placeholder=""
          aria-label="Curve of the {word.toLowerCase()}"
          value={curve}
          onchange={(event) => setFade(side, length, event.currentTarget.value as Curve)}
        >
          {#each CURVES as each (each)}<option value={each}>{CURVE_WORDS[each]}</option>{/each}
        </Select>
      </div>
    {/each}
    <label for="print-names">Names</label>
    <div>
      <Input
        id="print-names"
        class="num names"
        bind:value={choice.how.names}
        aria-describedby="print-example"
        data-hint={Object.entries(TOKENS)
          .map(([token, means]) => `{${token}} ${means}`)
          .join('\n')}
      />
      {#if strange.length}<p class="bad">
          {`{${strange[0]}}`} stands for nothing. Use {Object.keys(TOKENS)
            .map((token) => `{${token}}`)
            .join(' ')}.
        </p>{/if}
      {#if named}<p id="print-example" class="muted example">{named.names[0]}</p>{/if}
      {#each named?.notes ?? [] as note (note)}<p class="muted">{note}</p>{/each}
    </div>
  </div>
  <div class="go">
    {#if planned.ok}<p class="muted">{about}</p>{:else}<p class="bad" role="status">{planned.error.message}</p>{/if}
    <Button class="w-full" disabled={!planned.ok || store.saving !== 'saved'} onclick={() => onprint(order)}>{button}</Button>
  </div>
</aside>

<style>
  aside {
    display: flex;
    flex-direction: column;
    gap: 12px;
    width: 320px;
    flex: none;
    padding: 16px 14px;
    overflow: auto;
    border-left: 1px solid var(--line);
    background: var(--sheet);
  }
  .go {
    position: sticky;
    bottom: -16px;
    display: grid;
    gap: 10px;
    margin: 0 -14px -16px;
    padding: 10px 14px 14px;
    border-top: 1px solid var(--line);
    background: var(--sheet);
  }
  h1 {
    margin: 0;
    font-size: 15px;
    font-weight: 650;
  }
  p {
    margin: 0;
  }
  .muted {
    color: var(--muted);
  }
  .bad {
    color: var(--persimmon);
  }
  .chips {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .chip {
    padding: 1px 8px;
    border: 1px dashed var(--line);
    border-radius: 6px;
    color: var(--muted);
    line-height: 20px;
  }
  .chip[aria-pressed='true'],
  .chip.on {
    border: 1px solid var(--kelp);
    color: var(--kelp);
    font-weight: 600;
  }
  .lines {
    display: grid;
    grid-template-columns: 62px 1fr;
    gap: 8px;
    align-items: baseline;
  }
  .lines > :nth-child(odd) {
    color: var(--muted);
  }
  .pair {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .pair :global(input) {
    flex: 1;
    width: 0;
  }
  .range {
    display: flex;
    justify-content: space-between;
    padding-bottom: 3px;
    font-size: 12px;
  }
  .example {
    font-size: 12px;
    overflow-wrap: anywhere;
  }
</style>

<!-- What a key track or a click plays: pulses on a note value, the notes of a MIDI file, or the onsets of another track. -->
<script lang="ts">
  import { Select } from 'flowbite-svelte';
  import { idsBy } from '$core/session/lookup';
  import { NOTE_VALUES, defaultPattern } from '$core/commands/keys';
  import { notesOf } from '$core/formats/midi';
  import type { Taken } from '$core/commands/intake';
  import { settingsOf, type Channel, type Pattern } from '$core/session/entities';
  import FileInput from '$lib/ui/FileInput.svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { dbText, parseDb } from '$lib/ui/format';
  import { ask } from '$lib/state/api';
  import { useDesk } from '$lib/state/desk';

  let { channel }: { channel: Channel } = $props();
  const { store, importer } = useDesk();
  const pattern = $derived(channel.pattern);
  let busy = $state('');
  let file = $state<FileInput>();
  let recording = $state<FileInput>();
  const NAMES: Record<number, string> = { 4: '1/1', 2: '1/2', 1.5: '1/4 dotted', 1: '1/4', 0.75: '1/8 dotted', 0.5: '1/8', 0.25: '1/16' };
  const tracks = $derived(store.channels.filter(({ kind, id, pattern: own }) => kind === 'track' && id !== channel.id && !own));

  const clips = $derived.by(() => {
    store.watchClips();
    return idsBy(store.session, 'clip', 'channelId', channel.id).length > 0;
  });
  const fill = ([{ media, timeReference }]: readonly Taken[]) => {
    const { zero } = settingsOf(store.session);
    const start = Math.max(0, (timeReference ?? zero) - zero);
    return store.act([
      { do: 'tracks.fill', tracks: [{ id: channel.id, media, start }] },
      ...(pattern ? ([{ do: 'patterns.set', id: channel.id, pattern: null }] as const) : [])
    ]);
  };
  const set = (next: Pattern | null) => store.act([{ do: 'patterns.set', id: channel.id, pattern: next as never }]);
  const shape = () => {
    const { levelDb, length, decay } = pattern ?? defaultPattern;
    return { levelDb, length, decay };
  };
  const change = (fields: Partial<{ levelDb: number; length: number; decay: number; every: number; accentDb: number }>) =>
    pattern && set({ ...pattern, ...fields } as Pattern);

  const readMidi = async (chosen: File) => {
    const read = notesOf(new Uint8Array(await chosen.arrayBuffer()));
    if (!read.ok) return store.say(`${chosen.name}: ${read.error.message}`);
    const { at, velocity } = read.value;
    set({ of: 'notes', ...shape(), file: chosen.name, at, velocity });
    store.say(`${at.length} notes of ${chosen.name}.`);
  };
  const takeOnsets = async (trackId: string) => {
    busy = 'Listening for onsets…';
    const answer = await ask<{ at: number[] }>('GET', `/api/sessions/${store.id}/onsets?track=${encodeURIComponent(trackId)}`);
    busy = '';
    if (!answer.ok) return store.say(answer.error.message);
    set({ of: 'onsets', ...shape(), trackId, at: answer.value.at });
    store.say(`${answer.value.at.length} onsets of ${store.session.channel.get(trackId)?.name}.`);
  };
  const choose = (kind: string) => {
    if (kind === '') set(null);
    else if (kind === 'pulse') set({ of: 'pulse', every: 1, accentDb: 0, ...shape() });
    else if (kind === 'recording') recording?.choose();
    else if (kind === 'notes') file?.choose();
    else void takeOnsets(kind);
  };
  const said = $derived(!pattern ? '' : pattern.of === 'pulse' ? 'pulse' : pattern.of === 'onsets' ? pattern.trackId : 'notes');
  /** Whether the track whose onsets these are was removed: they stay, and cannot be listened to again. */
  const gone = $derived(pattern?.of === 'onsets' && !tracks.some(({ id }) => id === pattern.trackId));
  const parse = (typed: string) => {
    const number = Number(
      typed
        .trim()
        .replace(',', '.')
        .replace('−', '-')
        .replace(/\s*ms$/, '')
    );
    return typed.trim() !== '' && Number.isFinite(number) ? number : null;
  };
  const ms = (value: number) => `${Math.round(value * 10) / 10} ms`;
</script>

<h3 class="caps">Plays</h3>
<FileInput bind:this={file} label="MIDI file" accept=".mid,.midi" multiple={false} onfiles={([chosen]) => void readMidi(chosen)} />
<FileInput
  bind:this={recording}
  label="Recording for this key track"
  multiple={false}
  onfiles={(files) => void importer.add(files, { then: fill })}
/>
<div class="line">
  <span>Pattern</span>
  <Select
    class="min-w-0"
    classes={{ select: 'px-1 text-[12px]' }}
    placeholder=""
    aria-label="Pattern"
    value={said}
    onchange={(event) => choose(event.currentTarget.value)}
  >
    <option value="">{clips ? 'its recording' : 'nothing yet'}</option>
    {#if !clips}<option value="recording">a recording…</option>{/if}
    <option value="pulse">pulses</option>
    <option value="notes">{pattern?.of === 'notes' ? `notes of ${pattern.file || 'a MIDI file'}` : 'notes of a MIDI file…'}</option>
    <optgroup label="onsets of">
      {#each tracks as { id, name } (id)}<option value={id}>{name}</option>{/each}
      {#if gone}<option value={said}>a removed track</option>{/if}
    </optgroup>
  </Select>
</div>
{#if busy}<p class="hint" role="status">{busy}</p>{/if}
{#if pattern}
  {#if pattern.of === 'pulse'}
    <div class="line">
      <span>Every</span>
      <Select
        class="min-w-0"
        classes={{ select: 'px-1 text-[12px]' }}
        placeholder=""
        aria-label="Note value"
        value={pattern.every}
        onchange={(event) => change({ every: Number(event.currentTarget.value) })}
      >
        {#each NOTE_VALUES as value (value)}<option {value}>{NAMES[value]}</option>{/each}
      </Select>
    </div>
    <div class="line">
      <span>First of a bar</span>
      <NumberField
        value={pattern.accentDb}
        text="{dbText(pattern.accentDb)} dB"
        label="Accent"
        width={76}
        parse={parseDb}
        onset={(accentDb) => change({ accentDb: Math.max(0, Math.min(24, accentDb)) })}
        onnudge={(by) => change({ accentDb: Math.max(0, Math.min(24, pattern.accentDb + by)) })}
        ondefault={() => change({ accentDb: 0 })}
      />
    </div>
  {:else}
    <p class="hint">
      {pattern.at.length} pulses.{#if pattern.of === 'notes'}&nbsp;<button onclick={() => file?.choose()}>Another file…</button
        >{:else if !gone}&nbsp;<button onclick={() => void takeOnsets(pattern.trackId)}>Listen again</button>{/if}
    </p>
  {/if}
  <div class="line">
    <span>Level</span>
    <NumberField
      value={pattern.levelDb}
      text="{dbText(pattern.levelDb)} dB"
      label="Level of a pulse"
      width={76}
      parse={parseDb}
      onset={(levelDb) => change({ levelDb: Math.max(-120, Math.min(0, levelDb)) })}
      onnudge={(by) => change({ levelDb: Math.max(-120, Math.min(0, pattern.levelDb + by)) })}
      ondefault={() => change({ levelDb: 0 })}
    />
  </div>
  <div class="line">
    <span>Length</span>
    <NumberField
      value={pattern.length}
      text={ms(pattern.length)}
      label="Length of a pulse"
      width={76}
      {parse}
      onset={(length) => change({ length: Math.max(0, Math.min(10000, length)) })}
      onnudge={(by, fine) => change({ length: Math.max(0, pattern.length + by * (fine ? 1 : 5)) })}
      ondefault={() => change({ length: defaultPattern.length })}
    />
  </div>
  <div class="line">
    <span>Falls 60 dB in</span>
    <NumberField
      value={pattern.decay}
      text={ms(pattern.decay)}
      label="Decay of a pulse"
      width={76}
      {parse}
      onset={(decay) => change({ decay: Math.max(0, Math.min(10000, decay)) })}
      onnudge={(by, fine) => change({ decay: Math.max(0, pattern.decay + by * (fine ? 1 : 10)) })}
      ondefault={() => change({ decay: defaultPattern.decay })}
    />
  </div>
{/if}
{#if channel.kind === 'key'}<p class="hint">
    Heard by key inputs only: choose it as the key of a compressor. Its length shapes the ducking.
  </p>{/if}

<style>
  h3 {
    margin: 14px 0 4px;
  }
  .line {
    display: grid;
    grid-template-columns: 96px minmax(0, 1fr);
    align-items: center;
    min-height: 26px;
    font-size: 12px;
  }
  .line :global(button.num),
  .line :global(input.num) {
    justify-self: end;
  }
  .hint {
    margin: 2px 0;
    color: var(--muted);
    font-size: 12px;
  }
  .hint button {
    color: var(--kelp);
    font-weight: 600;
  }
</style>

<!-- The selected clips in the side sheet: where they stand, gain, fades, and what follows their edits. -->
<script lang="ts">
  import { v4 as uuid } from 'uuid';
  import { Badge, Button, Select } from 'flowbite-svelte';
  import type { Clip, Curve } from '$core/session/entities';
  import { clipEnd } from '$core/session/joints';
  import { clipsInTime } from '$core/session/timeline';
  import { CURVES } from '$core/session/tables/settings';
  import { MAX_CLIP_DB, MIN_CLIP_DB } from '$core/session/tables/clip';
  import { barText, timeText } from '$core/time';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import { dbText } from '$lib/ui/format';
  import NumberField from '$lib/ui/NumberField.svelte';
  import type { Edits } from './edits.svelte';
  import PlaceField from './PlaceField.svelte';

  let { edits }: { edits: Edits } = $props();
  const { store } = useDesk();
  const clips = $derived.by(() => {
    store.watchClips();
    return edits.chosen();
  });
  const clip = $derived<Clip | undefined>(clips[0]);
  const several = $derived(clips.length > 1);
  const channel = $derived(clip && store.channel(clip.channelId));
  const media = $derived(clip && store.session.media.get(clip.mediaId));
  const { rate } = store.settings;
  const bars = (frames: number) => barText(frames, rate, store.settings.bpm, store.settings.beatsPerBar);
  const ids = $derived(clips.map(({ id }) => id));
  const CURVE_WORDS: Record<Curve, string> = { linear: 'linear', power: 'equal power', slow: 'slow', fast: 'fast' };
  const SIDES = { both: '', left: ', left side', right: ', right side' } as const;
  const parseMs = (typed: string) => {
    const value = Number(
      typed
        .trim()
        .replace(',', '.')
        .replace(/\s*ms$/, '')
    );
    return Number.isFinite(value) && value >= 0 && typed.trim() !== '' ? value : null;
  };
  const msOf = (frames: number) => (frames / rate) * 1000;
  const parseGain = (typed: string) => {
    const value = Number(typed.trim().replace('−', '-').replace(',', '.'));
    if (typed.trim() === '' || !Number.isFinite(value)) return null;
    const within = Math.max(MIN_CLIP_DB, Math.min(MAX_CLIP_DB, value));
    if (within !== value) store.say(`A clip’s gain is ${MIN_CLIP_DB} to +${MAX_CLIP_DB} dB: ${dbText(within)} dB was set.`);
    return within;
  };
  const gain = (db: number, gesture: string | null = null) => store.act([{ do: 'clips.gain', ids, db }], gesture);
  let gesture: string | null = null;
  let last = 0;
  const nudged = () => {
    if (performance.now() - last > 700) gesture = uuid();
    last = performance.now();
    return gesture;
  };
  /** A fade as long as was typed, or as long as all of the clips have room for. */
  const fade = (side: 'in' | 'out', ms: number) => {
    const asked = Math.round((ms * rate) / 1000);
    const most = Math.min(...clips.map((each) => each.length - (side === 'in' ? each.fadeOut : each.fadeIn)));
    if (asked > most) store.say(`There is room for ${Math.floor(msOf(most))} ms: so long the fade is.`);
    store.act([{ do: 'clips.fade', ids, [side]: { frames: Math.min(most, asked) } }]);
  };
  const curve = (side: 'in' | 'out', to: Curve) =>
    store.act(
      clips.map((each) => ({
        do: 'clips.fade' as const,
        ids: [each.id],
        [side]: { frames: side === 'in' ? each.fadeIn : each.fadeOut, curve: to }
      }))
    );
  const follow = $derived.by(() => {
    store.watchGroups();
    const tracks = [...new Set(clips.map(({ channelId }) => channelId))];
    return tracks.flatMap((id) =>
      store.linksOf(id).flatMap(({ link, active }) => {
        const edits = link.attributes.filter((each) => each === 'cuts' || each === 'moves' || each === 'fades');
        if (!edits.length) return [];
        const others = [...store.session.linkMember.values()].flatMap((member) =>
          member.linkId === link.id && member.channelId !== id ? [store.session.channel.get(member.channelId)?.name ?? ''] : []
        );
        return [
          {
            key: `${id} ${link.id}`,
            text: `${store.session.channel.get(id)?.name}: ${edits.join(', ')} followed by ${others.join(', ') || 'nobody'} (${link.badge})${active ? '' : ', paused'}`
          }
        ];
      })
    );
  });
  const beside = $derived.by(() => {
    if (several || !clip) return false;
    return clipsInTime(store.session, clip.channelId).some(
      (other) => other.id !== clip.id && (other.start === clipEnd(clip) || clipEnd(other) === clip.start)
    );
  });
  const small = 'text-[12px] font-medium';
</script>

{#if clip && channel}
  <header>
    <i style:background={channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)}></i>
    <h2>{several ? `${clips.length} clips` : (media?.name.replace(/\.[^.]+$/, '') ?? 'clip')}</h2>
    <Badge color="gray">clip</Badge>
  </header>
  <p class="hint">
    {#if several}
      {bars(clip.start)} to {bars(Math.max(...clips.map(clipEnd)))}
    {:else}
      {channel.name}{SIDES[clip.side]}, {bars(clip.start)} to {bars(clipEnd(clip))}, from {timeText(clip.offset, rate)} of the recording
    {/if}
  </p>
  <div class="lines">
    <span>Start</span>
    <PlaceField frames={clip.start} label="Start" onset={(to) => store.act([{ do: 'clips.move', ids, by: to - clip.start }])} />
    {#if !several}
      <span>Length</span>
      <PlaceField
        frames={clip.length}
        length
        label="Length"
        onset={(to) => store.act([{ do: 'clips.trim', ids, end: clip.start + Math.max(1, to) }])}
      />
      <span>From</span>
      <PlaceField
        frames={clip.offset}
        length
        label="Beginning in the recording"
        onset={(to) => store.act([{ do: 'clips.trim', ids, start: Math.max(0, clip.start + to - clip.offset) }])}
      />
    {/if}
    <span>Gain</span>
    <NumberField
      value={clip.gainDb}
      text="{dbText(clip.gainDb)} dB"
      label="Gain in dB"
      parse={parseGain}
      width={168}
      onset={(db) => gain(db)}
      onnudge={(by, fine) =>
        gain(Math.max(MIN_CLIP_DB, Math.min(MAX_CLIP_DB, Math.round((clip.gainDb + by * (fine ? 0.1 : 0.5)) * 100) / 100)), nudged())}
      ondefault={() => gain(0)}
    />
    {#each ['in', 'out'] as const as side (side)}
      {@const frames = side === 'in' ? clip.fadeIn : clip.fadeOut}
      <span>Fade {side}</span>
      <div class="fade">
        <NumberField
          value={msOf(frames)}
          text="{msOf(frames) < 100 ? Math.round(msOf(frames) * 10) / 10 : Math.round(msOf(frames))} ms"
          label="Fade {side} in ms"
          parse={parseMs}
          hint="Type milliseconds, such as 40"
          width={62}
          onset={(ms) => fade(side, ms)}
          onnudge={(by, fine) => fade(side, Math.max(0, msOf(frames) + by * (fine ? 1 : 10)))}
          ondefault={() => fade(side, store.settings.edgeMs)}
        />
        <Select
          placeholder=""
          aria-label="Curve of the fade {side}"
          value={side === 'in' ? clip.fadeInCurve : clip.fadeOutCurve}
          onchange={(event) => curve(side, event.currentTarget.value as Curve)}
        >
          {#each CURVES as each (each)}<option value={each}>{CURVE_WORDS[each]}</option>{/each}
        </Select>
      </div>
    {/each}
  </div>
  <div class="buttons">
    <Button size="xs" color="alternative" class={small} onclick={edits.mute}>{clips.some(({ muted }) => !muted) ? 'Mute' : 'Unmute'}</Button
    >
    <Button size="xs" color="alternative" class={small} onclick={edits.duplicate}>Duplicate</Button>
    {#if several || beside}
      <Button size="xs" color="alternative" class={small} onclick={edits.join}>Cross</Button>
      <Button size="xs" color="alternative" class={small} onclick={edits.reunite}>Reunite</Button>
    {/if}
    <Button size="xs" color="alternative" class={small} onclick={edits.takeOut}>Take out</Button>
  </div>
  <h3 class="caps">Edits follow</h3>
  {#each follow as { key, text } (key)}
    <p class="hint">{text}.</p>
  {:else}
    <p class="hint">
      No group: edits of {several ? 'these tracks' : channel.name} stay their own. A link group with cuts, moves or fades carries them on.
    </p>
  {/each}
{/if}

<style>
  header {
    display: flex;
    align-items: center;
    gap: 8px;
  }
  header i {
    flex: none;
    width: 12px;
    height: 12px;
    border-radius: 50%;
  }
  h2 {
    flex: 1;
    min-width: 0;
    margin: 0;
    overflow: hidden;
    font-size: 15.5px;
    font-weight: 650;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .hint {
    margin: 8px 0;
    color: var(--muted);
    font-size: 12.5px;
  }
  .lines {
    display: grid;
    grid-template-columns: auto 172px;
    align-items: center;
    gap: 5px 8px;
    padding: 10px 0;
    border-block: 1px solid var(--hair);
  }
  .lines > span {
    color: var(--muted);
  }
  .fade {
    display: flex;
    gap: 4px;
  }
  .fade :global(select) {
    width: 108px;
  }
  .buttons {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin: 12px 0 4px;
  }
  h3 {
    margin: 14px 0 0;
  }
</style>

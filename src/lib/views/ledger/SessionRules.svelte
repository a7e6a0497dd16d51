<!-- Rules of the whole session, shown while no channel is selected: pan law, what mute closes, how far solo dims, tempo. -->
<script lang="ts">
  import { Checkbox, Select } from 'flowbite-svelte';
  import NumberField from '$lib/ui/NumberField.svelte';
  import { dbText, parseDb } from '$lib/ui/format';
  import { useDesk } from '$lib/state/desk';

  const { store } = useDesk();
  const { settings } = $derived(store);
  const number = (typed: string) => {
    const value = Number(typed.trim().replace(',', '.'));
    return typed.trim() !== '' && Number.isFinite(value) ? value : null;
  };
  const LAWS = [
    [-3, '−3 dB, equal power'],
    [-4.5, '−4.5 dB'],
    [-6, '−6 dB, linear'],
    [0, '0 dB, balance']
  ] as const;
</script>

<h3 class="caps">This session</h3>
<label class="line"
  >Pan law
  <Select
    placeholder=""
    value={settings.panLaw}
    onchange={(event) => store.act([{ do: 'settings.set', panLaw: Number(event.currentTarget.value) as -3 }])}
    >{#each LAWS as [law, name] (law)}<option value={law}>{name}</option>{/each}</Select
  ></label
>
<p class="hint">Mute closes, besides what is taken after the fader, what is taken before it for</p>
<Checkbox
  checked={settings.muteClosesPre}
  onchange={(event) => store.act([{ do: 'settings.set', muteClosesPre: event.currentTarget.checked }])}>returns</Checkbox
>
<Checkbox
  checked={settings.muteClosesCue}
  onchange={(event) => store.act([{ do: 'settings.set', muteClosesCue: event.currentTarget.checked }])}>cues</Checkbox
>
<div class="line">
  <span>Solo dims the rest by</span>
  <NumberField
    value={settings.soloDimDb ?? -Infinity}
    text={settings.soloDimDb === null ? 'silent' : `${dbText(settings.soloDimDb)} dB`}
    label="Level of what is not soloed"
    parse={parseDb}
    width={76}
    onset={(db) => store.act([{ do: 'settings.set', soloDimDb: db === -Infinity ? null : Math.max(-60, Math.min(0, -Math.abs(db))) }])}
    onnudge={(by) => store.act([{ do: 'settings.set', soloDimDb: Math.max(-60, Math.min(0, (settings.soloDimDb ?? -20) + by)) }])}
    ondefault={() => store.act([{ do: 'settings.set', soloDimDb: null }])}
  />
</div>
<div class="line">
  <span>Tempo</span>
  <NumberField
    value={settings.bpm}
    text="{settings.bpm} BPM"
    label="Tempo"
    parse={number}
    width={76}
    onset={(bpm) => store.act([{ do: 'settings.set', bpm }])}
    onnudge={(by, fine) => store.act([{ do: 'settings.set', bpm: settings.bpm + by * (fine ? 0.1 : 1) }])}
    ondefault={() => store.act([{ do: 'settings.set', bpm: 120 }])}
  />
</div>

<style>
  h3 {
    margin: 18px 0 6px;
  }
  .line {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 10px;
    min-height: 28px;
  }
  label {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 24px;
  }
  .hint {
    margin: 6px 0 0;
    color: var(--muted);
    font-size: 12px;
  }
</style>

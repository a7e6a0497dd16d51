<!-- A position on the timeline, or a length of it, that can be typed in bars or in time, and nudged by a millisecond, with Shift by a frame. -->
<script lang="ts">
  import { barText, positionOf, timeText } from '$core/time';
  import { useDesk } from '$lib/state/desk';
  import NumberField from '$lib/ui/NumberField.svelte';

  type Props = { frames: number; label: string; length?: boolean; width?: number; onset: (frames: number) => void };
  let { frames, label, length = false, width = 168, onset }: Props = $props();
  const { store } = useDesk();
  const { rate } = store.settings;
  const text = $derived(length ? timeText(frames, rate) : barText(frames, rate, store.settings.bpm, store.settings.beatsPerBar));
</script>

<NumberField
  value={frames}
  {text}
  {label}
  {width}
  parse={(typed) => positionOf(typed, store.settings)}
  write={() => (length ? timeText(frames, rate) : text)}
  hint="Type bars, such as “bar 9 · 2 + 210”, a time, such as 0:12.5, or frames, such as “4800 f”"
  {onset}
  onnudge={(by, fine) => onset(Math.max(0, frames + by * (fine ? 1 : Math.round(rate / 1000))))}
  ondefault={() => {}}
/>

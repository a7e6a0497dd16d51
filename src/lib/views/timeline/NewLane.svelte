<!-- What of the selected channel, or of a VCA, gets a lane: chosen from a list, by typing. -->
<script lang="ts">
  import { processors } from '$core/processors/index';
  import { laneTitle, type LanePlace } from '$core/lanes/kinds';
  import { laneOf } from '$core/lanes/points';
  import type { Lane } from '$core/session/entities';
  import { rowsBy } from '$core/session/lookup';
  import { isVca } from '$core/session/vcas';
  import { widthOf } from '$core/routing/width';
  import { useDesk } from '$lib/state/desk';
  import { family } from '$lib/ui/colours';
  import Picker from '$lib/ui/Picker.svelte';
  import type { Lanes } from './lanes.svelte';

  let { lanes, onclose }: { lanes: Lanes; onclose: () => void } = $props();
  const { store, selection } = useDesk();
  const { session } = store;
  type Made = { channelId: string; of: Lane['of']; target?: string; insertId?: string; param?: string };

  /** All that a channel can have lanes of, and has none of yet. */
  const offers = (channelId: string): Made[] => {
    const channel = session.channel.get(channelId)!;
    if (isVca(channel))
      return [
        { channelId, of: 'fader' },
        { channelId, of: 'mute' }
      ];
    const made: Made[] = (['fader', 'mute', 'pan', 'faderTrim'] as const).map((of) => ({ channelId, of }));
    if (channel.panRight !== null) made.push({ channelId, of: 'panRight' });
    if (widthOf(session, channel) === 2) made.push({ channelId, of: 'spread' });
    for (const { targetId: target } of rowsBy(session, 'send', 'sourceId', channelId))
      for (const of of ['sendLevel', 'sendOn', 'sendTrim'] as const) made.push({ channelId, of, target });
    for (const { id: insertId, type } of store.inserts(channelId)) {
      made.push({ channelId, of: 'bypass', insertId });
      for (const { id: param, latency } of processors[type].specs.values())
        if (!latency) made.push({ channelId, of: 'param', insertId, param });
    }
    return made;
  };
  const placeOf = ({ channelId, of, target, insertId, param }: Made): LanePlace => ({
    ...{ channelId, of, targetId: target ?? null, insertId: insertId ?? null, param: param ?? null }
  });
  const ids = $derived([...new Set([...(selection.last ? [selection.last] : []), ...selection.ids, ...store.vcas.map(({ id }) => id)])]);
  const all = $derived(ids.flatMap((id) => (session.channel.has(id) ? offers(id) : [])).filter((made) => !laneOf(session, placeOf(made))));
  const choices = $derived(
    all.map((made, i) => {
      const channel = session.channel.get(made.channelId)!;
      return {
        id: String(i),
        name: laneTitle(session, placeOf(made)),
        detail: channel.name,
        colour: channel.kind === 'mix' ? 'var(--muted)' : family(channel.colour)
      };
    })
  );
</script>

<Picker
  title="New lane"
  {choices}
  makes={[]}
  placeholder="Fader, mute, a send, a parameter…"
  none="Select a row first: its values are offered here."
  onpick={(id) => {
    lanes.open(all[Number(id)].channelId);
    lanes.make(all[Number(id)]);
    onclose();
  }}
  onmake={() => undefined}
  {onclose}
/>

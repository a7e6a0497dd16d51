// The menu of clips: what can be done to those that are selected.
import type { MenuEntry } from '$lib/ui/Menu.svelte';
import type { Edits } from './edits.svelte';

export function clipMenu(edits: Edits, findBleed: () => void): MenuEntry[] {
  const off = !edits.some();
  const muted = !off && edits.chosen().every((clip) => clip.muted);
  return [
    {
      label: edits.range ? 'Cut at both ends of the range' : 'Cut at the playhead',
      keys: 'k',
      run: edits.cut,
      off: off && !edits.rows().length
    },
    {
      label: edits.range ? 'Take the range out' : 'Take out',
      keys: 'Del',
      run: edits.takeOut,
      off: off && !(edits.range && edits.rows().length)
    },
    { label: 'Fade in up to the playhead', keys: 'i', run: () => edits.fadeTo('in'), off },
    { label: 'Fade out from the playhead', keys: 'o', run: () => edits.fadeTo('out'), off },
    { label: 'Begin at the playhead', keys: 'q', run: () => edits.trimTo('start'), off },
    { label: 'End at the playhead', keys: 'w', run: () => edits.trimTo('end'), off },
    { label: 'Cross clips that meet', keys: 'x', run: edits.join, off },
    { label: 'Reunite pieces', keys: 'u', run: edits.reunite, off },
    { label: 'Duplicate behind', keys: 'd', run: edits.duplicate, off },
    { label: muted ? 'Unmute' : 'Mute', keys: 'm', run: edits.mute, off },
    { label: 'New range', keys: 'g', run: edits.newRange, off: off && !edits.range },
    { label: 'Find bleed…', keys: 'b', run: findBleed, off: !edits.rows().length }
  ];
}

// Everything that can be done on the Timeline from the keyboard, by name.
import type { KeyedCommand } from '../rowKeys';
import type { Edits } from './edits.svelte';
import type { TimeSpan } from './span.svelte';

type Means = {
  readonly edits: Edits;
  readonly span: TimeSpan;
  readonly findBleed: () => void;
  readonly newLane: () => void;
  readonly rowBy: (by: 1 | -1) => void;
  /** So many times closer, around the playhead where that is in view. */
  readonly zoom: (factor: number) => void;
  readonly find: () => void;
  readonly toRow: (direction: -1 | 1) => void;
  readonly heights: (by: 1 | -1) => void;
  readonly hasRows: () => boolean;
  readonly toggle: (what: 'mute' | 'solo') => void;
};

export function timelineCommands({
  edits,
  span,
  zoom,
  findBleed,
  newLane,
  rowBy,
  toRow,
  heights,
  hasRows,
  toggle,
  find
}: Means): readonly KeyedCommand[] {
  const { some } = edits;
  const rowsOrClips = () => some() || edits.rows().length > 0;
  return [
    { title: 'Cut at the playhead, or at both ends of the range', group: 'Clips', keys: 'k', key: 'k', run: edits.cut, when: rowsOrClips },
    {
      title: 'Take clips or the range out',
      group: 'Clips',
      keys: 'Del',
      key: 'Delete',
      run: edits.takeOut,
      when: () => some() || (edits.range !== null && edits.rows().length > 0)
    },
    { title: 'Fade in up to the playhead', group: 'Clips', keys: 'i', key: 'i', run: () => edits.fadeTo('in'), when: some },
    { title: 'Fade out from the playhead', group: 'Clips', keys: 'o', key: 'o', run: () => edits.fadeTo('out'), when: some },
    { title: 'Begin at the playhead', group: 'Clips', keys: 'q', key: 'q', run: () => edits.trimTo('start'), when: some },
    { title: 'End at the playhead', group: 'Clips', keys: 'w', key: 'w', run: () => edits.trimTo('end'), when: some },
    { title: 'Cross clips that meet', group: 'Clips', keys: 'x', key: 'x', run: edits.join, when: some },
    { title: 'Reunite pieces', group: 'Clips', keys: 'u', key: 'u', run: edits.reunite, when: some },
    { title: 'Duplicate clips behind themselves', group: 'Clips', keys: 'd', key: 'd', run: edits.duplicate, when: some },
    {
      title: 'Mute clips, or rows',
      group: 'Clips',
      keys: 'm',
      key: 'm',
      run: () => (some() ? edits.mute() : toggle('mute')),
      when: () => some() || hasRows()
    },
    { title: 'Solo', group: 'Levels', keys: 's', key: 's', run: () => toggle('solo'), when: hasRows },
    { title: 'Move clips earlier by a step', group: 'Clips', keys: '<', key: '<', run: () => edits.nudge(-1, 'snap'), when: some },
    { title: 'Move clips later by a step', group: 'Clips', keys: '>', key: '>', run: () => edits.nudge(1, 'snap'), when: some },
    { title: 'Move clips earlier by a millisecond', group: 'Clips', keys: '{', key: '{', run: () => edits.nudge(-1, 'ms'), when: some },
    { title: 'Move clips later by a millisecond', group: 'Clips', keys: '}', key: '}', run: () => edits.nudge(1, 'ms'), when: some },
    { title: 'Move clips earlier by a frame', group: 'Clips', keys: '[', key: '[', run: () => edits.nudge(-1, 'frame'), when: some },
    { title: 'Move clips later by a frame', group: 'Clips', keys: ']', key: ']', run: () => edits.nudge(1, 'frame'), when: some },
    { title: 'Find bleed…', group: 'Clips', keys: 'b', key: 'b', run: findBleed, when: () => edits.rows().length > 0 },
    { title: 'New lane…', group: 'Clips', keys: 'a', key: 'a', run: newLane },
    {
      title: 'Range begins at the playhead',
      group: 'Clips',
      keys: '(',
      key: '(',
      run: () => edits.rangeAt('from'),
      when: () => edits.rows().length > 0
    },
    {
      title: 'Range ends at the playhead',
      group: 'Clips',
      keys: ')',
      key: ')',
      run: () => edits.rangeAt('to'),
      when: () => edits.rows().length > 0
    },
    { title: 'Move clips to the track above', group: 'Clips', keys: 'Alt+↑', run: () => toRow(-1), when: some },
    { title: 'Move clips to the track below', group: 'Clips', keys: 'Alt+↓', run: () => toRow(1), when: some },
    { title: 'Marker at the playhead', group: 'Clips', keys: 'p', key: 'p', run: edits.mark },
    { title: 'New range', group: 'Clips', keys: 'g', key: 'g', run: edits.newRange },
    { title: 'Loop the selection, or no longer', group: 'Playing', keys: 'y', key: 'y', run: edits.loop },
    {
      title: 'Select what is under the playhead',
      group: 'Selection',
      keys: 'Enter',
      key: 'Enter',
      run: edits.selectUnder,
      when: () => edits.rows().length > 0
    },
    { title: 'Clear selection', group: 'Selection', keys: 'Esc', key: 'Escape', run: edits.clear },
    { title: 'Edge before', group: 'Moving about', keys: ',', key: ',', run: () => edits.toEdge(-1) },
    { title: 'Edge after', group: 'Moving about', keys: '.', key: '.', run: () => edits.toEdge(1) },
    {
      title: 'Step back',
      group: 'Moving about',
      keys: '← · Shift: ms · Alt: frame',
      key: 'ArrowLeft',
      run: () => edits.stepPlayhead(-1, 'snap')
    },
    {
      title: 'Step on',
      group: 'Moving about',
      keys: '→ · Shift: ms · Alt: frame',
      key: 'ArrowRight',
      run: () => edits.stepPlayhead(1, 'snap')
    },
    { title: 'Go to a channel…', group: 'Moving about', keys: '/', key: '/', run: find },
    { title: 'Row above', group: 'Moving about', keys: '↑', key: 'ArrowUp', run: () => rowBy(-1) },
    { title: 'Row below', group: 'Moving about', keys: '↓', key: 'ArrowDown', run: () => rowBy(1) },
    { title: 'Closer', group: 'Moving about', keys: '+', key: '+', run: () => zoom(1.6) },
    { title: 'Farther', group: 'Moving about', keys: '−', key: '-', run: () => zoom(1 / 1.6) },
    { title: 'All of the song', group: 'Moving about', keys: '0', key: '0', run: span.all },
    { title: 'Taller rows', group: 'Moving about', keys: 't', key: 't', run: () => heights(1) },
    { title: 'Lower rows', group: 'Moving about', keys: 'Shift+T', key: 'T', run: () => heights(-1) }
  ];
}
